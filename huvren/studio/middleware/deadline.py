"""Every request has a deadline: what takes longer is broken off and answered in words, and the process goes on.

The deadline begins when the work does, behind the lane. Work looks up between its steps (`core.progress.look_up`: before each kernel,
each conversion, each line that is read, each question to the database) and breaks itself off where nothing is half done; whatever it
was in the middle of is undone as by any error, a transaction above all. A question that the database is at work on is called off.
What still goes on some seconds later cannot be broken off: its process hands over to another one and ends (`services.load.handover`).
"""

import logging
import os
import re
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import partial
from typing import Any

import psycopg
from django.db import connection, connections, transaction
from django.http import HttpRequest, HttpResponse

from huvren.core.progress import TookTooLong, due_in, grant, look_up
from huvren.studio.bounds import GRACE_S, deadline_s
from huvren.studio.middleware import Handler
from huvren.studio.middleware.problems import problem
from huvren.studio.services.load.handover import leave_once

LOG = logging.getLogger("huvren.deadline")
CALLING_OFF_S = 2.0
UNMADE = "Nothing was changed. Take a smaller picture or fewer swatches at once."
MADE = "It may be made all the same: load the page anew and look before you make it again."


@dataclass
class _Running:
    due: float
    database: Any
    """Django's connection of its thread."""
    was_called_off: bool = False
    was_given_up: bool = False
    is_made: bool = False
    """Whether something of it is committed."""

    def next_s(self, grace_s: float) -> float | None:
        """When something is to be done about it, by the monotonic clock."""
        return self.due if not self.was_called_off else self.due + grace_s if not self.was_given_up else None


@dataclass
class Watchman:
    """Calls off questions of what is late, and gives up what goes on all the same, in a thread that begins with the first request."""

    give_up: Callable[[], None]
    grace_s: float
    _by_key: dict[int, _Running] = field(default_factory=dict)
    _lock: threading.Condition = field(default_factory=threading.Condition)
    _process: int = 0

    def _watch(self) -> None:
        late = list[Any]()
        while True:
            with self._lock:
                now = time.monotonic()
                for entry in self._by_key.values():
                    at = entry.next_s(self.grace_s)
                    if at is None or at > now:
                        continue
                    if not entry.was_called_off:
                        entry.was_called_off = True
                        # The one of now: by the time it is called off the thread may ask for somebody else, on another.
                        late.append(entry.database.connection)
                    else:
                        entry.was_given_up = True
                        LOG.error("what is late cannot be broken off: this process hands over")
                        self.give_up()
                waiting = [at for entry in self._by_key.values() if (at := entry.next_s(self.grace_s)) is not None]
                if not late:
                    self._lock.wait(max(min(waiting) - now, 0.01) if waiting else None)
            # Nobody waits for a database that does not answer.
            while late:
                _call_off(late.pop())

    def begin(self, seconds: float, database: Any) -> _Running:
        with self._lock:
            if self._process != os.getpid():
                self._process = os.getpid()
                threading.Thread(target=self._watch, name="deadlines", daemon=True).start()
            entry = _Running(time.monotonic() + seconds, database)
            self._by_key[id(entry)] = entry
            self._lock.notify()
            return entry

    def made(self, entry: _Running, seconds: float) -> None:
        """Something of it is committed: the answer that says so has so long from now, once, and unless it is called off already."""
        with self._lock:
            if entry.is_made or entry.was_called_off:
                entry.is_made = True
                return
            entry.is_made, entry.due = True, time.monotonic() + seconds
        grant(seconds)

    def end(self, entry: _Running) -> None:
        """After this nothing of it is called off any more."""
        with self._lock:
            del self._by_key[id(entry)]


def _call_off(asked: Any) -> None:
    """Have the database break off what it is at work on for a connection of psycopg, where there is one and it is."""
    if asked is None:
        return
    try:
        asked.cancel_safe(timeout=CALLING_OFF_S)
    except (psycopg.Error, OSError) as error:
        LOG.warning("a question could not be called off: %s", error)


_CHANGES = re.compile(r"\s*(?:INSERT INTO|UPDATE|DELETE FROM)\s+\"?studio_(?!asked|worked|signedin|failedsignin|storedbytes)")
"""What an artist would call a change: not that one has asked, and not bytes that nothing names yet."""


def _looking_up(made: Callable[[], None], execute: Callable[..., Any], sql: Any, *parts: Any) -> Any:
    """Around each question to the database; what is late still takes back what it has done.

    made : called once a change is committed.
    """
    if not str(sql).startswith("ROLLBACK"):
        look_up()
    answer = execute(sql, *parts)
    if _CHANGES.match(str(sql)):
        transaction.on_commit(made)
    return answer


class Deadline:
    def __init__(self, handler: Handler, *, give_up: Callable[[], None] = leave_once, grace_s: float = GRACE_S) -> None:
        self.handler = handler
        self.watchman = Watchman(give_up, grace_s)

    def __call__(self, request: HttpRequest) -> HttpResponse:
        seconds = deadline_s(request.path)
        entry = self.watchman.begin(seconds, connections["default"])
        try:
            made = partial(self.watchman.made, entry, seconds)
            with due_in(seconds), connection.execute_wrapper(partial(_looking_up, made)):
                response = self.handler(request)
                is_late = entry.was_called_off and response.status_code >= 500
        except TookTooLong:
            is_late = True
        finally:
            self.watchman.end(entry)
        if entry.was_called_off:
            # What was called off late may hit the next question: of somebody else, on this connection.
            connections.close_all()
        if not is_late:
            return response
        LOG.error("broken off after its deadline: %s %s", request.method, request.path[:200])
        return problem(
            503, "took_too_long",
            f"That would have taken longer than {seconds:.0f} seconds, so it was broken off. " + (MADE if entry.is_made else UNMADE),
        )  # fmt: skip
