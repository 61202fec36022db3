"""What the processes of one host, and all hosts, share: places that are held as advisory locks of PostgreSQL, and who used how much.

Locks belong to a connection of their own, one a process: they go with it, so that a process that is killed holds nothing any more,
and no transaction of a request, broken off or not, has a part in them. Where the database does not answer, whoever asks for a place
gets one: what they want of it is refused in its own words, and what is decided within a process still holds.
"""

import hashlib
import os
import socket
import threading
from dataclasses import dataclass
from typing import Any

import psycopg

from huvren.studio.services.load.database import opened

MACHINE = os.environ.get("HUVREN_MACHINE") or socket.gethostname()
"""What is one computer: its processes share processors and memory."""
HALF_LIFE_S = 20.0
"""After which half of what somebody used is forgotten."""
USED = f"SELECT seconds * power(0.5, extract(epoch FROM now() - at) / {HALF_LIFE_S}) FROM studio_worked WHERE artist = %s"
ADD = f"""
INSERT INTO studio_worked AS w (artist, seconds, at) VALUES (%s, %s, now())
ON CONFLICT (artist) DO UPDATE SET at = now(),
  seconds = w.seconds * power(0.5, extract(epoch FROM now() - w.at) / {HALF_LIFE_S}) + excluded.seconds
"""


@dataclass(frozen=True)
class Place:
    """One place of a kind. connection : the number of the one that holds it, or None where the database did not answer."""

    key: int
    connection: int | None


def _key(name: str) -> int:
    """The number that stands for a name in all processes: 64 bits of its digest."""
    return int.from_bytes(hashlib.sha256(f"huvren {name}".encode()).digest()[:8], "big", signed=True)


class Shared:
    """One process's part in what all share. Several threads may use it."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._connection: psycopg.Connection[tuple[Any, ...]] | None = None
        self._process = 0
        self._number = 0
        """Of the connection: what an earlier one held is gone."""
        self._held: set[int] = set()

    def _asked(self, question: str, *values: object) -> float | None:
        """The first value of the first row. Raises `psycopg.Error`, after which nothing is held any more."""
        if self._process != os.getpid():
            # A process that was forked holds nothing, and the connection is not its own.
            self._connection, self._process, self._held = None, os.getpid(), set()
        try:
            if self._connection is None or self._connection.closed:
                self._number += 1
                self._held = set()
                self._connection = opened("shared", connect_s=3, statement_ms=2000)
            asked = self._connection.execute(question, values)
            row = asked.fetchone() if asked.description else None
            return None if row is None else row[0]
        except psycopg.Error:
            self.close()
            raise

    def close(self) -> None:
        """Let go of everything; the next question opens a new connection."""
        if self._connection is not None and self._process == os.getpid():
            self._connection.close()
        self._connection, self._held = None, set()

    def take(self, name: str, count: int = 1) -> Place | None:
        """One of `count` places of a name, or None where all of them are taken. One that this process holds is taken too."""
        with self._lock:
            try:
                for number in range(count):
                    key = _key(f"{name} {number}")
                    if key not in self._held and self._asked("SELECT pg_try_advisory_lock(%s)", key):
                        self._held.add(key)
                        return Place(key, self._number)
            except psycopg.Error:
                return Place(0, None)
            return None

    def give_back(self, place: Place) -> None:
        """Somebody else may have it."""
        with self._lock:
            if place.connection != self._number or place.key not in self._held:
                return
            self._held.discard(place.key)
            try:
                self._asked("SELECT pg_advisory_unlock(%s)", place.key)
            except psycopg.Error:
                return

    def used_s(self, artist: int) -> float:
        """Seconds that an artist was at work lately in heavy requests, anywhere."""
        with self._lock:
            try:
                return self._asked(USED, artist) or 0.0
            except psycopg.Error:
                return 0.0

    def add(self, artist: int, seconds: float) -> None:
        """An artist was at work for so long."""
        with self._lock:
            try:
                self._asked(ADD, artist, seconds)
            except psycopg.Error:
                return


SHARED = Shared()
