"""Error diffusion with any kernel of up to three rows: the loops.

A pixel has to wait for the one before it, some fifty steps of the processor, so two rows that go the same way do it side by side: the
second follows a block of columns behind the first and gets what that passes down as a small convolution of its finished errors.
To and fro, therefore, means two rows forth and two back. What goes to the rows below them is the same convolution, many pixels at a
time, so that the wide kernels cost little more than the narrow ones.

The nearest color comes from a table (`near_colors.py`) over coded linear light, or from a grid over OKLab, whose cells, when first
met, learn the color nearest to their middle.

`diffuse_rows` is for the usual case, linear light alone, with clean flats or without. `diffuse_colors` can also work in OKLab and
limit pairs, and goes a row at a time.
"""

import numpy as np

from huvren.core.color.arrays import Floats
from huvren.core.color.kernels import linear_to_oklab32
from huvren.core.compiled import njit
from huvren.core.reduction.dithers.near_colors import OFFSET, SPAN, meet
from huvren.core.reduction.histogram import rank_of
from huvren.core.reduction.nearest import descend, search

NEIGHBORS = 16
UNMET, SHARED = np.int16(-1), np.int16(-2)
REACH = 2
"""The farthest column, either way, that a kernel passes error to."""
BLOCK = 32
"""Columns that the second of two rows is behind, and `REACH` more."""
ASIDE = 2 * BLOCK + 2 * REACH
"""Columns on either side of a row where pixels are that stay and pass nothing on: so the loop need not know where a row ends."""
STILL = np.uint32(256 | 257 << 10 | 258 << 20)
"""In place of a pixel's three bytes: the color first in the palette, exactly, in each of its channels."""


@njit(cache=True, fastmath={"contract", "nnan", "nsz"})
def _pass_down(errors, taps, step, adds, into):
    """What finished errors pass to a row below them: four numbers for each column, convolved with the kernel's row of five parts.

    errors : (4 (n + 2 · REACH),), from `REACH` columns before those of into, (4 n,)
    """
    t0, t1, t2, t3, t4 = taps[0], taps[1], taps[2], taps[3], taps[4]
    if step < 0:
        t0, t1, t3, t4 = t4, t3, t1, t0
    if adds:
        for x in range(into.size):
            into[x] += errors[x] * t4 + errors[x + 4] * t3 + errors[x + 8] * t2 + errors[x + 12] * t1 + errors[x + 16] * t0
    else:
        for x in range(into.size):
            into[x] = errors[x] * t4 + errors[x + 4] * t3 + errors[x + 8] * t2 + errors[x + 12] * t1 + errors[x + 16] * t0


@njit(cache=True)
def _spread(pixels, threshold, has_flat, flat, bits, ranks, words):
    """A row's three bytes in ten bits each, or `STILL` for what is clear, or flat."""
    for x in range(words.size):
        value = pixels[x]
        word = (
            (value & np.uint32(0xFF))
            | ((value & np.uint32(0xFF00)) << np.uint32(2))
            | ((value & np.uint32(0xFF0000)) << np.uint32(4))
        )
        words[x] = word if value >> np.uint32(24) >= threshold else STILL
    if has_flat:
        for x in range(words.size):
            if words[x] != STILL and flat[rank_of(pixels[x] & np.uint32(0xFFFFFF), bits, ranks)]:
                words[x] = STILL


@njit(cache=True)
def _take_row(pixels, threshold, words, shown, nearest, bits, ranks, transparent, indices):
    """A finished row; what stayed is clear, or has the color nearest to it."""
    for x in range(indices.size):
        indices[x] = shown[x]
        if words[x] == STILL:
            if pixels[x] >> np.uint32(24) < threshold:
                indices[x] = transparent
            else:
                indices[x] = nearest[rank_of(pixels[x] & np.uint32(0xFFFFFF), bits, ranks)]


@njit(inline="always")
def _within(value, least, most):
    """A number between bounds. In this form the processor does it without a branch."""
    value = value if value > least else least
    return value if value < most else most


@njit(inline="always")
def _cell(red, green, blue, cell_levels):
    """The cell of a table of near colors, of light in steps."""
    high, middle = np.uint32(cell_levels[red]) << np.uint32(10), np.uint32(cell_levels[green]) << np.uint32(5)
    return high | middle | np.uint32(cell_levels[blue])


