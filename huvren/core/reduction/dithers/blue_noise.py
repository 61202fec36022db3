"""Blue noise: an ordered dither whose thresholds are spread as evenly as they can be without a pattern.

The tile is made by void and cluster (Ulichney 1993); `tools/blue_noise.py` makes it anew.
"""

from functools import cache
from pathlib import Path

import numpy as np

from huvren.core.color.arrays import Integers
from huvren.core.reduction.dithers.dither import DITHERS, Dither
from huvren.core.reduction.dithers.ordered import lay_out_with

FILE = Path(__file__).with_name("blue_noise_64.npy")


@cache
def tile() -> Integers:
    """(64, 64) uint16, each of 0 .. 4095 once.

    Returns
    -------
    Integers
        (64, 64) uint16.
    """
    return np.asarray(np.load(FILE, allow_pickle=False))


DITHERS.register(
    Dither(
        "blue-noise", "blue noise", "Even grain without a pattern that stays put from frame to frame.", True,
        lambda target: lay_out_with(target, tile()), is_mixing=True, matrix=tile,
    )
)  # fmt: skip
