"""No dither: every pixel takes the nearest color."""

import numpy as np

from huvren.core.color.arrays import Bytes
from huvren.core.compiled import njit, prange
from huvren.core.reduction.dithers.dither import DITHERS, Dither, Target
from huvren.core.reduction.histogram import as_words, rank_of


@njit(parallel=True, cache=True)
def _look_up(pixels, threshold, bits, ranks, table, transparent, indices):
    for pixel in prange(pixels.size):
        value = pixels[pixel]
        if value >> np.uint32(24) < threshold:
            indices[pixel] = transparent
        else:
            indices[pixel] = table[rank_of(value & np.uint32(0xFFFFFF), bits, ranks)]


def lay_out(target: Target) -> Bytes:
    """Look each pixel's nearest index up.

    Parameters
    ----------
    target : Target
        What is laid out: pixels, palette and settings.

    Returns
    -------
    Bytes
        (h, w) uint8 indices.
    """
    pixels = as_words(target.rgba)
    indices = np.empty(pixels.size, dtype=np.uint8)
    histogram = target.histogram
    _look_up(
        pixels, np.uint32(histogram.alpha_threshold), histogram.bits, histogram.ranks,
        target.nearest.astype(np.uint8), np.uint8(max(target.transparent, 0)), indices,
    )  # fmt: skip
    return indices.reshape(target.rgba.shape[:2])


NONE = DITHERS.register(Dither("none", "not at all", "Flat areas and clean edges; smooth glows may show bands.", False, lay_out))
