"""Error diffusion with the Floyd–Steinberg kernel (1976), in linear light, serpentine.

The nearest color is found in OKLab, the error is passed on in linear light, where a fine mixture adds up to what
the eye averages. The nearest color is looked up in a grid over coded linear light whose cells, when first met, learn
the color nearest to their middle; what that rounding costs is passed on like any other error. Cells that hold palette
colors are settled beforehand, so that a pixel which is a palette color, and got no error, always keeps it.
"""

from functools import cache

import numpy as np
from numba import njit, prange

from huvren.core.color.arrays import Bytes, Floats
from huvren.core.color.kernels import decode_srgb_array, encode_srgb_array, linear_to_oklab32
from huvren.core.reduction.dithers import DITHERS, Dither, Target
from huvren.core.reduction.histogram import LINEAR_OF_BYTE, as_words, rank_of
from huvren.core.reduction.nearest import descend, order_centers, search

GRID = 32
NEIGHBORS = 16
FINE = 4096
LEVEL_OF_FINE = np.rint(encode_srgb_array(np.arange(FINE) / (FINE - 1)) * (GRID - 1)).astype(np.int32)
_EDGES = np.searchsorted(LEVEL_OF_FINE, np.arange(GRID + 1))
LEVEL_MIDDLE = (np.clip((_EDGES[:-1] + _EDGES[1:] - 1) / 2, 0, FINE - 1) / (FINE - 1)).astype(np.float32)
UNMET, SHARED = np.int16(-1), np.int16(-2)


@njit(parallel=True, cache=True)
def _grid_points(middles):
    points = np.empty((GRID * GRID * GRID, 3), dtype=np.float32)
    for red in prange(GRID):
        for green in range(GRID):
            for blue in range(GRID):
                cell = (red * GRID + green) * GRID + blue
                points[cell, 0], points[cell, 1], points[cell, 2] = linear_to_oklab32(middles[red], middles[green], middles[blue])
    return points


@cache
def grid_points() -> Floats:
    """OKLab of the middle of each grid cell, (GRID³, 3) float32, computed once a process."""
    return np.asarray(_grid_points(LEVEL_MIDDLE))


@njit(inline="always")
def _cell(red, green, blue, levels):
    fine, half = np.float32(FINE - 1), np.float32(0.5)
    r = levels[np.int32(red * fine + half)]
    g = levels[np.int32(green * fine + half)]
    return (r * GRID + g) * GRID + levels[np.int32(blue * fine + half)]


