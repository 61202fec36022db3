"""How much a function does, counted: no clock, so that the answer is the same on any machine at any hour.

Counted are lines of Python that run, calls from them, and letters that methods of a text pass over. What happens inside compiled
code is not seen here; how long that takes over several sizes is a row of `./run bench growth`.
"""

import contextlib
import gc
import sys
from collections.abc import Callable, Iterator
from types import FrameType
from typing import Any


class Counter:
    """Steps so far."""

    def __init__(self) -> None:
        self.steps = 0

    def line(self, frame: FrameType, event: str, argument: Any) -> Any:
        self.steps += 1
        return self.line

    def call(self, frame: FrameType, event: str, argument: Any) -> None:
        self.steps += event == "c_call"


@contextlib.contextmanager
def counting() -> Iterator[Counter]:
    """Counts what runs inside of it."""
    counter = Counter()
    traced, profiled = sys.gettrace(), sys.getprofile()
    Visited.counter = counter
    # What is called back after a collection is no step of what is counted, and when one comes is luck.
    collects = gc.isenabled()
    gc.disable()
    sys.settrace(counter.line)
    sys.setprofile(counter.call)
    try:
        yield counter
    finally:
        if collects:
            gc.enable()
        sys.setprofile(profiled)
        sys.settrace(traced)
        Visited.counter = None


def steps_of(work: Callable[[], object], *, ignoring: type[Exception] = ZeroDivisionError) -> int:
    """Steps of one call; an error of the kind that is ignored ends it as well as a result does."""
    with counting() as counter, contextlib.suppress(ignoring):
        work()
    return counter.steps


class Visited(str):
    """A text whose methods count the letters that they look at, and whose pieces do so too."""

    counter: Counter | None = None
    __slots__ = ()
    __hash__ = str.__hash__

    def __eq__(self, other: object) -> bool:
        self._count(len(self) if isinstance(other, str) and len(other) == len(self) else 1)
        return str.__eq__(self, other)

    def __getitem__(self, at: Any) -> str:
        piece = str.__getitem__(self, at)
        self._count(len(piece))
        return Visited(piece) if isinstance(at, slice) else piece

    def __contains__(self, part: object) -> bool:
        return self.find(str(part)) >= 0

    def find(self, part: str, begin: Any = 0, end: Any = None, /) -> int:
        at = str.find(self, part, begin, end)
        first, last, _ = slice(begin, end).indices(len(self))
        self._count((at if at >= 0 else max(first, last)) - first + 1)
        return at

    def index(self, part: str, begin: Any = 0, end: Any = None, /) -> int:
        at = self.find(part, begin, end)
        if at < 0:
            raise ValueError("substring not found")
        return at

    def count(self, part: str, begin: Any = 0, end: Any = None, /) -> int:
        first, last, _ = slice(begin, end).indices(len(self))
        self._count(max(0, last - first))
        return str.count(self, part, begin, end)

    def startswith(self, part: Any, begin: Any = 0, end: Any = None, /) -> bool:
        self._count(1)
        return str.startswith(self, part, begin, end)

    @classmethod
    def _count(cls, letters: int) -> None:
        if cls.counter:
            cls.counter.steps += letters


def _passing_over_all(name: str) -> Callable[..., Any]:
    plain = getattr(str, name)

    def method(self: Visited, *arguments: Any, **named: Any) -> Any:
        self._count(len(self))
        given = plain(self, *arguments, **named)
        if isinstance(given, str):
            return Visited(given)
        if isinstance(given, list | tuple):
            return type(given)(Visited(piece) for piece in given)
        return given

    return method


for _name in (
    "lower", "upper", "casefold", "strip", "lstrip", "rstrip", "split", "rsplit", "splitlines", "partition", "rpartition", "replace",
    "translate", "removeprefix", "removesuffix", "isprintable", "isalpha", "isalnum", "isdigit", "isspace", "encode", "rfind",
):  # fmt: skip
    setattr(Visited, _name, _passing_over_all(_name))
