"""Metrics: in which space the nearest palette color of each picture color is found."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from huvren.core.color.arrays import Bytes, Floats, Integers
from huvren.core.color.difference import ciede2000
from huvren.core.color.spaces import convert
from huvren.core.compiled import njit, prange
from huvren.core.reduction.histogram import LINEAR_OF_BYTE, Histogram
from huvren.core.reduction.nearest import nearest_centers
from huvren.core.registry import Registry

CANDIDATES = 8
"""Colors nearest in CIELAB among which CIEDE2000 decides."""
CHUNK = 65_536


@dataclass(frozen=True)
class Metric:
    """A way to call two colors near.

    `nearest` : (histogram, (k, 3) uint8, (k, 3) OKLab) → (d,) int32 indices and (d,) distances in OKLab.
    """

    id: str
    """By which it is named in documents, addresses and commands."""
    label: str
    """As menus call it."""
    use: str
    """What it is for, in one sentence."""
    nearest: Callable[[Histogram, Bytes, Floats], tuple[Integers, Floats]]
    """Index and distance for each distinct color."""
    stand_in: str = ""
    """For one that takes long: the id of a quick one that finds almost the same, for work that asks again and again."""


METRICS: Registry[Metric] = Registry("metric")


@njit(parallel=True, cache=True)
def _closest(points, centers, kept):
    """(n, kept) indices of the centers closest to each point, nearest first."""
    result = np.empty((points.shape[0], kept), dtype=np.int32)
    for row in prange(points.shape[0]):
        spans = np.full(kept, np.float32(1e30))
        for center in range(centers.shape[0]):
            x, y, z = points[row, 0] - centers[center, 0], points[row, 1] - centers[center, 1], points[row, 2] - centers[center, 2]
            span = x * x + y * y + z * z
            if span >= spans[kept - 1]:
                continue
            place = kept - 1
            while place > 0 and spans[place - 1] > span:
                spans[place] = spans[place - 1]
                result[row, place] = result[row, place - 1]
                place -= 1
            spans[place] = span
            result[row, place] = center
    return result


def _spans(histogram: Histogram, oklab: Floats, nearest: Integers) -> tuple[Integers, Floats]:
    return nearest, np.linalg.norm(histogram.oklab - oklab[nearest], axis=1)


def _in_oklab(histogram: Histogram, rgb: Bytes, oklab: Floats) -> tuple[Integers, Floats]:
    return nearest_centers(histogram.oklab, oklab)


def _in_srgb(histogram: Histogram, rgb: Bytes, oklab: Floats) -> tuple[Integers, Floats]:
    nearest, _ = nearest_centers(histogram.rgb().astype(np.float32) / 255, rgb.astype(np.float32) / 255)
    return _spans(histogram, oklab, nearest)


def _in_linear(histogram: Histogram, rgb: Bytes, oklab: Floats) -> tuple[Integers, Floats]:
    nearest, _ = nearest_centers(LINEAR_OF_BYTE[histogram.rgb()], LINEAR_OF_BYTE[rgb])
    return _spans(histogram, oklab, nearest)


def _by_ciede2000(histogram: Histogram, rgb: Bytes, oklab: Floats) -> tuple[Integers, Floats]:
    palette = convert(rgb / 255, "srgb", "lab-d65")
    kept = min(CANDIDATES, len(rgb))
    result = np.empty(histogram.distinct, dtype=np.int32)
    colors = histogram.rgb()
    for start in range(0, len(colors), CHUNK):
        lab = convert(colors[start : start + CHUNK] / 255, "srgb", "lab-d65")
        close = _closest(lab.astype(np.float32), palette.astype(np.float32), kept)
        best = ciede2000(lab[:, None], palette[close]).argmin(axis=1)
        result[start : start + CHUNK] = close[np.arange(len(lab)), best]
    return _spans(histogram, oklab, result)


METRICS.register(Metric("oklab", "OKLab", "By eye and fast; the usual choice.", _in_oklab))
METRICS.register(
    Metric("ciede2000", "CIELAB, CIEDE2000", "The print trade's formula, among the nearest in CIELAB.", _by_ciede2000, "oklab")
)
METRICS.register(Metric("srgb-linear", "linear RGB", "By light: differences in bright areas count most.", _in_linear))
METRICS.register(Metric("srgb", "plain sRGB", "By numbers, as simple programs do.", _in_srgb))
