"""Error diffusion with any kernel of up to three rows: the loops.

Only what passes on within a row must wait for the pixel before it. What goes to the rows below is a small convolution
of the row's finished errors, which the processor does many pixels at a time, so that the wide kernels cost little more
than the narrow ones.

The nearest color is found in OKLab through a grid, over coded linear light or OKLab, whose cells, when first met, learn
the color nearest to their middle; what that rounding costs is passed on like any other error. Cells that hold palette
colors are settled beforehand, so that a pixel which is a palette color, and got no error, always keeps it.

`diffuse_rows` is for the usual case, linear light alone, and reads all it needs from tables of 256 bytes. `diffuse_colors`
can also work in OKLab, and asks what is known of each distinct color to leave flats clean and limit pairs.
"""

from functools import cache

import numpy as np

from huvren.core.color.arrays import Floats
from huvren.core.color.kernels import linear_to_oklab32
from huvren.core.color.transfer import encode_srgb_array
from huvren.core.compiled import njit, prange
from huvren.core.reduction.histogram import rank_of
from huvren.core.reduction.nearest import descend, search

GRID = 32
NEIGHBORS = 16
FINE = 4096
LEVEL_OF_FINE = np.rint(encode_srgb_array(np.arange(FINE) / (FINE - 1)) * (GRID - 1)).astype(np.uint32)
_EDGES = np.searchsorted(LEVEL_OF_FINE, np.arange(GRID + 1))
LEVEL_MIDDLE = (np.clip((_EDGES[:-1] + _EDGES[1:] - 1) / 2, 0, FINE - 1) / (FINE - 1)).astype(np.float32)
UNMET, SHARED = np.int16(-1), np.int16(-2)
REACH = 2
"""The farthest column, either way, that a kernel passes error to."""


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
    """OKLab of the middle of each grid cell, (GRID³, 3) float32, computed once a process.

    Returns
    -------
    Floats
        (GRID³, 3) float32.
    """
    return np.asarray(_grid_points(LEVEL_MIDDLE))


@njit(inline="always")
def _cell(red, green, blue, levels):
    """Grid cell of a color in 0..1. Unsigned indices, here and below: they spare the check for negative ones."""
    fine, half = np.float32(FINE - 1), np.float32(0.5)
    r = levels[np.uint32(red * fine + half)]
    g = levels[np.uint32(green * fine + half)]
    return np.uint32((r << 10) | (g << 5) | levels[np.uint32(blue * fine + half)])


@njit(cache=True)
def _gather(errors, taps, step, gathered, adds):
    """What a finished row passes to one below: the row's errors, convolved with the kernel's row of five parts."""
    t0, t1, t2, t3, t4 = taps[0], taps[1], taps[2], taps[3], taps[4]
    if step < 0:
        t0, t1, t3, t4 = t4, t3, t1, t0
    width = gathered.shape[1]
    for channel in range(3):
        source, into = errors[channel], gathered[channel]
        if adds:
            for x in range(width):
                into[x] += source[x] * t4 + source[x + 1] * t3 + source[x + 2] * t2 + source[x + 3] * t1 + source[x + 4] * t0
        else:
            for x in range(width):
                into[x] = source[x] * t4 + source[x + 1] * t3 + source[x + 2] * t2 + source[x + 3] * t1 + source[x + 4] * t0


@njit(cache=True)
def diffuse_rows(
    pixels, threshold, ranges, palette, oklab, kernel, transparent, serpentine, levels, points, orders, distances, nearest,
    bits, ranks, indices,
):  # fmt: skip
    """kernel : (3, 5) float32, shares of the error for this row and the two below, two columns back to two onward."""
    height, width = indices.shape
    cells = np.full(GRID * GRID * GRID, UNMET, dtype=np.int16)
    for color in range(palette.shape[0]):
        own = _cell(palette[color, 0], palette[color, 1], palette[color, 2], levels)
        cells[own] = color if cells[own] == UNMET else SHARED
    best = np.uint64(0)
    errors = np.zeros((3, 3, width + 2 * REACH), dtype=np.float32)
    here = np.zeros((3, width), dtype=np.float32)
    zero = np.float32(0)
    next1, next2 = kernel[0, REACH + 1], kernel[0, REACH + 2]
    has_third = kernel[2].any()
    step = 1
    for y in range(height):
        before = step
        step = 1 if y % 2 == 0 or not serpentine else -1
        if y > 0:
            _gather(errors[(y - 1) % 3], kernel[1], before, here, False)
        if has_third and y > 1:
            _gather(errors[(y - 2) % 3], kernel[2], step, here, True)
        row = errors[y % 3]
        x = 0 if step == 1 else width - 1
        d0 = d1 = d2 = zero  # error of the pixel before
        f0 = f1 = f2 = zero  # and of the one before that
        for _ in range(width):
            place = np.uint64(x)
            at = np.uint64(x + REACH)
            value = pixels[np.uint64(y) * np.uint64(width) + place]
            if value >> np.uint32(24) < threshold:
                indices[y, place] = transparent
                row[0, at] = row[1, at] = row[2, at] = zero
                f0, f1, f2 = d0, d1, d2
                d0 = d1 = d2 = zero
                x += step
                continue
            byte0 = value & np.uint32(255)
            red = ranges[byte0, 0] + (here[0, place] + f0 * next2) + d0 * next1
            byte1 = (value >> np.uint32(8)) & np.uint32(255)
            green = ranges[byte1, 0] + (here[1, place] + f1 * next2) + d1 * next1
            byte2 = (value >> np.uint32(16)) & np.uint32(255)
            blue = ranges[byte2, 0] + (here[2, place] + f2 * next2) + d2 * next1
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
            indices[y, place] = best
            f0, f1, f2 = d0, d1, d2
            d0, d1, d2 = red - palette[best, 0], green - palette[best, 1], blue - palette[best, 2]
            row[0, at], row[1, at], row[2, at] = d0, d1, d2
            x += step


