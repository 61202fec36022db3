"""Progress of long work: whoever starts it may watch it, and call it off."""

from collections.abc import Callable

Watch = Callable[[str, float], None]
"""Called with what is done next, in words, and the share 0..1 that is done; raises `Cancelled` to end the work."""


def unwatched(step: str, share: float) -> None:
    """For work that nobody waits for."""
    del step, share


def part_of(watch: Watch, start: float, end: float) -> Watch:
    """A watch for a part of the work, whose 0..1 lies between `start` and `end` of the whole."""
    return lambda step, share: watch(step, start + (end - start) * share)
