"""How much may be decoded and worked with at once in a process: the next one waits, and is told where that would take long."""

import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager

from huvren.core.progress import look_up
from huvren.studio.errors import Busy

WAIT_S = 8.0


class Gate:
    """Lets work through whose bytes together stay within a number; what needs more than that goes alone."""

    def __init__(self, most_bytes: int, wait_s: float = WAIT_S) -> None:
        self.most_bytes = most_bytes
        self.wait_s = wait_s
        self._inside = 0
        self._turn = threading.Condition()
        self._held = threading.local()

    @contextmanager
    def enter(self, wanted: int) -> Iterator[None]:
        """Hold so many bytes. Whoever is inside already goes on. Raises `Busy` where it is still another's turn after a while."""
        if getattr(self._held, "is_inside", False):
            yield
            return
        share = min(wanted, self.most_bytes)
        due = time.monotonic() + self.wait_s
        with self._turn:
            while self._inside + share > self.most_bytes:
                left = due - time.monotonic()
                if left <= 0:
                    raise Busy("The server is at work on other large pictures. Nothing was changed; try again in a moment.")
                look_up()
                self._turn.wait(min(left, 0.5))
            self._inside += share
        self._held.is_inside = True
        try:
            yield
        finally:
            self._held.is_inside = False
            with self._turn:
                self._inside -= share
                self._turn.notify_all()


GATE = Gate(700 * 1024 * 1024)
