"""Whether work can be done: asked apart from the requests' own connections, and answered in time whatever is down."""

import os
import shutil
import threading
import time
from dataclasses import dataclass
from pathlib import Path

import psycopg
from django.conf import settings

from huvren.studio.services.load.database import opened
from huvren.studio.services.load.handover import present
from huvren.studio.services.load.preparing import is_alive

OK = "ok"
ANSWER_WITHIN_S = 0.8
LEAST_FREE = 200 * 1024 * 1024
QUIET_AFTER_S = 30
LOOK = """
SELECT (SELECT count(*) FROM procrastinate_jobs WHERE status = 'todo'),
       (SELECT count(*) FROM procrastinate_workers WHERE last_heartbeat > now() - %s * interval '1 second'),
       CASE WHEN pg_has_role('pg_read_all_settings', 'member') THEN current_setting('data_directory') END
"""
WRITE = """
INSERT INTO studio_asked AS a (key, minute, count) VALUES ('readiness', 0, 1) ON CONFLICT (key) DO UPDATE SET count = 1 - a.count
"""
"""A row that is written anew with each look: a database whose disk is full, or that only reads, answers questions all the same."""


@dataclass(frozen=True)
class Found:
    """Each part says “ok” or what is wrong with it."""

    database: str
    queue: str
    disk: str
    heavy: str

    @property
    def is_ready(self) -> bool:
        """Whether pages and palettes work; work of the queue may wait for a worker."""
        return self.database == self.disk == self.heavy == OK


class _Looking:
    """One look at the database at a time, in a thread of its own: one that hangs is not joined by others."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._done = threading.Event()
        self._is_looking = False
        self._said = ("not asked yet", "not asked yet", OK)

    def answers(self, within_s: float) -> tuple[str, str, str]:
        with self._lock:
            if not self._is_looking:
                self._is_looking = True
                self._done = threading.Event()
                threading.Thread(target=self._ask, args=(self._done,), name="readiness", daemon=True).start()
            done = self._done
        return self._said if done.wait(within_s) else ("does not answer", "not known", OK)

    def _ask(self, done: threading.Event) -> None:
        try:
            self._said = _database()
        except Exception as error:
            self._said = (f"does not answer: {type(error).__name__}", "not known", OK)
        finally:
            self._is_looking = False
            done.set()


def is_of_this_computer(host: str) -> bool:
    """Whether a database at this address lies on a disk of ours: on loopback, or behind a socket in a folder."""
    return host in ("", "localhost") or host.startswith(("/", "127.")) or host == "::1"


def _database() -> tuple[str, str, str]:
    """How it answers, whether its queue is worked on, and the disk that it lies on, where that is one of this computer."""
    with opened("readiness", connect_s=2, statement_ms=2000) as connection:
        waiting, workers, folder = connection.execute(LOOK, [QUIET_AFTER_S]).fetchone() or (0, 0, None)
        try:
            connection.execute(WRITE)
            said = OK
        except psycopg.Error as error:
            said = f"cannot be written to: {type(error).__name__}"
    is_ours = folder and is_of_this_computer(str(settings.DATABASES["default"]["HOST"])) and Path(folder).exists()
    disk = _disk(Path(folder), "the database's") if is_ours else OK
    return said, OK if workers else f"no worker takes jobs; {waiting} wait", disk


_LOOKING = _Looking()


def _disk(folder: Path, whose: str) -> str:
    try:
        free = shutil.disk_usage(folder).free
    except OSError as error:
        return f"{whose} disk cannot be looked at: {error.strerror}"
    return OK if free >= LEAST_FREE else f"{whose} disk has only {free // 1048576} MB free"


def _heavy() -> str:
    """Whether a process of this computer takes pictures and reductions, where those go to processes of their own."""
    folder = os.environ.get("HUVREN_HEAVY")
    return OK if not folder or any(map(is_alive, present(Path(folder)))) else "nobody takes pictures and reductions just now"


def service_state() -> Found:
    """How everything stands now."""
    begun = time.monotonic()
    disk = _disk(settings.STATE if settings.STATE.exists() else Path.cwd(), "this server's")
    database, queue, beneath = _LOOKING.answers(ANSWER_WITHIN_S - (time.monotonic() - begun))
    return Found(database, queue, disk if disk != OK else beneath, _heavy())
