"""How near each of many palettes is to a color: exactly, though hardly any of their colors is looked at exactly.

Colors are reduced to bins of five bits a channel. For a wanted color each bin has a least and a greatest distance that a color in it
may have; only colors whose bin may hold the nearest one of their palette are converted.
"""

from functools import lru_cache

import numpy as np

from huvren.core.color.arrays import Bytes, Floats, Integers
from huvren.core.color.difference import DELTA_SCALE
from huvren.core.color.kernels import linear_to_oklab32
from huvren.core.compiled import njit
from huvren.core.reduction.histogram import LINEAR_OF_BYTE, oklab_of_rgb

BITS = 5
WIDTH = 1 << (8 - BITS)


@lru_cache(maxsize=1)
def _bins() -> tuple[Floats, Floats]:
    """(32768, 3) OKLab in the middle of each bin, and (32768,) how far a color of it may be from there.

    None is further away than the furthest corner of its bin; a test looks at all 16,777,216 colors.
    """
    steps = np.arange(1 << BITS, dtype=np.uint8) * WIDTH
    low = np.stack(np.meshgrid(steps, steps, steps, indexing="ij"), axis=-1).reshape(-1, 3)
    corners = np.stack(np.meshgrid([0, WIDTH - 1], [0, WIDTH - 1], [0, WIDTH - 1], indexing="ij"), axis=-1).reshape(-1, 3)
    middle = oklab_of_rgb((low + WIDTH // 2).astype(np.uint8))
    away = [np.linalg.norm(oklab_of_rgb((low + corner).astype(np.uint8)) - middle, axis=1) for corner in corners]
    return middle, np.asarray(np.max(away, axis=0) + 1e-5, dtype=np.float32)


@njit(cache=True)
def _nearest(rgb, counts, low, high, linear, wanted):
    found = np.empty(counts.size, dtype=np.float32)
    shift = np.uint32(8 - BITS)
    begin = 0
    for place in range(counts.size):
        end = begin + counts[place]
        at_most = np.float32(np.inf)
        for row in range(begin, end):
            number = ((rgb[row, 0] >> shift) << (2 * BITS)) | ((rgb[row, 1] >> shift) << BITS) | (rgb[row, 2] >> shift)
            at_most = min(at_most, high[number])
        least = np.float32(np.inf)
        for row in range(begin, end):
            number = ((rgb[row, 0] >> shift) << (2 * BITS)) | ((rgb[row, 1] >> shift) << BITS) | (rgb[row, 2] >> shift)
            if low[number] <= at_most:
                lightness, a, b = linear_to_oklab32(linear[rgb[row, 0]], linear[rgb[row, 1]], linear[rgb[row, 2]])
                square = (lightness - wanted[0]) ** 2 + (a - wanted[1]) ** 2 + (b - wanted[2]) ** 2
                least = min(least, square)
        found[place] = np.sqrt(least)
        begin = end
    return found


def nearest(rgb: Bytes, counts: Integers, wanted: Floats) -> Floats:
    """ΔEOK×100 from a color to the nearest of each palette.

    Parameters
    ----------
    rgb : Bytes
        (k, 3) uint8 sRGB, the colors of all palettes one after the other.
    counts : Integers
        (p,) how many of them each palette has; none of them zero, and k together.
    wanted : Floats
        (3,) OKLab.

    Returns
    -------
    Floats
        (p,) float32 ΔEOK×100.
    """
    middle, reach = _bins()
    color = np.asarray(wanted, dtype=np.float32)
    away = np.linalg.norm(middle - color, axis=1).astype(np.float32)
    found = _nearest(rgb, np.asarray(counts, dtype=np.int64), away - reach, away + reach, LINEAR_OF_BYTE, color)
    return np.asarray(found * np.float32(DELTA_SCALE))
