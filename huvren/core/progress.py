"""Progress of long work: whoever starts it may watch it, call it off, and say until when it has to be done."""

import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager

Watch = Callable[[str, float], None]
"""Called with what is done next, in words, and the share 0..1 that is done; raises `Cancelled` to end the work."""

Hurry = Callable[[], bool]
"""Asked between steps whether to be quick from now on; once it says so the work may be a sketch of what it would have been."""


class TookTooLong(BaseException):
    """The time for a piece of work is over. No handler of ordinary errors catches it."""


class _Due(threading.local):
    at: float | None = None
    """When the work of this thread has to be done, by the monotonic clock."""


_DUE = _Due()


def look_up() -> None:
    """Look whether there is still time. Work does so between its steps, wherever nothing is half done. Raises `TookTooLong`."""
    if _DUE.at is not None and time.monotonic() > _DUE.at:
        raise TookTooLong


@contextmanager
def due_in(seconds: float) -> Iterator[None]:
    """What this thread does within has so long; what has less already keeps it."""
    before, due = _DUE.at, time.monotonic() + seconds
    _DUE.at = due if before is None else min(before, due)
    try:
        yield
    finally:
        _DUE.at = before


def grant(seconds: float) -> None:
    """Give what this thread does so long from now on, whatever it had; where it has no end nothing changes."""
    if _DUE.at is not None:
        _DUE.at = time.monotonic() + seconds


def never() -> bool:
    """For work that takes the time it takes."""
    return False


def at_once() -> bool:
    """For work that is quick from the beginning."""
    return True


def unwatched(step: str, share: float) -> None:
    """For work that nobody watches; it still looks up."""
    del step, share
    look_up()


def part_of(watch: Watch, start: float, end: float) -> Watch:
    """A watch for a part of the work, whose 0..1 lies between `start` and `end` of the whole."""
    return lambda step, share: watch(step, start + (end - start) * share)
