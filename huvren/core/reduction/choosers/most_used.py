"""Most used: the picture's exact colors with the most pixels."""

import numpy as np

from huvren.core.color.arrays import Bytes, Floats
from huvren.core.reduction.choosers.chooser import CHOOSERS, Brief, Chooser


def color_weights(brief: Brief) -> Floats:
    """(d,) weight of each distinct color: its pixels, scaled as its point was.

    Parameters
    ----------
    brief : Brief
        What is asked for: points, weights, count and what is present.

    Returns
    -------
    Floats
        (d,) weight of each distinct color.
    """
    histogram, points = brief.histogram, brief.points
    known = points.bin_of >= 0
    per_point = np.bincount(points.bin_of[known], weights=histogram.counts[known], minlength=len(points.weights))
    factor = points.weights / np.maximum(per_point, 1e-12)
    return np.where(known, histogram.counts * factor[np.maximum(points.bin_of, 0)], 0)


def choose(brief: Brief) -> Bytes:
    """The heaviest first; ties in the order of the colors' codes.

    Parameters
    ----------
    brief : Brief
        What is asked for: points, weights, count and what is present.

    Returns
    -------
    Bytes
        (k, 3) uint8, besides those present.
    """
    weights = color_weights(brief)
    # As many more as there are colors already: some of the heaviest may be among them.
    wanted = np.argsort(-weights, kind="stable")[: brief.count + len(brief.present)]
    return brief.histogram.rgb()[wanted[weights[wanted] > 0]]


CHOOSERS.register(
    Chooser("most-used", "most used", "The exact colors with the most pixels; right for flat art with clean areas.", choose)
)