@njit(inline="always")
def _part(entry, red, green, blue, levels):
    """The part of a shared cell."""
    seven = np.uint32(7)
    high, middle = (np.uint32(levels[red]) & seven) << np.uint32(6), (np.uint32(levels[green]) & seven) << np.uint32(3)
    return (np.uint32(-2 - entry) << np.uint32(9)) | high | middle | (np.uint32(levels[blue]) & seven)


@njit(cache=True, fastmath={"contract", "nnan", "nsz"})
def diffuse_rows(
    pixels, threshold, has_flat, flat, nearest, bits, ranks, transparent, ranges, colors, kernel, serpentine,
    cell_levels, levels, middles, points, units, regions, cells, parts, channels, lists, counts, room, near, indices,
):  # fmt: skip
    """ranges : (259 · 4,) float32, of each byte its light in steps and how far it may be carried; then `STILL`'s three channels.

    colors : (k · 4,) float32, light in steps. flat : (d,) bool, distinct colors that stay
    kernel : (3, 5) float32, shares of the error for this row and the two below, two columns back to two onward
    Levels and all behind them: see `near_colors.meet`.
    """
    height, width = indices.shape
    wide = width + 2 * ASIDE
    errors = np.zeros((4, 4 * wide), dtype=np.float32)
    here = np.zeros((2, 4 * wide), dtype=np.float32)
    words = np.full((2, wide), STILL, dtype=np.uint32)
    shown = np.zeros((2, wide), dtype=np.uint8)
    upper_words, lower_words = words[0], words[1]
    upper_shown, lower_shown = shown[0], shown[1]
    upper_here, lower_here = here[0], here[1]
    next1, next2 = kernel[0, REACH + 1], kernel[0, REACH + 2]
    has_third = kernel[2].any()
    zero, one, two = np.float32(0), np.uint32(1), np.uint32(2)
    long_one, long_two = np.uint64(1), np.uint64(2)
    inner = slice(4 * ASIDE, 4 * (ASIDE + width))
    around = slice(4 * (ASIDE - REACH), 4 * (ASIDE + width + REACH))
    rows = slice(ASIDE, ASIDE + width)
    step = 1
    for y in range(0, height, 2):
        before = step
        step = -1 if serpentine and y % 4 == 2 else 1
        upper_errors, lower_errors = errors[y % 4], errors[(y + 1) % 4]
        if y > 0:
            above = errors[(y - 1) % 4][around]
            _pass_down(above, kernel[1], before, False, upper_here[inner])
            if has_third:
                _pass_down(errors[(y - 2) % 4][around], kernel[2], before, True, upper_here[inner])
                _pass_down(above, kernel[2], before, False, lower_here[inner])
        _spread(pixels[y * width : (y + 1) * width], threshold, has_flat, flat, bits, ranks, upper_words[rows])
        if y + 1 < height:
            _spread(pixels[(y + 1) * width : (y + 2) * width], threshold, has_flat, flat, bits, ranks, lower_words[rows])
        else:
            lower_words[:] = STILL
        # Of the pixel before: what it passes on; and what the one before that does, two columns on.
        a0 = a1 = a2 = b0 = b1 = b2 = zero
        c0 = c1 = c2 = d0 = d1 = d2 = zero
        column = ASIDE if step == 1 else ASIDE + width - 1
        follower = column - step * (BLOCK + REACH)
        for _ in range((width + REACH + 2 * BLOCK - 1) // BLOCK):
            first = follower if step == 1 else follower - BLOCK + 1
            _pass_down(
                upper_errors[4 * (first - REACH) : 4 * (first + BLOCK + REACH)], kernel[1], step, has_third,
                lower_here[4 * first : 4 * (first + BLOCK)],
            )  # fmt: skip
            for _ in range(BLOCK):
                # Both rows at once, line by line, so that neither waits where the other could go on.
                at, under = np.uint64(column), np.uint64(follower)
                upper, lower = upper_words[at], lower_words[under]
                i0, i1 = (upper & np.uint32(1023)) << two, (upper >> np.uint32(8)) & np.uint32(4092)
                i2 = (upper >> np.uint32(18)) & np.uint32(4092)
                j0, j1 = (lower & np.uint32(1023)) << two, (lower >> np.uint32(8)) & np.uint32(4092)
                j2 = (lower >> np.uint32(18)) & np.uint32(4092)
                four_at, four_under = at << long_two, under << long_two
                red = ranges[i0] + upper_here[four_at] + a0
                green = ranges[i1] + upper_here[four_at + long_one] + a1
                blue = ranges[i2] + upper_here[four_at + long_two] + a2
                low_red = ranges[j0] + lower_here[four_under] + b0
                low_green = ranges[j1] + lower_here[four_under + long_one] + b1
                low_blue = ranges[j2] + lower_here[four_under + long_two] + b2
                red = _within(red, ranges[i0 + one], ranges[i0 + two])
                green = _within(green, ranges[i1 + one], ranges[i1 + two])
                blue = _within(blue, ranges[i2 + one], ranges[i2 + two])
                low_red = _within(low_red, ranges[j0 + one], ranges[j0 + two])
                low_green = _within(low_green, ranges[j1 + one], ranges[j1 + two])
                low_blue = _within(low_blue, ranges[j2 + one], ranges[j2 + two])
                r, g, b = np.uint32(np.int32(red)), np.uint32(np.int32(green)), np.uint32(np.int32(blue))
                u, v, w = np.uint32(np.int32(low_red)), np.uint32(np.int32(low_green)), np.uint32(np.int32(low_blue))
                best, low_best = np.int32(cells[_cell(r, g, b, cell_levels)]), np.int32(cells[_cell(u, v, w, cell_levels)])
                if (best | low_best) < 0:
                    if best < -1:
                        entry = np.int32(parts[_part(best, r, g, b, levels)])
                        best = entry if entry >= 0 else best
                    if low_best < -1:
                        entry = np.int32(parts[_part(low_best, u, v, w, levels)])
                        low_best = entry if entry >= 0 else low_best
                    if best < 0:
                        best = np.int32(meet(
                            red, green, blue, levels, middles, points, units, regions, cells, parts, channels, lists, counts,
                            room, near,
                        ))  # fmt: skip
                    if low_best < 0:
                        low_best = np.int32(meet(
                            low_red, low_green, low_blue, levels, middles, points, units, regions, cells, parts, channels, lists,
                            counts, room, near,
                        ))  # fmt: skip
                upper_shown[at] = best
                lower_shown[under] = low_best
                i0, j0 = np.uint32(best) << two, np.uint32(low_best) << two
                red, green, blue = red - colors[i0], green - colors[i0 + one], blue - colors[i0 + two]
                low_red, low_green, low_blue = low_red - colors[j0], low_green - colors[j0 + one], low_blue - colors[j0 + two]
                a0, a1, a2 = red * next1 + c0, green * next1 + c1, blue * next1 + c2
                b0, b1, b2 = low_red * next1 + d0, low_green * next1 + d1, low_blue * next1 + d2
                c0, c1, c2 = red * next2, green * next2, blue * next2
                d0, d1, d2 = low_red * next2, low_green * next2, low_blue * next2
                upper_errors[four_at], upper_errors[four_at + long_one], upper_errors[four_at + long_two] = red, green, blue
                lower_errors[four_under], lower_errors[four_under + long_one] = low_red, low_green
                lower_errors[four_under + long_two] = low_blue
                column += step
                follower += step
        _take_row(
            pixels[y * width : (y + 1) * width], threshold, upper_words[rows], upper_shown[rows], nearest, bits, ranks, transparent,
            indices[y],
        )  # fmt: skip
        if y + 1 < height:
            _take_row(
                pixels[(y + 1) * width : (y + 2) * width], threshold, lower_words[rows], lower_shown[rows], nearest, bits, ranks,
                transparent, indices[y + 1],
            )  # fmt: skip


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


LAB_LEVELS, LAB_SIDE = 64, 32
"""Steps of lightness, and of a and b, in the OKLab grid."""
LOWEST_A, LOWEST_B, LAB_WIDE = -0.26, -0.34, 0.56
"""Where a and b begin in the OKLab grid, and how far it goes on; sRGB lies within; what error carries beyond counts as the end."""
_LAB_STEPS = np.float32((LAB_SIDE - 1) / LAB_WIDE)


@njit(inline="always")
def _lab_cell(lightness, a, b):
    """Grid cell of a color inside the grid."""
    half = np.float32(0.5)
    first = np.uint32(np.int32(lightness * np.float32(LAB_LEVELS - 1) + half))
    second = np.uint32(np.int32((a - np.float32(LOWEST_A)) * _LAB_STEPS + half))
    third = np.uint32(np.int32((b - np.float32(LOWEST_B)) * _LAB_STEPS + half))
    return np.uint32((first << 10) | (second << 5) | third)


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
    serpentine, orders, distances, nearest, bits, ranks, levels, middles, points, units, regions, cells, parts, channels, lists,
    counts, room, near, indices,
):  # fmt: skip
    """reach : (3,) float32, how far a color may be carried in OKLab; in linear light `ranges` says it.

    flat : (d,) bool, distinct colors that stay. too_far : (k, k) bool, pairs of palette colors that may not be mixed.
    kernel and what comes from the table of near colors: as in `diffuse_rows`.
    """
    height, width = indices.shape
    lab_cells = np.full(LAB_LEVELS * LAB_SIDE * LAB_SIDE if in_oklab else 1, UNMET, dtype=np.int16)
    if in_oklab:
        for color in range(palette.shape[0]):
            own = _lab_cell(palette[color, 0], palette[color, 1], palette[color, 2])
            lab_cells[own] = color if lab_cells[own] == UNMET else SHARED
    errors = np.zeros((3, 3, width + 2 * REACH), dtype=np.float32)
    here = np.zeros((3, width), dtype=np.float32)
    row = np.zeros((3, width), dtype=np.float32)
    zero, one = np.float32(0), np.float32(1)
    low_a, low_b, wide = np.float32(LOWEST_A), np.float32(LOWEST_B), np.float32(LAB_WIDE)
    span, offset = np.float32(SPAN), np.float32(OFFSET)
    reach0, reach1, reach2 = reach[0], reach[1], reach[2]
    next1, next2 = kernel[0, REACH + 1], kernel[0, REACH + 2]
    has_third = kernel[2].any()
    by_color = has_flat or has_limit
    best = np.uint64(0)
    step = 1
    for y in range(height):
        before = step
        step = -1 if serpentine and y % 4 >= 2 else 1
        if y > 0:
            _gather(errors[(y - 1) % 3], kernel[1], before, here, False)
        if has_third and y > 1:
            _gather(errors[(y - 2) % 3], kernel[2], -1 if serpentine and (y - 2) % 4 >= 2 else 1, here, True)
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
                under0, under1, under2 = zero, low_a, low_b
                over0, over1, over2 = one, low_a + wide, low_b + wide
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
            a, b, c = _within(a, least0, most0), _within(b, least1, most1), _within(c, least2, most2)
            if in_oklab:
                cell = _lab_cell(p, q, r)
                entry = lab_cells[cell]
                if entry >= 0:
                    best = np.uint64(entry)
                elif entry == UNMET:
                    steps = np.float32(1) / _LAB_STEPS
                    p = np.float32(cell >> np.uint32(10)) / np.float32(LAB_LEVELS - 1)
                    q = np.float32((cell >> np.uint32(5)) & np.uint32(31)) * steps + low_a
                    r = np.float32(cell & np.uint32(31)) * steps + low_b
                    guess = np.int64(nearest[rank_of(value & np.uint32(0xFFFFFF), bits, ranks)])
                    guess = descend(p, q, r, guess, oklab, orders[:, :NEIGHBORS])
                    lab_cells[cell] = guess
                    best = np.uint64(guess)
                else:
                    found, _span = search(p, q, r, np.int64(best), oklab, orders, distances)
                    best = np.uint64(found)
            else:
                p, q, r = p * span + offset, q * span + offset, r * span + offset
                best = np.uint64(meet(
                    p, q, r, levels, middles, points, units, regions, cells, parts, channels, lists, counts, room, near,
                ))  # fmt: skip
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
