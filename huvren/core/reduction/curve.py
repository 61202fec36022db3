"""How many colors? The error of a picture against the number of colors, from one split tree."""

from dataclasses import dataclass

import numpy as np

from huvren.core.color.arrays import Floats
from huvren.core.color.difference import DELTA_SCALE
from huvren.core.compiled import njit
from huvren.core.reduction.choosers.perceptual import refine, split_tree
from huvren.core.reduction.histogram import Histogram
from huvren.core.reduction.nearest import nearest_centers

COUNTS = (2, 3, 4, 5, 6, 8, 10, 12, 14, 16, 20, 24, 28, 32, 40, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256)
LOOKED_AT = 40_000
"""Distinct colors at most that are measured; more are thinned out evenly."""


@dataclass(frozen=True)
class Curve:
    """counts, mean, p95 : one entry for each number of colors, ΔEOK×100. distinct : colors in the picture.

    knee : the number of colors after which each further one buys little, or None for a picture of few colors
    """

    counts: tuple[int, ...]
    mean: tuple[float, ...]
    p95: tuple[float, ...]
    distinct: int
    knee: int | None


@njit(cache=True)
def _percentile(spans, weights, order, share):
    total = weights.sum()
    passed = 0.0
    for place in order:
        passed += weights[place]
        if passed >= share * total:
            return spans[place]
    return spans[order[-1]]


def knee_of(counts: tuple[int, ...], mean: tuple[float, ...]) -> int | None:
    """The count farthest below the straight line between the ends, the counts taken by their logarithm."""
    if len(counts) < 3 or mean[0] - mean[-1] < 1e-9:
        return None
    x = np.log2(np.array(counts, dtype=float))
    x = (x - x[0]) / (x[-1] - x[0])
    y = (np.array(mean) - mean[-1]) / (mean[0] - mean[-1])
    return counts[int((1 - x - y).argmax())]


def error_curve(histogram: Histogram, settled: bool = False) -> Curve:
    """Mean and 95th percentile error of the undithered picture for 2 to 256 colors.

    The colors are the means of a split tree's boxes; with `settled` they are refined as a reduction would, which is
    slower and a little lower.
    """
    points = histogram.points
    few = slice(None, None, max(1, histogram.distinct // LOOKED_AT))
    colors: Floats = histogram.oklab[few]
    weights = histogram.counts[few].astype(np.float64)
    counts, mean, p95 = [], [], []
    if histogram.distinct:
        for count, centers in zip(COUNTS, split_tree(points.places, points.weights, COUNTS), strict=True):
            if settled:
                centers = refine(points.places, points.weights, centers, 0)
            spans = nearest_centers(colors, centers)[1].astype(np.float64) * DELTA_SCALE
            counts.append(count)
            mean.append(float((spans * weights).sum() / weights.sum()))
            p95.append(float(_percentile(spans, weights, np.argsort(spans), 0.95)))
            if count >= histogram.distinct:
                break
    return Curve(tuple(counts), tuple(mean), tuple(p95), histogram.distinct, knee_of(tuple(counts), tuple(mean)))
