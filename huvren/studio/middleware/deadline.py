"""Every request has a deadline: what takes longer is broken off and answered in words, and the worker begins anew.

One thread watches the requests of a process. When one is late, `TookTooLong` is raised inside its thread, between two steps of
Python; whatever it was in the middle of is undone as by any error, a transaction above all. Kernels run without Python's lock and
psycopg looks up ten times a second, so it is heard within moments. Afterwards the worker ends as soon as its other requests are
answered, since nobody can know in which step of whose code it was.
"""

import ctypes
import logging
import os
import signal
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field

from django.db import connections
from django.http import HttpRequest, HttpResponse

from huvren.studio.bounds import deadline_s
from huvren.studio.middleware import Handler
from huvren.studio.middleware.problems import problem

LOG = logging.getLogger("huvren.deadline")


class TookTooLong(BaseException):
    """Raised in the thread of a request that is late. No handler of ordinary errors catches it."""


@dataclass
class _Running:
    thread: int
    due: float
    was_stopped: bool = False
    is_over: bool = False


class _TakenBack(BaseException):
    """Raised and caught in one place, where a `TookTooLong` may be under way that nobody is to hear any more."""


def _raise_in(thread: int, error: type[BaseException]) -> None:
    ctypes.pythonapi.PyThreadState_SetAsyncExc(ctypes.c_ulong(thread), ctypes.py_object(error))


def _take_back() -> None:
    """Let nothing be raised any more in this thread of what was sent to it.

    Another error takes the place of the one that was sent, and is heard at once. Sending none instead would do as well, but
    leaves CPython 3.11 looking for one at every step from then on, and going round without end under a tracer.
    """
    try:
        _raise_in(threading.get_ident(), _TakenBack)
        while True:
            time.sleep(0)
    except _TakenBack:
        pass


@dataclass
class Watchman:
    """Stops what is late, by a thread that is started with the first request of a process."""

    _by_key: dict[int, _Running] = field(default_factory=dict)
    _lock: threading.Condition = field(default_factory=threading.Condition)
    _process: int = 0

    def _watch(self) -> None:
        while True:
            with self._lock:
                now = time.monotonic()
                for entry in self._by_key.values():
                    if entry.due <= now and not entry.was_stopped and not entry.is_over:
                        entry.was_stopped = True
                        _raise_in(entry.thread, TookTooLong)
                waiting = [entry.due for entry in self._by_key.values() if not entry.was_stopped]
                self._lock.wait(max(min(waiting) - now, 0.01) if waiting else None)

    def begin(self, seconds: float) -> _Running:
        with self._lock:
            if self._process != os.getpid():
                self._process = os.getpid()
                threading.Thread(target=self._watch, name="deadlines", daemon=True).start()
            entry = _Running(threading.get_ident(), time.monotonic() + seconds)
            self._by_key[id(entry)] = entry
            self._lock.notify()
            return entry

    def end(self, entry: _Running) -> None:
        """In the thread that began it. After this nothing is raised any more: what was sent and not yet heard is taken back."""
        with self._lock:
            entry.is_over = True
            del self._by_key[id(entry)]
            if entry.was_stopped:
                _take_back()


WATCHMAN = Watchman()


def begin_anew() -> None:
    """Let this worker end once its other requests are answered; gunicorn starts another. Nothing where there is no such master."""
    if os.environ.get("HUVREN_WORKER"):
        os.kill(os.getpid(), signal.SIGTERM)


class Deadline:
    def __init__(self, handler: Handler, *, after: Callable[[], None] = begin_anew) -> None:
        self.handler = handler
        self.after = after

    def __call__(self, request: HttpRequest) -> HttpResponse:
        seconds = deadline_s(request.path)
        entry = WATCHMAN.begin(seconds)
        try:
            try:
                return self.handler(request)
            finally:
                WATCHMAN.end(entry)
        except TookTooLong:
            LOG.error("broken off after its deadline: %s %s", request.method, request.path[:200])
            # A connection that was broken off in the middle of a question is of no use to anybody else.
            connections.close_all()
            self.after()
            return problem(
                503, "took_too_long",
                f"That would have taken longer than {seconds:.0f} seconds, so it was broken off. Nothing was changed. "
                "Take a smaller picture or fewer swatches at once.",
            )  # fmt: skip