LAB_LEVELS, LAB_SIDE = 64, 32
"""Steps of lightness, and of a and b, in the OKLab grid."""
LAB_WIDE = 0.36
"""Ends of a and b in the OKLab grid; sRGB reaches to 0.32, and what error carries beyond counts as the end."""
_LAB_STEPS = np.float32((LAB_SIDE - 1) / (2 * LAB_WIDE))


@njit(inline="always")
def _lab_cell(lightness, a, b):
    """Grid cell of a color inside the grid."""
    half, wide = np.float32(0.5), np.float32(LAB_WIDE)
    first = np.uint32(np.int32(lightness * np.float32(LAB_LEVELS - 1) + half))
    second = np.uint32(np.int32((a + wide) * _LAB_STEPS + half))
    third = np.uint32(np.int32((b + wide) * _LAB_STEPS + half))
    return np.uint32((first << 10) | (second << 5) | third)


@njit(inline="always")
def _within(value, least, most):
    return least if value < least else (most if value > most else value)


@njit(cache=True, error_model="numpy")
def _row_in_oklab(pixels, ranges, row):
    """A row of pixels in OKLab, into row, (3, width)."""
    first, second, third = row[0], row[1], row[2]
    for x in range(pixels.size):
        value = pixels[x]
        first[x] = ranges[value & np.uint32(255), 0]
        second[x] = ranges[(value >> np.uint32(8)) & np.uint32(255), 0]
        third[x] = ranges[(value >> np.uint32(16)) & np.uint32(255), 0]
    for x in range(pixels.size):
        first[x], second[x], third[x] = linear_to_oklab32(first[x], second[x], third[x])


