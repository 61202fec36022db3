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
from huvren.core.color.kernels import encode_srgb_array, linear_to_oklab32
from huvren.core.reduction.dithers import DITHERS, Dither, Target
from huvren.core.reduction.dithers.diffusion import Kernel, carrying_range, diffuse
from huvren.core.reduction.histogram import LINEAR_OF_BYTE, as_words, rank_of
from huvren.core.reduction.nearest import descend, order_centers, search

GRID = 32
NEIGHBORS = 16
FINE = 4096
LEVEL_OF_FINE = np.rint(encode_srgb_array(np.arange(FINE) / (FINE - 1)) * (GRID - 1)).astype(np.uint32)
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
    """Grid cell of a color in 0..1. Unsigned indices, here and below: they spare the check for negative ones."""
    fine, half = np.float32(FINE - 1), np.float32(0.5)
    r = levels[np.uint32(red * fine + half)]
    g = levels[np.uint32(green * fine + half)]
    return np.uint32((r << 10) | (g << 5) | levels[np.uint32(blue * fine + half)])


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
    best = np.uint64(0)
    here = np.zeros((width + 2, 3), dtype=np.float32)
    below = np.zeros((width + 2, 3), dtype=np.float32)
    zero = np.float32(0)
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
            # What is looked up and what is passed on are bounded side by side, so that neither waits for the other.
            least, most = ranges[byte0, 3], ranges[byte0, 4]
            shown0 = least if red < least else (most if red > most else red)
            least, most = ranges[byte1, 3], ranges[byte1, 4]
            shown1 = least if green < least else (most if green > most else green)
            least, most = ranges[byte2, 3], ranges[byte2, 4]
            shown2 = least if blue < least else (most if blue > most else blue)
            cell = _cell(shown0, shown1, shown2, levels)
            least, most = ranges[byte0, 1], ranges[byte0, 2]
            red = least if red < least else (most if red > most else red)
            least, most = ranges[byte1, 1], ranges[byte1, 2]
            green = least if green < least else (most if green > most else green)
            least, most = ranges[byte2, 1], ranges[byte2, 2]
            blue = least if blue < least else (most if blue > most else blue)
            entry = cells[cell]
            if entry >= 0:
                best = np.uint64(entry)
            elif entry == UNMET:
                # The nearest color of the pixel itself is where the walk to the cell's nearest begins.
                guess = np.int64(nearest[rank_of(value & np.uint32(0xFFFFFF), bits, ranks)])
                guess = descend(points[cell, 0], points[cell, 1], points[cell, 2], guess, oklab, orders[:, :NEIGHBORS])
                cells[cell] = guess
                best = np.uint64(guess)
            else:
                lightness, aa, bb = linear_to_oklab32(shown0, shown1, shown2)
                found, _span = search(lightness, aa, bb, np.int64(best), oklab, orders, distances)
                best = np.uint64(found)
            indices[y, x] = best
            e0, e1, e2 = red - palette[best, 0], green - palette[best, 1], blue - palette[best, 2]
            below[behind, 0], below[behind, 1], below[behind, 2] = u0 + e0 * share3, u1 + e1 * share3, u2 + e2 * share3
            u0, u1, u2 = a0 + e0 * share5, a1 + e1 * share5, a2 + e2 * share5
            a0, a1, a2 = e0 * share1, e1 * share1, e2 * share1
            x += step
        last = width if step == 1 else 1
        below[last, 0], below[last, 1], below[last, 2] = u0, u1, u2
        here, below = below, here


KERNEL: Kernel = ((0, 1, 7), (1, -1, 3), (1, 0, 5), (1, 1, 1))


def lay_out(target: Target) -> Bytes:
    """Diffuse the error of each pixel over its neighbors; what the quick loop does not know goes the general way."""
    if target.flat is not None or target.working != "linear" or not target.serpentine or np.isfinite(target.pair_limit):
        return diffuse(target, KERNEL)
    indices = np.empty(target.rgba.shape[:2], dtype=np.uint8)
    orders, distances = order_centers(target.oklab)
    _diffuse(
        as_words(target.rgba), np.uint32(target.histogram.alpha_threshold), carrying_range(target), LINEAR_OF_BYTE[target.rgb],
        target.oklab, np.float32(target.strength), np.uint8(max(target.transparent, 0)), LEVEL_OF_FINE, grid_points(),
        orders, distances, target.nearest, target.histogram.bits, target.histogram.ranks, indices,
    )  # fmt: skip
    return indices


FLOYD_STEINBERG = DITHERS.register(
    Dither(
        "floyd-steinberg", "Floyd–Steinberg", "Fine grain that keeps every mean tone; best for glows.", True, lay_out,
        is_diffusion=True,
    )
)  # fmt: skip
