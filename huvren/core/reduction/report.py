"""Figures of a reduction: what came out, measured pixel by pixel against the original."""

from dataclasses import dataclass

import numpy as np

from huvren.core.color.arrays import Bytes, Floats, Integers
from huvren.core.color.difference import DELTA_SCALE
from huvren.core.compiled import get_num_threads, njit, prange
from huvren.core.reduction.histogram import AT_ONCE, LINEAR_OF_BYTE, Histogram, as_words, oklab_of_words

STEPS_PER_DELTA = 200
STEPS = 160 * STEPS_PER_DELTA


@dataclass(frozen=True)
class Figures:
    """Differences are ΔEOK×100 over the opaque pixels; `counts` are pixels per index.

    afar : the mean difference seen from afar, see `afar.py`; it is measured apart from the others.
    """

    distinct: int
    """Colors of the picture."""
    used: int
    """Colors of the palette that stand in it."""
    mean: float
    """ΔEOK×100."""
    p95: float
    """ΔEOK×100 that 95 % of the pixels stay below."""
    max: float
    """ΔEOK×100."""
    counts: Integers
    """(k,) pixels of each color."""
    afar: float = 0.0


@njit(cache=True, error_model="numpy", _nrt=False)
def _differences(pixels, indices, linear, oklab, first, second, third, deltas):
    """ΔEOK×100 of some pixels; `linear` is the light of each byte, and first to third are room for as many."""
    oklab_of_words(pixels, linear, first, second, third)
    for pixel in range(pixels.size):
        index = indices[pixel]
        first[pixel] -= oklab[index, 0]
        second[pixel] -= oklab[index, 1]
        third[pixel] -= oklab[index, 2]
    for pixel in range(pixels.size):
        d0, d1, d2 = first[pixel], second[pixel], third[pixel]
        deltas[pixel] = np.sqrt(d0 * d0 + d1 * d1 + d2 * d2) * np.float32(DELTA_SCALE)


@njit(parallel=True, cache=True)
def _measure(pixels, threshold, linear, indices, oklab, parts):
    """Per part of the pixels: those of each index, those on each step of the ladder, and the sum and the largest of differences.

    The color of a pixel is computed anew: to look it up among millions of others takes longer.
    """
    counts = np.zeros((parts, 256), dtype=np.int64)
    ladder = np.zeros((parts, STEPS + 1), dtype=np.int64)
    sums = np.zeros((parts, 16))
    total = pixels.size
    for part in prange(parts):
        room = np.empty((4, AT_ONCE), dtype=np.float32)
        largest, whole = np.float32(0), 0.0
        for begin in range(total * part // parts, total * (part + 1) // parts, AT_ONCE):
            end = min(begin + AT_ONCE, total * (part + 1) // parts)
            deltas = room[3, : end - begin]
            _differences(
                pixels[begin:end], indices[begin:end], linear, oklab,
                room[0, : end - begin], room[1, : end - begin], room[2, : end - begin], deltas,
            )  # fmt: skip
            for pixel in range(begin, end):
                counts[part, indices[pixel]] += 1
                if pixels[pixel] >> np.uint32(24) >= threshold:
                    delta = deltas[pixel - begin]
                    whole += delta
                    largest = max(largest, delta)
                    ladder[part, min(int(delta * STEPS_PER_DELTA), STEPS)] += 1
        sums[part, 0], sums[part, 1] = whole, largest
    return counts, ladder, sums


def measure(rgba: Bytes, histogram: Histogram, indices: Bytes, oklab: Floats) -> Figures:
    """Measure an (h, w) index map painted with (k, 3) OKLab colors against the picture it stands for.

    The 95th percentile is read off a ladder of 0.005 ΔE, rounded up to its step.

    Parameters
    ----------
    rgba : Bytes
        (h, w, 4) uint8.
    histogram : Histogram
        The distinct colors and their pixels.
    indices : Bytes
        (h, w) uint8 index map.
    oklab : Floats
        (k, 3) OKLab of the palette.

    Returns
    -------
    Figures
        Mean, 95th percentile and largest ΔEOK×100.
    """
    table = np.zeros((256, 3), dtype=np.float32)
    table[: len(oklab)] = oklab
    counts, ladder, sums = _measure(
        as_words(rgba), np.uint32(histogram.alpha_threshold), LINEAR_OF_BYTE,
        np.ascontiguousarray(indices).reshape(-1), table, get_num_threads(),
    )  # fmt: skip
    return _figures(histogram, counts.sum(axis=0), ladder.sum(axis=0), float(sums[:, 0].sum()), float(sums[:, 1].max()))


def measure_nearest(histogram: Histogram, nearest: Integers, spans: Floats, transparent: int) -> Figures:
    """The same figures where every color has one index: from (d,) indices and OKLab distances, no pixel touched.

    Parameters
    ----------
    histogram : Histogram
        The distinct colors and their pixels.
    nearest : Integers
        (d,) index of each distinct color.
    spans : Floats
        (d,) float32 OKLab distance of each distinct color to its index.
    transparent : int
        The index of clear pixels, or −1.

    Returns
    -------
    Figures
        Mean, 95th percentile and largest ΔEOK×100.
    """
    delta = spans.astype(np.float64) * DELTA_SCALE
    per_index = np.bincount(nearest, weights=histogram.counts, minlength=256).astype(np.int64)
    if transparent >= 0:
        per_index[transparent] += histogram.transparent
    places = np.minimum((delta * STEPS_PER_DELTA).astype(np.int64), STEPS)
    ladder = np.bincount(places, weights=histogram.counts, minlength=STEPS + 1).astype(np.int64)
    return _figures(histogram, per_index, ladder, float((delta * histogram.counts).sum()), float(delta.max(initial=0)))


def _figures(histogram: Histogram, per_index: Integers, ladder: Integers, total: float, highest: float) -> Figures:
    opaque = histogram.opaque
    steps = ladder.cumsum()
    p95 = 0.0 if opaque == 0 else float(np.searchsorted(steps, 0.95 * opaque) + 1) / STEPS_PER_DELTA
    return Figures(
        distinct=histogram.distinct,
        used=int((per_index > 0).sum()),
        mean=total / opaque if opaque else 0.0,
        p95=min(p95, highest),
        max=highest,
        counts=per_index,
    )
