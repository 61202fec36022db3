"""How the time of every entry for text grows with the text, by the clock and over several sizes.

That steps do not grow faster than the text is counted by the tests; here it is seen that compiled parts do not either.
"""

import contextlib
import time
from collections.abc import Callable

from huvren.core.errors import HuvrenError
from tests.hostile import HOSTILE, READERS

SIZES = (20_000, 40_000, 80_000, 160_000, 320_000)
LEAST_S = 0.02
"""What takes less is not compared: a clock and a collector of garbage are coarser than that."""
MOST = 3.0


def _seconds(reader: Callable[[str], object], text: str, rounds: int = 3) -> float:
    best = float("inf")
    for _ in range(rounds):
        begun = time.process_time()
        with contextlib.suppress(HuvrenError):
            reader(text)
        best = min(best, time.process_time() - begun)
    return best


def measure(report: Callable[..., None]) -> None:
    """For each entry, the text whose time a letter grows most from the smallest size that can be measured to the largest."""
    for name, reader in READERS.items():
        worst, kind_of_worst, longest = 0.0, "none", 0.0
        for kind, make in HOSTILE.items():
            texts = [make(size) for size in SIZES]
            seconds = [_seconds(reader, text) for text in texts]
            longest = max(longest, seconds[-1])
            per_letter = [took / len(text) for took, text in zip(seconds, texts, strict=True) if took >= LEAST_S]
            if len(per_letter) > 1 and per_letter[-1] / per_letter[0] > worst:
                worst, kind_of_worst = per_letter[-1] / per_letter[0], kind
        said = f"longest {longest * 1e3:.0f} ms; worst: {kind_of_worst}"
        report(f"growth, {name}, time a letter, 320,000 / fewer letters", said, worst, MOST)
