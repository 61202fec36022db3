"""Heavy requests go in a lane: few at a time on a computer, and in turn of who has used it least.

So what is light is answered meanwhile, and whoever asks for very much waits behind everybody who asks for little. All processes of a
computer have one lane, and what somebody used is known to all computers (`shared.py`): who used much lately is inside once at a time,
however many processes and computers there are, in a place beside the others, which are for those who used little: one long request
after the other takes none of theirs.
"""

import os
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field

from huvren.studio.services.load.shared import HALF_LIFE_S, MACHINE, SHARED, Place, Shared

AT_ONCE = int(os.environ.get("HUVREN_LANES") or max(2, os.cpu_count() or 2))
WAIT_S = 15.0
MUCH_S, ASIDE_S = 6.0, 8.0
"""Seconds inside, of late, beyond which one stands aside while others are there, until half-life has brought it down to them or so
many seconds have gone by."""
LATELY_S = 3.0
"""So long after somebody had to wait the lane counts as wanted."""


class NoTurn(Exception):
    """It did not come to one's turn in time."""


@dataclass
class Lane:
    """Lets so many in at once. Whoever comes is named by a number; several threads may use it."""

    at_once: int = AT_ONCE
    wait_s: float = WAIT_S
    aside_s: float = ASIDE_S
    clock: Callable[[], float] = time.monotonic
    look_s: float = 0.25
    """How often one who waits looks whether it is still worth it, and whether others are there at all."""
    shared: Shared | None = None
    """What it shares with other processes; without it, it is this process's own."""
    asks_s: float = 0.02
    """How often the next of a process asks whether a place is free that all share."""
    _inside: int = 0
    _seen: threading.local = field(default_factory=threading.local)
    """How many others there were when this thread last looked around, within its turn."""
    waiting: list[tuple[int, int]] = field(default_factory=list)
    _number: int = 0
    _came: dict[int, float] = field(default_factory=dict)
    """When those who wait came, by their numbers."""
    _not_before: float = 0.0
    """When the next of this process may ask for a shared place: those of others ask now and then only, and are to get one too."""
    _used: dict[int, tuple[float, float]] = field(default_factory=dict)
    _waited: dict[int, float] = field(default_factory=dict)
    """When somebody last had to wait."""
    _turn: threading.Condition = field(default_factory=threading.Condition)

    def used_s(self, who: int, now: float) -> float:
        """Seconds that somebody was inside lately."""
        seconds, when = self._used.get(who, (0.0, 0.0))
        return float(seconds * 0.5 ** ((now - when) / HALF_LIFE_S))

    def is_wanted(self, by: int = 1, besides: int = -1) -> bool:
        """Whether so many others are here: they wait in this process now, or waited or were inside on this computer when one last
        looked around; for one, whether anybody had to wait in the last seconds. `besides` does not count."""
        if max(sum(who != besides for who, _ in list(self.waiting)), getattr(self._seen, "others", 0)) >= by:
            return True
        since = self.clock() - LATELY_S
        return by == 1 and any(who != besides and when > since for who, when in list(self._waited.items()))

    def look_around(self, who: int) -> None:
        """See anew how many others are here, in all processes of the computer, within one's turn."""
        self._seen.others = self.shared.others(who) if self.shared else 0

    def _is_next(self, mine: tuple[int, int]) -> bool:
        now = self.clock()

        def due(entry: tuple[int, int]) -> tuple[float, int]:
            # What was used lately is waited for, and no more than that: nobody who came later for ever goes first.
            return self._came.get(entry[1], 0.0) + self.used_s(entry[0], now), entry[1]

        return self._inside < self.at_once + (self.shared is not None) and mine == min(self.waiting, key=due)

    def _has_places(self, who: int, held: list[Place]) -> bool:
        """Take what all processes share, where it is free: a place of this computer's; who used much, the one that is theirs and the
        one for all such, or where that is taken one of the others, of which the last is left."""
        if self.shared is None:
            return True
        if self.clock() < self._not_before:
            return False
        choices = [[(f"lane {MACHINE}", self.at_once)]]
        if self.used_s(who, self.clock()) > MUCH_S:
            choices = [[(f"artist {who}", 1)], [(f"much {MACHINE}", 1), (f"lane {MACHINE}", self.at_once - 1)]]
        for names in choices:
            place = next((place for name, count in names if (place := self.shared.take(name, count)) is not None), None)
            if place is None:
                self._give_back(held)
                return False
            held.append(place)
        return True

    def _give_back(self, held: list[Place]) -> None:
        while self.shared and held:
            self.shared.give_back(held.pop())

    def _stand_aside(self, who: int) -> None:
        """Whoever was inside for long lately lets others go on for a while first, where there are any, in whichever process."""
        until = self.clock() + self.aside_s
        while (now := self.clock()) < until and self.used_s(who, now) > MUCH_S and self._are_others_here(who):
            self._turn.wait(self.look_s)

    def _are_others_here(self, who: int) -> bool:
        if self._inside or self.waiting:
            return True
        return self.shared is not None and self.shared.others(who) > 0

    @contextmanager
    def turn_of(self, who: int) -> Iterator[None]:
        """Wait for one's turn and hold it. Raises `NoTurn`."""
        held, taken_s = list[Place](), 0.0
        used_s = self.shared.come(who) if self.shared else None
        try:
            self._wait_for(who, used_s, held)
            begun = self.clock()
            try:
                self.look_around(who)
                yield
            finally:
                self._seen.others = 0
                taken_s = self.clock() - begun
                self._end(who, taken_s)
        finally:
            if self.shared:
                self.shared.go(who, taken_s, held)
            with self._turn:
                self._turn.notify_all()

    def _wait_for(self, who: int, used_s: float | None, held: list[Place]) -> None:
        with self._turn:
            if used_s is not None:
                self._used[who] = (used_s, self.clock())
            self._stand_aside(who)
            self._number += 1
            mine = (who, self._number)
            self.waiting.append(mine)
            self._came[self._number] = self.clock()
            due = self.clock() + self.wait_s
            try:
                while not ((is_next := self._is_next(mine)) and self._has_places(who, held)):
                    self._waited[who] = self.clock()
                    if self.clock() > due:
                        raise NoTurn
                    self._turn.wait(self.asks_s if is_next else self.look_s)
                self._inside += 1
            finally:
                self.waiting.remove(mine)
                self._came.pop(mine[1], None)
                # Whoever is next now may find another place free.
                self._turn.notify_all()

    def _end(self, who: int, taken_s: float) -> None:
        with self._turn:
            self._inside -= 1
            now = self.clock()
            self._not_before = now + self.asks_s if self.waiting else 0.0
            self._used[who] = (self.used_s(who, now) + taken_s, now)
            if len(self._used) > 1000:
                self._used = {key: entry for key, entry in self._used.items() if now - entry[1] < 10 * HALF_LIFE_S}
                self._waited = {key: when for key, when in self._waited.items() if now - when < LATELY_S}


LANE = Lane(shared=SHARED)
