"""Most different: each next color is the one farthest from all before (Gonzalez 1985); rare accents survive."""

import numpy as np

from huvren.core.color.arrays import Bytes
from huvren.core.compiled import njit
from huvren.core.reduction.choosers.chooser import CHOOSERS, Brief, Chooser, oklab_to_bytes


@njit(cache=True)
def _farthest(places, gaps, start, count):
    """Places of `count` points, `start` first unless it is negative; `gaps` holds squared distances to colors present."""
    chosen = np.empty(count, dtype=np.int64)
    found = 0
    following = start
    while found < count:
        if following < 0:
            following = np.argmax(gaps)
            if gaps[following] <= 0:
                break
        chosen[found] = following
        found += 1
        x, y, z = places[following, 0], places[following, 1], places[following, 2]
        for row in range(places.shape[0]):
            span = (places[row, 0] - x) ** 2 + (places[row, 1] - y) ** 2 + (places[row, 2] - z) ** 2
            if span < gaps[row]:
                gaps[row] = span
        following = -1
    return chosen[:found]


def choose(brief: Brief) -> Bytes:
    """Begins with the heaviest point where no color is there yet.

    Parameters
    ----------
    brief : Brief
        What is asked for: points, weights, count and what is present.

    Returns
    -------
    Bytes
        (k, 3) uint8, besides those present.
    """
    places = np.asarray(brief.points.places, dtype=np.float32)
    gaps = np.full(len(places), np.inf, dtype=np.float32)
    for color in brief.present:
        gaps = np.minimum(gaps, ((places - np.asarray(color, dtype=np.float32)) ** 2).sum(axis=1))
    start = int(brief.points.weights.argmax()) if len(brief.present) == 0 else -1
    return oklab_to_bytes(places[_farthest(places, gaps, start, brief.count)])


CHOOSERS.register(
    Chooser("most-different", "most different", "Colors as far apart as can be: small accents survive, glows do not.", choose)
)