@njit(cache=True)
def _diffuse(
    pixels, threshold, ranges, palette, oklab, strength, transparent, levels, points, orders, distances, nearest, bits, ranks,
    indices,
):  # fmt: skip
    height, width = indices.shape
    cells = np.full(GRID * GRID * GRID, UNMET, dtype=np.int16)
    for color in range(palette.shape[0]):
        own = _cell(palette[color, 0], palette[color, 1], palette[color, 2], levels)
        cells[own] = color if cells[own] == UNMET else SHARED
    best = np.int64(0)
    here = np.zeros((width + 2, 3), dtype=np.float32)
    below = np.zeros((width + 2, 3), dtype=np.float32)
    zero, one = np.float32(0), np.float32(1)
    share7, share5 = np.float32(7 / 16) * strength, np.float32(5 / 16) * strength
    share3, share1 = np.float32(3 / 16) * strength, np.float32(1 / 16) * strength
    for y in range(height):
        step = 1 if y % 2 == 0 else -1
        x = 0 if step == 1 else width - 1
        e0 = e1 = e2 = zero  # error of the pixel before, for this one
        u0 = u1 = u2 = zero  # gathered for the pixel below the one before
        a0 = a1 = a2 = zero  # gathered for the pixel below this one
        for _ in range(width):
            behind = x + 1 - step
            value = pixels[y * width + x]
            if value >> np.uint32(24) < threshold:
                indices[y, x] = transparent
                below[behind, 0], below[behind, 1], below[behind, 2] = u0, u1, u2
                u0, u1, u2 = a0, a1, a2
                a0 = a1 = a2 = e0 = e1 = e2 = zero
                x += step
                continue
            byte0 = value & np.uint32(255)
            red = ranges[byte0, 0] + here[x + 1, 0] + e0 * share7
            byte1 = (value >> np.uint32(8)) & np.uint32(255)
            green = ranges[byte1, 0] + here[x + 1, 1] + e1 * share7
            byte2 = (value >> np.uint32(16)) & np.uint32(255)
            blue = ranges[byte2, 0] + here[x + 1, 2] + e2 * share7
            least, most = ranges[byte0, 1], ranges[byte0, 2]
            red = least if red < least else (most if red > most else red)
            least, most = ranges[byte1, 1], ranges[byte1, 2]
            green = least if green < least else (most if green > most else green)
            least, most = ranges[byte2, 1], ranges[byte2, 2]
            blue = least if blue < least else (most if blue > most else blue)
            shown0 = zero if red < zero else (one if red > one else red)
            shown1 = zero if green < zero else (one if green > one else green)
            shown2 = zero if blue < zero else (one if blue > one else blue)
            cell = _cell(shown0, shown1, shown2, levels)
            entry = cells[cell]
            if entry >= 0:
                best = np.int64(entry)
            elif entry == UNMET:
                # The nearest color of the pixel itself is where the walk to the cell's nearest begins.
                best = np.int64(nearest[rank_of(value & np.uint32(0xFFFFFF), bits, ranks)])
                best = descend(points[cell, 0], points[cell, 1], points[cell, 2], best, oklab, orders[:, :NEIGHBORS])
                cells[cell] = best
            else:
                lightness, aa, bb = linear_to_oklab32(shown0, shown1, shown2)
                found, _span = search(lightness, aa, bb, best, oklab, orders, distances)
                best = np.int64(found)
            indices[y, x] = best
            e0, e1, e2 = red - palette[best, 0], green - palette[best, 1], blue - palette[best, 2]
            below[behind, 0], below[behind, 1], below[behind, 2] = u0 + e0 * share3, u1 + e1 * share3, u2 + e2 * share3
            u0, u1, u2 = a0 + e0 * share5, a1 + e1 * share5, a2 + e2 * share5
            a0, a1, a2 = e0 * share1, e1 * share1, e2 * share1
            x += step
        last = width if step == 1 else 1
        below[last, 0], below[last, 1], below[last, 2] = u0, u1, u2
        here, below = below, here


SAMPLED = 10_000
REACH = 4.0
"""How far passed-on error may carry a channel, in typical distances between the picture's colors and the palette."""


def carrying_range(target: Target) -> Floats:
    """For each byte its linear light, and the lowest and highest it may be carried to: (256, 3) float32.

    Colors that no mixture of the palette reaches would pass on ever more error and bleed over their neighbors. The
    bound is even in coded light, so that it holds in the dark as well, and wide for sparse palettes: between black and
    white alone it must lead far below 0.
    """
    histogram = target.histogram
    few = slice(None, None, max(1, histogram.distinct // SAMPLED))
    keys = histogram.colors[few]
    rgb = np.stack([keys & 255, (keys >> 8) & 255, keys >> 16], axis=-1).astype(np.float32)
    gaps = np.abs(rgb - target.rgb[target.nearest[few]]).max(axis=1) / 255
    reach = REACH * float(np.average(gaps, weights=histogram.counts[few])) + 1 / 255
    coded = np.arange(256) / 255
    values: Floats = decode_srgb_array(np.stack([coded, coded - reach, coded + reach], axis=-1)).astype(np.float32)
    values[:, 0] = LINEAR_OF_BYTE
    return values


def lay_out(target: Target) -> Bytes:
    """Diffuse the error of each pixel over its neighbors."""
    indices = np.empty(target.rgba.shape[:2], dtype=np.uint8)
    orders, distances = order_centers(target.oklab)
    _diffuse(
        as_words(target.rgba), np.uint32(target.histogram.alpha_threshold), carrying_range(target), LINEAR_OF_BYTE[target.rgb],
        target.oklab, np.float32(target.strength), np.uint8(max(target.transparent, 0)), LEVEL_OF_FINE, grid_points(),
        orders, distances, target.nearest, target.histogram.bits, target.histogram.ranks, indices,
    )  # fmt: skip
    return indices


FLOYD_STEINBERG = DITHERS.register(
    Dither("floyd-steinberg", "Floyd–Steinberg", "Fine grain that keeps every mean tone; best for glows.", True, lay_out)
)
