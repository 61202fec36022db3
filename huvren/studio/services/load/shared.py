"""What the processes of one host, and all hosts, share: places that are held as advisory locks of PostgreSQL, and who used how much.

Locks belong to a connection of their own, one a process: they go with it, so that a process that is killed holds nothing any more,
and no transaction of a request, broken off or not, has a part in them. Where the database does not answer, whoever asks for a place
gets one: what they want of it is refused in its own words, and what is decided within a process still holds.
"""

import contextlib
import hashlib
import os
import socket
import threading
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import psycopg

from huvren.studio.services.load.database import opened

MACHINE = os.environ.get("HUVREN_MACHINE") or socket.gethostname()
"""What is one computer: its processes share processors and memory."""
HALF_LIFE_S = 20.0
"""After which half of what somebody used is forgotten."""


@dataclass(frozen=True)
class Place:
    """One place of a kind. connection : the number of the one that holds it, or None where the database did not answer."""

    key: int
    connection: int | None


HERE = int.from_bytes(hashlib.sha256(f"huvren at work on {MACHINE}".encode()).digest()[:4], "big") >> 1
"""The first half of the locks, of two halves each, by which artists are known to be here; the second is who. Not negative."""
COME = f"""
SELECT pg_advisory_lock_shared({HERE}, %(artist)s),
  (SELECT seconds * power(0.5, extract(epoch FROM now() - at) / {HALF_LIFE_S}) FROM studio_worked WHERE artist = %(artist)s)
"""
GO = f"""
WITH worked AS (
  INSERT INTO studio_worked AS w (artist, seconds, at) VALUES (%(artist)s, %(seconds)s, now())
  ON CONFLICT (artist) DO UPDATE SET at = now(),
    seconds = w.seconds * power(0.5, extract(epoch FROM now() - w.at) / {HALF_LIFE_S}) + excluded.seconds)
SELECT pg_advisory_unlock_shared({HERE}, %(artist)s), (SELECT count(pg_advisory_unlock(key)) FROM unnest(%(keys)s::bigint[]) AS key)
"""
FREE = "SELECT key FROM unnest(%s::bigint[]) AS key WHERE pg_try_advisory_lock(key) LIMIT 1"
"""The first that nobody has is taken, and none behind it: rows are looked at one by one, in their order."""
OTHERS = f"""
SELECT count(DISTINCT objid) FROM pg_locks WHERE locktype = 'advisory' AND objsubid = 2 AND classid = {HERE}::oid AND objid <> %s::oid
  AND database = (SELECT oid FROM pg_database WHERE datname = current_database())
"""


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

    def _asked(self, question: str, values: Sequence[object] | Mapping[str, object]) -> tuple[Any, ...]:
        """The first row, or an empty one. Raises `psycopg.Error`, after which nothing is held any more."""
        if self._process != os.getpid():
            # A process that was forked holds nothing, and the connection is not its own.
            self._connection, self._process, self._held = None, os.getpid(), set()
        try:
            if self._connection is None or self._connection.closed:
                self._number += 1
                self._held = set()
                self._connection = opened("shared", connect_s=3, statement_ms=2000, is_passing=True)
            asked = self._connection.execute(question, values)
            return asked.fetchone() or ()
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
            keys = [key for number in range(count) if (key := _key(f"{name} {number}")) not in self._held]
            if not keys:
                return None
            try:
                taken = self._asked(FREE, [keys])
            except psycopg.Error:
                return Place(0, None)
            if not taken:
                return None
            self._held.add(taken[0])
            return Place(taken[0], self._number)

    def give_back(self, place: Place) -> None:
        """Somebody else may have it."""
        with self._lock:
            if self._let_go([place]):
                with contextlib.suppress(psycopg.Error):
                    self._asked("SELECT pg_advisory_unlock(%s)", [place.key])

    def _let_go(self, places: Sequence[Place]) -> list[int]:
        """The keys of those that are held by this connection, which are not from now on."""
        keys = [place.key for place in places if place.connection == self._number and place.key in self._held]
        self._held.difference_update(keys)
        return keys

    def come(self, artist: int) -> float:
        """An artist waits for a place on this computer, or has one, until `go`; as often as they come they have to go.

        Returns the seconds that they were at work lately in heavy requests, anywhere.
        """
        with self._lock:
            try:
                return (self._asked(COME, {"artist": artist}) or (None, 0.0))[1] or 0.0
            except psycopg.Error:
                return 0.0

    def go(self, artist: int, seconds: float = 0.0, places: Sequence[Place] = ()) -> None:
        """That is over, and they were at work for so long; the places that they held are given back with it."""
        with self._lock, contextlib.suppress(psycopg.Error):
            self._asked(GO, {"artist": artist, "seconds": seconds, "keys": self._let_go(places)})

    def others(self, artist: int) -> int:
        """How many other artists wait for a place on this computer or have one, in all its processes."""
        with self._lock:
            try:
                return int(self._asked(OTHERS, [artist])[0])
            except psycopg.Error:
                return 0


SHARED = Shared()
