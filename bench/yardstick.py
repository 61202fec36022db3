"""What a millisecond is worth on this machine, now: budgets in time grow and shrink with it.

The yardstick is a fixed piece of work, some of it in the processor's near memory and some beyond it, timed beside every row that is
judged by time. `QUIET` is what it takes on the machine that the budgets were made for, when nothing else runs. What else is at work
meanwhile is read off the kernel's own counters, and a busy machine is not judged.
"""

import os
import resource
import statistics
import time
from dataclasses import dataclass
from pathlib import Path

import numpy as np

QUIET = 0.00205
"""Seconds of the yardstick, two cores at 2.5 GHz with nothing else at work."""
MOST_OTHERS, MOST_STOLEN = 0.15, 0.05
"""Shares of all processors beyond which a row is not judged: taken by other programs, and by the computer beneath."""
RUNS = 5
TICK = os.sysconf("SC_CLK_TCK")


VALUES = np.random.default_rng(0).random(100_000)
ROOM = np.empty_like(VALUES)
"""Where the work is done: what a process has to ask the system for memory is its own affair."""


def _work() -> float:
    total = 0.0
    for _ in range(2):
        np.copyto(ROOM, VALUES)
        ROOM.sort()
        total += float(ROOM[::997].sum())
        np.cbrt(VALUES, out=ROOM)
        total += float(ROOM.sum())
    return total


def yardstick() -> float:
    """How many times longer the fixed work takes now than on a quiet machine of the kind that budgets are made for."""
    times = []
    for _ in range(RUNS):
        begun = time.perf_counter()
        _work()
        times.append(time.perf_counter() - begun)
    return statistics.median(times) / QUIET


def _counters() -> tuple[float, float, float]:
    """Seconds of all processors so far: at work, taken by the computer beneath, and altogether."""
    ticks = [int(word) for word in Path("/proc/stat").read_text().split("\n", 1)[0].split()[1:9]]
    user, nice, system, idle, waiting, hard, soft, stolen = (count / TICK for count in ticks)
    return user + nice + system + hard + soft, stolen, user + nice + system + idle + waiting + hard + soft + stolen


def _own() -> float:
    """Processor seconds of this process and of those that it has waited for."""
    used = [resource.getrusage(who) for who in (resource.RUSAGE_SELF, resource.RUSAGE_CHILDREN)]
    return sum(one.ru_utime + one.ru_stime for one in used)


@dataclass(frozen=True)
class Meanwhile:
    """What went on since the last row.

    own : processor seconds of the benchmark itself
    others, stolen : shares of all processors that other programs had, and the computer beneath
    """

    own: float
    others: float
    stolen: float

    @property
    def is_busy(self) -> bool:
        return self.others > MOST_OTHERS or self.stolen > MOST_STOLEN

    def __str__(self) -> str:
        words = f"{self.own:.1f} s of processor"
        return f"{words}, others {self.others:.0%}, taken beneath {self.stolen:.0%}" if self.is_busy else words


class Watch:
    """Looks at the counters from row to row.

    Processes of ours that are still at work count as others, unless `serves` says that there are such.
    """

    def __init__(self) -> None:
        self.serves = False
        self._before = (_own(), _counters())

    def since_last(self) -> Meanwhile:
        own, counters = _own(), _counters()
        own_before, before = self._before
        self._before = (own, counters)
        worked, stolen, whole = (now - then for now, then in zip(counters, before, strict=True))
        others = 0.0 if self.serves else max(0.0, worked - (own - own_before))
        return Meanwhile(own - own_before, others / max(whole, 1e-9), stolen / max(whole, 1e-9))


def earlier_rows(written: Path) -> dict[str, float]:
    """The ratios of the file that is checked in, by what was measured; none where there is no file."""
    found: dict[str, float] = {}
    for line in written.read_text().splitlines() if written.exists() else []:
        cells = [cell.strip() for cell in line.strip("|").split("|")]
        if line.startswith("| ") and len(cells) >= 4 and cells[3].startswith("≤"):
            try:
                found.setdefault(cells[0], float(cells[2]))
            except ValueError:
                continue
    return found