@njit(cache=True)
def diffuse_colors(  # noqa: C901  (a kernel: all that a pixel needs in one loop)
    pixels, threshold, ranges, reach, palette, oklab, kernel, in_oklab, flat, has_flat, too_far, has_limit, transparent,
    serpentine, levels, points, orders, distances, nearest, bits, ranks, indices,
):  # fmt: skip
    """reach : (3,) float32, how far a color may be carried in OKLab; in linear light `ranges` says it.

    flat : (d,) bool, distinct colors that stay. too_far : (k, k) bool, pairs of palette colors that may not be mixed.
    kernel : as in `diffuse_rows`.
    """
    height, width = indices.shape
    size = LAB_LEVELS * LAB_SIDE * LAB_SIDE if in_oklab else GRID * GRID * GRID
    cells = np.full(size, UNMET, dtype=np.int16)
    for color in range(palette.shape[0]):
        first, second, third = palette[color, 0], palette[color, 1], palette[color, 2]
        own = _lab_cell(first, second, third) if in_oklab else _cell(first, second, third, levels)
        cells[own] = color if cells[own] == UNMET else SHARED
    errors = np.zeros((3, 3, width + 2 * REACH), dtype=np.float32)
    here = np.zeros((3, width), dtype=np.float32)
    row = np.zeros((3, width), dtype=np.float32)
    zero, one, wide = np.float32(0), np.float32(1), np.float32(LAB_WIDE)
    reach0, reach1, reach2 = reach[0], reach[1], reach[2]
    next1, next2 = kernel[0, REACH + 1], kernel[0, REACH + 2]
    has_third = kernel[2].any()
    by_color = has_flat or has_limit
    best = np.uint64(0)
    step = 1
    for y in range(height):
        before = step
        step = 1 if y % 2 == 0 or not serpentine else -1
        if y > 0:
            _gather(errors[(y - 1) % 3], kernel[1], before, here, False)
        if has_third and y > 1:
            _gather(errors[(y - 2) % 3], kernel[2], step, here, True)
        if in_oklab:
            _row_in_oklab(pixels[y * width : (y + 1) * width], ranges, row)
        passed = errors[y % 3]
        x = 0 if step == 1 else width - 1
        d0 = d1 = d2 = f0 = f1 = f2 = zero
        for _ in range(width):
            place, at = np.uint64(x), np.uint64(x + REACH)
            x += step
            value = pixels[np.uint64(y) * np.uint64(width) + place]
            stays = value >> np.uint32(24) < threshold
            own = np.uint64(0)
            if stays:
                indices[y, place] = transparent
            elif by_color:
                rank = rank_of(value & np.uint32(0xFFFFFF), bits, ranks)
                own = np.uint64(nearest[rank])
                if has_flat and flat[rank]:
                    stays = True
                    indices[y, place] = own
            if stays:
                passed[0, at] = passed[1, at] = passed[2, at] = zero
                f0, f1, f2 = d0, d1, d2
                d0 = d1 = d2 = zero
                continue
            if in_oklab:
                a, b, c = row[0, place], row[1, place], row[2, place]
                least0, least1, least2 = a - reach0, b - reach1, c - reach2
                most0, most1, most2 = a + reach0, b + reach1, c + reach2
                under0, under1, under2 = zero, -wide, -wide
                over0, over1, over2 = one, wide, wide
            else:
                byte0 = value & np.uint32(255)
                byte1 = (value >> np.uint32(8)) & np.uint32(255)
                byte2 = (value >> np.uint32(16)) & np.uint32(255)
                a, b, c = ranges[byte0, 0], ranges[byte1, 0], ranges[byte2, 0]
                least0, least1, least2 = ranges[byte0, 1], ranges[byte1, 1], ranges[byte2, 1]
                most0, most1, most2 = ranges[byte0, 2], ranges[byte1, 2], ranges[byte2, 2]
                under0, under1, under2 = ranges[byte0, 3], ranges[byte1, 3], ranges[byte2, 3]
                over0, over1, over2 = ranges[byte0, 4], ranges[byte1, 4], ranges[byte2, 4]
            a = a + (here[0, place] + f0 * next2) + d0 * next1
            b = b + (here[1, place] + f1 * next2) + d1 * next1
            c = c + (here[2, place] + f2 * next2) + d2 * next1
            # What is looked up and what is passed on are bounded side by side, so that neither waits for the other.
            p, q, r = _within(a, under0, over0), _within(b, under1, over1), _within(c, under2, over2)
            cell = _lab_cell(p, q, r) if in_oklab else _cell(p, q, r, levels)
            a, b, c = _within(a, least0, most0), _within(b, least1, most1), _within(c, least2, most2)
            entry = cells[cell]
            if entry >= 0:
                best = np.uint64(entry)
            elif entry == UNMET:
                if in_oklab:
                    steps = np.float32(1) / _LAB_STEPS
                    p = np.float32(cell >> np.uint32(10)) / np.float32(LAB_LEVELS - 1)
                    q = np.float32((cell >> np.uint32(5)) & np.uint32(31)) * steps - wide
                    r = np.float32(cell & np.uint32(31)) * steps - wide
                else:
                    p, q, r = points[cell, 0], points[cell, 1], points[cell, 2]
                guess = np.int64(nearest[rank_of(value & np.uint32(0xFFFFFF), bits, ranks)])
                guess = descend(p, q, r, guess, oklab, orders[:, :NEIGHBORS])
                cells[cell] = guess
                best = np.uint64(guess)
            else:
                if not in_oklab:
                    p, q, r = linear_to_oklab32(p, q, r)
                found, _span = search(p, q, r, np.int64(best), oklab, orders, distances)
                best = np.uint64(found)
            if has_limit and too_far[own, best]:
                # A color too far from the pixel's own nearest makes specks: the nearest is taken instead.
                best = own
            indices[y, place] = best
            f0, f1, f2 = d0, d1, d2
            d0, d1, d2 = a - palette[best, 0], b - palette[best, 1], c - palette[best, 2]
            passed[0, at], passed[1, at], passed[2, at] = d0, d1, d2


def kernel_rows(kernel: tuple[tuple[int, int, int], ...], divisor: float, strength: float) -> Floats:
    """(3, 5) float32 shares of a kernel given as (rows down, columns onward, parts).

    Parameters
    ----------
    kernel : tuple[tuple[int, int, int], ...]
        Rows down, columns onward and parts of each neighbor.
    divisor : float
        What the parts of the kernel are divided by.
    strength : float
        0..1 of the error that is handed on.

    Returns
    -------
    Floats
        (3, 5) float32 shares of a kernel given as (rows down, columns onward, parts).
    """
    rows = np.zeros((3, 2 * REACH + 1), dtype=np.float32)
    for down, onward, parts in kernel:
        rows[down, REACH + onward] = parts / divisor * strength
    return rows
