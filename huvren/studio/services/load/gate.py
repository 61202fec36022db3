"""How much may be decoded and worked with at once on a computer: the next one waits, and is told where that would take long."""

import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager

from huvren.core.progress import look_up
from huvren.studio.errors import Busy
from huvren.studio.services.load.shared import MACHINE, SHARED, Place, Shared

WAIT_S = 8.0
PATIENCE_S = 900.0
"""So long a job waits: nobody stands before a page that hangs."""
UNIT_BYTES = 50 * 1024 * 1024
"""In so large pieces the processes of a computer share what it has."""
ASKS_S, COLLECTING_S, ASIDE_S = 0.02, 1.0, 0.2
"""Between two looks whether a piece is free; so long one who collects keeps what others wait for; so long they come first then."""
BUSY = "The server is at work on other large pictures. Nothing was changed; try again in a moment."


class Gate:
    """Lets work through whose bytes together stay within a number; what needs more than that goes alone."""

    def __init__(self, most_bytes: int, wait_s: float = WAIT_S, shared: Shared | None = None) -> None:
        self.most_bytes = most_bytes
        self.wait_s = wait_s
        self.shared = shared
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
        due = time.monotonic() + (PATIENCE_S if getattr(self._held, "is_patient", False) else self.wait_s)
        with self._turn:
            while self._inside + share > self.most_bytes:
                left = due - time.monotonic()
                if left <= 0:
                    raise Busy(BUSY)
                look_up()
                self._turn.wait(min(left, 0.5))
            self._inside += share
        held = list[Place]()
        try:
            self._take(share, held, due)
            self._held.is_inside = True
            yield
        finally:
            self._held.is_inside = False
            while self.shared and held:
                self.shared.give_back(held.pop())
            with self._turn:
                self._inside -= share
                self._turn.notify_all()

    @contextmanager
    def patiently(self) -> Iterator[None]:
        """What this thread does within waits as long as it has to."""
        self._held.is_patient = True
        try:
            yield
        finally:
            self._held.is_patient = False

    def _take(self, share: int, held: list[Place], due: float) -> None:
        """Take the pieces that all processes of this computer share.

        One collects at a time, so that no two wait for each other, and lets go of everything for a moment where it takes long: what
        needs little passes whoever waits for much. Raises `Busy`.
        """
        if self.shared is None:
            return
        count = max(1, self.most_bytes // UNIT_BYTES)
        wanted = 1 + min(count, -(-share // UNIT_BYTES))
        begun = time.monotonic()
        while len(held) < wanted:
            place = self.shared.take(f"memory {MACHINE}", count) if held else self.shared.take(f"memory door {MACHINE}")
            if place is not None:
                begun = begun if held else time.monotonic()
                held.append(place)
                continue
            now = time.monotonic()
            if now > due:
                raise Busy(BUSY)
            look_up()
            is_long = bool(held) and now - begun > COLLECTING_S
            while is_long and held:
                self.shared.give_back(held.pop())
            time.sleep(ASIDE_S if is_long else ASKS_S)
        self.shared.give_back(held.pop(0))


GATE = Gate(700 * 1024 * 1024, shared=SHARED)
