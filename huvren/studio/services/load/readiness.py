"""Whether work can be done: asked apart from the requests' own connections, and answered in time whatever is down."""

import os
import shutil
import threading
import time
from dataclasses import dataclass

import psycopg
from django.conf import settings

OK = "ok"
ANSWER_WITHIN_S = 0.8
LEAST_FREE = 200 * 1024 * 1024
QUIET_AFTER_S = 30
LOOK = """
SELECT (SELECT count(*) FROM procrastinate_jobs WHERE status = 'todo'),
       (SELECT count(*) FROM procrastinate_workers WHERE last_heartbeat > now() - %s * interval '1 second')
"""


@dataclass(frozen=True)
class Found:
    """Each part says “ok” or what is wrong with it."""

    database: str
    queue: str
    disk: str

    @property
    def is_ready(self) -> bool:
        """Whether pages and palettes work; work of the queue may wait for a worker."""
        return self.database == self.disk == OK


class _Looking:
    """One look at the database at a time, in a thread of its own: one that hangs is not joined by others."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._done = threading.Event()
        self._is_looking = False
        self._said = ("not asked yet", "not asked yet")

    def answers(self, within_s: float) -> tuple[str, str]:
        with self._lock:
            if not self._is_looking:
                self._is_looking = True
                self._done = threading.Event()
                threading.Thread(target=self._ask, args=(self._done,), name="readiness", daemon=True).start()
            done = self._done
        return self._said if done.wait(within_s) else ("does not answer", "not known")

    def _ask(self, done: threading.Event) -> None:
        try:
            self._said = _database()
        except Exception as error:
            self._said = (f"does not answer: {type(error).__name__}", "not known")
        finally:
            self._is_looking = False
            done.set()


def _database() -> tuple[str, str]:
    known = {key: str(value) for key, value in settings.DATABASES["default"].items()}
    with psycopg.connect(
        host=known["HOST"], port=known["PORT"], dbname=known["NAME"], user=known["USER"], password=known["PASSWORD"],
        connect_timeout=2, options="-c statement_timeout=2000", application_name="huvren readiness",
    ) as connection:  # fmt: skip
        row = connection.execute(LOOK, [QUIET_AFTER_S]).fetchone()
    waiting, workers = row or (0, 0)
    return OK, OK if workers else f"no worker takes jobs; {waiting} wait"


_LOOKING = _Looking()


def _disk() -> str:
    folder = settings.STATE
    try:
        free = shutil.disk_usage(folder if folder.exists() else os.getcwd()).free
    except OSError as error:
        return f"cannot be looked at: {error.strerror}"
    return OK if free >= LEAST_FREE else f"only {free // 1048576} MB are free"


def service_state() -> Found:
    """How everything stands now."""
    begun = time.monotonic()
    disk = _disk()
    database, queue = _LOOKING.answers(ANSWER_WITHIN_S - (time.monotonic() - begun))
    return Found(database, queue, disk)
