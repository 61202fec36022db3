"""Heavy requests go in a lane: few at a time in a process, and in turn of who has used it least.

So what is light is answered meanwhile, and whoever asks for very much waits behind everybody who asks for little: a lane that is
wanted by nobody else is theirs alone.
"""

import os
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field

AT_ONCE = int(os.environ.get("HUVREN_LANES") or 2)
WAIT_S = 15.0
MUCH_S, ASIDE_S = 8.0, 2.0
"""Seconds inside, of late, from which on one stands aside for some seconds while others are there."""
HALF_LIFE_S = 20.0
"""After which half of what somebody used is forgotten."""


class NoTurn(Exception):
    """It did not come to one's turn in time."""


@dataclass
class Lane:
    at_once: int = AT_ONCE
    wait_s: float = WAIT_S
    aside_s: float = ASIDE_S
    clock: Callable[[], float] = time.monotonic
    look_s: float = 0.25
    """How often one who waits looks whether it is still worth it, and whether others are there at all."""
    _inside: int = 0
    waiting: list[tuple[int, int]] = field(default_factory=list)
    _number: int = 0
    _used: dict[int, tuple[float, float]] = field(default_factory=dict)
    _turn: threading.Condition = field(default_factory=threading.Condition)

    def used_s(self, who: int, now: float) -> float:
        """Seconds that somebody was inside lately."""
        seconds, when = self._used.get(who, (0.0, 0.0))
        return float(seconds * 0.5 ** ((now - when) / HALF_LIFE_S))

    def is_wanted(self) -> bool:
        """Whether somebody waits for a turn."""
        return bool(self.waiting)

    def _is_next(self, mine: tuple[int, int]) -> bool:
        now = self.clock()
        return self._inside < self.at_once and mine == min(self.waiting, key=lambda entry: (self.used_s(entry[0], now), entry[1]))

    def _stand_aside(self, who: int) -> None:
        """Whoever was inside for long lately lets others go on for a while first, where there are any."""
        until = self.clock() + self.aside_s
        while (now := self.clock()) < until and self.used_s(who, now) > MUCH_S and (self._inside or self.waiting):
            self._turn.wait(self.look_s)

    @contextmanager
    def turn_of(self, who: int) -> Iterator[None]:
        """Wait for one's turn and hold it. Raises `NoTurn`."""
        with self._turn:
            self._stand_aside(who)
            self._number += 1
            mine = (who, self._number)
            self.waiting.append(mine)
            due = self.clock() + self.wait_s
            try:
                while not self._is_next(mine):
                    if self.clock() > due:
                        raise NoTurn
                    self._turn.wait(self.look_s)
                self._inside += 1
            finally:
                self.waiting.remove(mine)
        begun = self.clock()
        try:
            yield
        finally:
            with self._turn:
                self._inside -= 1
                now = self.clock()
                self._used[who] = (self.used_s(who, now) + now - begun, now)
                if len(self._used) > 1000:
                    self._used = {key: entry for key, entry in self._used.items() if now - entry[1] < 10 * HALF_LIFE_S}
                self._turn.notify_all()


LANE = Lane()
