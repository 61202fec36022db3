"""Error diffusion with any kernel of up to three rows: the loop.

A pixel has to wait for the one before it, some fifty steps of the processor, so four rows that go the same way do it side by side:
each follows a block of columns behind the one above and gets what that passes down as a small convolution of its finished errors.
To and fro, therefore, means four rows forth and four back. What goes to the rows below them is the same convolution, many pixels at
a time, so that the wide kernels cost little more than the narrow ones.

The nearest color comes from a table (`near_colors.py`), over coded linear light or over OKLab.
"""

import numpy as np

from huvren.core.color.arrays import Bytes, Floats, Integers
from huvren.core.color.kernels import linear_to_rough_oklab32
from huvren.core.compiled import njit
from huvren.core.reduction.dithers.near_colors import OFFSET, SPAN, exact
from huvren.core.reduction.histogram import rank_of

REACH = 2
"""The farthest column, either way, that a kernel passes error to."""
ROWS = 4
"""Rows that are gone through side by side."""
BLOCK = 32
BEHIND = BLOCK + REACH
"""Columns that each of them is behind the one above it: a block, and what a kernel reaches."""
ASIDE = ROWS * BEHIND
"""Columns on either side of a row where pixels are that stay and pass nothing on: so the loop need not know where a row ends."""
STILL = np.uint32(256 | 257 << 10 | 258 << 20)
"""In place of a pixel's three bytes: the color first in the palette, exactly, in each of its channels."""


@njit(inline="always")
def _convolved(errors, x, taps):
    return (
        errors[x] * taps[4] + errors[x + 4] * taps[3] + errors[x + 8] * taps[2] + errors[x + 12] * taps[1] + errors[x + 16] * taps[0]
    )


@njit(inline="always")
def _in_step(taps, step):
    """A kernel's row of five parts, as a row that goes this way meets it."""
    if step < 0:
        return taps[4], taps[3], taps[2], taps[1], taps[0]
    return taps[0], taps[1], taps[2], taps[3], taps[4]


@njit(cache=True, fastmath={"contract", "nnan", "nsz"}, _nrt=False)
def _pass_down(errors, taps, step, adds, into):
    """What a finished row passes to one below it: four numbers for each column, convolved with the kernel's row of five parts.

    errors : (4 (n + 2 · REACH),), from `REACH` columns before those of into, (4 n,)
    """
    taps = _in_step(taps, step)
    if adds:
        for x in range(into.size):
            into[x] += _convolved(errors, x, taps)
    else:
        for x in range(into.size):
            into[x] = _convolved(errors, x, taps)


@njit(cache=True, fastmath={"contract", "nnan", "nsz"}, _nrt=False)
def _pass_block_down(errors, taps, step, adds, into):
    """The same of a block: of that the processor knows the length."""
    taps = _in_step(taps, step)
    is_narrow = taps[0] == 0 and taps[4] == 0
    if adds and is_narrow:
        for x in range(4 * BLOCK):
            into[x] += errors[x + 4] * taps[3] + errors[x + 8] * taps[2] + errors[x + 12] * taps[1]
    elif adds:
        for x in range(4 * BLOCK):
            into[x] += _convolved(errors, x, taps)
    elif is_narrow:
        for x in range(4 * BLOCK):
            into[x] = errors[x + 4] * taps[3] + errors[x + 8] * taps[2] + errors[x + 12] * taps[1]
    else:
        for x in range(4 * BLOCK):
            into[x] = _convolved(errors, x, taps)


@njit(cache=True, _nrt=False)
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


@njit(cache=True, error_model="numpy", _nrt=False)
def _in_oklab(pixels, words, light, lows, widths, first, second, third, moves):
    """A row's pixels in steps of OKLab, and how much of its reach each may be carried: none of what is `STILL`, whose color is left.

    light : (256,) float32, linear, of each byte
    """
    scale0, scale1, scale2 = np.float32(SPAN) / widths[0], np.float32(SPAN) / widths[1], np.float32(SPAN) / widths[2]
    offset = np.float32(OFFSET)
    low0, low1, low2 = offset - lows[0] * scale0, offset - lows[1] * scale1, offset - lows[2] * scale2
    still0, still1, still2 = first[0], second[0], third[0]
    inside = slice(ASIDE, ASIDE + pixels.size)
    red, green, blue = first[inside], second[inside], third[inside]
    for x in range(pixels.size):
        value = pixels[x]
        red[x] = light[value & np.uint32(255)]
        green[x] = light[(value >> np.uint32(8)) & np.uint32(255)]
        blue[x] = light[(value >> np.uint32(16)) & np.uint32(255)]
    for x in range(pixels.size):
        lightness, a, b = linear_to_rough_oklab32(red[x], green[x], blue[x])
        red[x], green[x], blue[x] = lightness * scale0 + low0, a * scale1 + low1, b * scale2 + low2
    for x in range(first.size):
        moves[x] = np.float32(1)
        if words[x] == STILL:
            first[x], second[x], third[x], moves[x] = still0, still1, still2, np.float32(0)


@njit(cache=True, _nrt=False)
def _own_colors(pixels, words, bits, ranks, nearest, own):
    """The color nearest to each pixel of a row as it is in the picture; the first of all for what is `STILL`."""
    for x in range(own.size):
        own[x] = 0
        if words[x] != STILL:
            own[x] = nearest[rank_of(pixels[x - ASIDE] & np.uint32(0xFFFFFF), bits, ranks)]


@njit(cache=True, _nrt=False)
def _take_row(pixels, threshold, words, shown, nearest, bits, ranks, transparent, indices):
    """A finished row; what stayed is clear, or has the color nearest to it."""
    still = 0
    for x in range(words.size):
        indices[x] = shown[x]
        still += words[x] == STILL
    if still == 0:
        return
    for x in range(indices.size):
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
def _carried(word, ranges, here, four, onward):
    """A pixel, given as its three bytes, with the error that it got from above and from the one before, within its range."""
    one, two = np.uint32(1), np.uint32(2)
    i, j = (word & np.uint32(1023)) << two, (word >> np.uint32(8)) & np.uint32(4092)
    k = (word >> np.uint32(18)) & np.uint32(4092)
    return (
        _within(ranges[i] + here[four] + onward[0], ranges[i + one], ranges[i + two]),
        _within(ranges[j] + here[four + np.uint64(1)] + onward[1], ranges[j + one], ranges[j + two]),
        _within(ranges[k] + here[four + np.uint64(2)] + onward[2], ranges[k + one], ranges[k + two]),
    )


@njit(inline="always")
def _carried_in_oklab(row, at, reach, here, four, onward):
    """The same of a pixel of a row in OKLab."""
    a, b, c, moves = row[0, at], row[1, at], row[2, at], row[3, at]
    over0, over1, over2 = moves * reach[0], moves * reach[1], moves * reach[2]
    return (
        _within(a + here[four] + onward[0], a - over0, a + over0),
        _within(b + here[four + np.uint64(1)] + onward[1], b - over1, b + over1),
        _within(c + here[four + np.uint64(2)] + onward[2], c - over2, c + over2),
    )


@njit(inline="always")
def _entry(color, cells, cell_levels):
    """What the table of near colors says of a color in steps."""
    first, second, third = np.uint32(np.int32(color[0])), np.uint32(np.int32(color[1])), np.uint32(np.int32(color[2]))
    high, middle = np.uint32(cell_levels[first]) << np.uint32(10), np.uint32(cell_levels[second]) << np.uint32(5)
    return np.int32(cells[high | middle | np.uint32(cell_levels[third])])


@njit(inline="always")
def _part(color, entry, levels, parts):
    """What the table says of a color: that of its part, where the entry is of a shared cell, or the entry as it is.

    Parts are looked up in any case: which of four entries is of a shared cell cannot be foreseen.
    """
    seven = np.uint32(7)
    first, second, third = np.uint32(np.int32(color[0])), np.uint32(np.int32(color[1])), np.uint32(np.int32(color[2]))
    high, middle = (np.uint32(levels[first]) & seven) << np.uint32(6), (np.uint32(levels[second]) & seven) << np.uint32(3)
    number = np.uint32(max(np.int32(-2) - entry, np.int32(0)))
    part = np.int32(parts[(number << np.uint32(9)) | high | middle | (np.uint32(levels[third]) & seven)])
    return part if (entry < 0) & (part >= 0) else entry


@njit(inline="always")
def _left(color, best, colors, errors, four):
    """What is left of a color when the best of the palette is shown; it is kept for the rows below."""
    place = np.uint32(best) << np.uint32(2)
    left = color[0] - colors[place], color[1] - colors[place + np.uint32(1)], color[2] - colors[place + np.uint32(2)]
    errors[four], errors[four + np.uint64(1)], errors[four + np.uint64(2)] = left
    return left


@njit(inline="always")
def _times(values, share):
    return values[0] * share, values[1] * share, values[2] * share


@njit(inline="always")
def _onward(left, share, before):
    """What the pixel after next to one gets of it, and of the one before that."""
    return left[0] * share + before[0], left[1] * share + before[1], left[2] * share + before[2]


@njit(cache=True, fastmath={"contract", "nnan", "nsz"}, _nrt=False)
def diffuse_rows(  # noqa: C901  (a kernel: all that four pixels need in one loop)
    pixels, threshold, has_flat, flat, nearest, bits, ranks, transparent, ranges, light, reach, too_far, has_limit, colors, kernel,
    serpentine, is_oklab, lows, widths, cell_levels, levels, cells, parts, channels, own_lists, own_counts, room, near,
    errors, here, source, words, shown, own, indices,
):  # fmt: skip
    """ranges : (259 · 4,) float32, of each byte its light in steps and how far it may be carried; then `STILL`'s three channels.

    light, reach : (256,) and (3,) float32, the same where the work is in OKLab: linear light, and a way either side in steps
    too_far : (k, k) bool, pairs of palette colors that may not be mixed: the pixel's own nearest is taken instead
    colors : (k · 4,) float32 in steps. flat : (d,) bool, distinct colors that stay
    kernel : (3, 5) float32, shares of the error for this row and the two below, two columns back to two onward
    What is behind `serpentine`: see `near_colors.Grid` and `near_colors.NearTable`; from `errors` on: see `workspace`.

    Nothing is allocated here, and so no reference counted: at each slice of an array that would cost more than its pixels do.
    """
    height, width = indices.shape
    words[:] = STILL
    for channel in range(3):
        source[:, channel] = colors[channel]
    reaches = reach[0], reach[1], reach[2]
    words0, words1, words2, words3 = words[0], words[1], words[2], words[3]
    shown0, shown1, shown2, shown3 = shown[0], shown[1], shown[2], shown[3]
    here0, here1, here2, here3 = here[0], here[1], here[2], here[3]
    source0, source1, source2, source3 = source[0], source[1], source[2], source[3]
    next1, next2 = kernel[0, REACH + 1], kernel[0, REACH + 2]
    has_third = kernel[2].any()
    zero, long_two = np.float32(0), np.uint64(2)
    nothing = zero, zero, zero
    inner = slice(4 * ASIDE, 4 * (ASIDE + width))
    around = slice(4 * (ASIDE - REACH), 4 * (ASIDE + width + REACH))
    rows = slice(ASIDE, ASIDE + width)
    step = 1
    for y in range(0, height, ROWS):
        before = step
        step = -1 if serpentine and y % (2 * ROWS) == ROWS else 1
        first_error = y % (2 * ROWS)
        if y > 0:
            above = errors[(y - 1) % (2 * ROWS)][around]
            _pass_down(above, kernel[1], before, False, here0[inner])
            if has_third:
                _pass_down(errors[(y - 2) % (2 * ROWS)][around], kernel[2], before, True, here0[inner])
                _pass_down(above, kernel[2], before, False, here1[inner])
        for row in range(ROWS):
            its_pixels = pixels[(y + row) * width : min(y + row + 1, height) * width]
            if y + row < height:
                _spread(its_pixels, threshold, has_flat, flat, bits, ranks, words[row][rows])
            else:
                words[row] = STILL
            if is_oklab:
                _in_oklab(its_pixels, words[row], light, lows, widths, source[row, 0], source[row, 1], source[row, 2], source[row, 3])
            if has_limit:
                _own_colors(its_pixels, words[row], bits, ranks, nearest, own[row])
        errors0, errors1 = errors[first_error], errors[first_error + 1]
        errors2, errors3 = errors[first_error + 2], errors[first_error + 3]
        # What the next pixel of each row gets, and what the one after that gets of the pixel before.
        onward0 = onward1 = onward2 = onward3 = nothing
        after0 = after1 = after2 = after3 = nothing
        column = ASIDE if step == 1 else ASIDE + width - 1
        for _ in range((width + (ROWS - 1) * BEHIND + BLOCK - 1) // BLOCK):
            for row in range(1, ROWS):
                first = column - step * row * BEHIND
                first = first if step == 1 else first - BLOCK + 1
                place, span = slice(4 * first, 4 * (first + BLOCK)), slice(4 * (first - REACH), 4 * (first + BLOCK + REACH))
                _pass_block_down(errors[first_error + row - 1][span], kernel[1], step, has_third and row == 1, here[row][place])
                if has_third and row > 1:
                    _pass_block_down(errors[first_error + row - 2][span], kernel[2], step, True, here[row][place])
            for _ in range(BLOCK):
                # All rows at once, line by line, so that none waits where another could go on.
                at0, at1 = np.uint64(column), np.uint64(column - step * BEHIND)
                at2, at3 = np.uint64(column - step * 2 * BEHIND), np.uint64(column - step * 3 * BEHIND)
                four0, four1, four2, four3 = at0 << long_two, at1 << long_two, at2 << long_two, at3 << long_two
                if is_oklab:
                    color0 = _carried_in_oklab(source0, at0, reaches, here0, four0, onward0)
                    color1 = _carried_in_oklab(source1, at1, reaches, here1, four1, onward1)
                    color2 = _carried_in_oklab(source2, at2, reaches, here2, four2, onward2)
                    color3 = _carried_in_oklab(source3, at3, reaches, here3, four3, onward3)
                else:
                    color0 = _carried(words0[at0], ranges, here0, four0, onward0)
                    color1 = _carried(words1[at1], ranges, here1, four1, onward1)
                    color2 = _carried(words2[at2], ranges, here2, four2, onward2)
                    color3 = _carried(words3[at3], ranges, here3, four3, onward3)
                best0, best1 = _entry(color0, cells, cell_levels), _entry(color1, cells, cell_levels)
                best2, best3 = _entry(color2, cells, cell_levels), _entry(color3, cells, cell_levels)
                if (best0 | best1 | best2 | best3) < 0:
                    best0 = _part(color0, best0, levels, parts)
                    best1 = _part(color1, best1, levels, parts)
                    best2 = _part(color2, best2, levels, parts)
                    best3 = _part(color3, best3, levels, parts)
                    if (best0 | best1 | best2 | best3) < 0:
                        if best0 < 0:
                            best0 = exact(color0, best0, is_oklab, lows, widths, channels, own_lists, own_counts, room, near)
                        if best1 < 0:
                            best1 = exact(color1, best1, is_oklab, lows, widths, channels, own_lists, own_counts, room, near)
                        if best2 < 0:
                            best2 = exact(color2, best2, is_oklab, lows, widths, channels, own_lists, own_counts, room, near)
                        if best3 < 0:
                            best3 = exact(color3, best3, is_oklab, lows, widths, channels, own_lists, own_counts, room, near)
                if has_limit:
                    # A color too far from the pixel's own nearest makes specks.
                    best0 = np.int32(own[0, at0]) if too_far[own[0, at0], best0] else best0
                    best1 = np.int32(own[1, at1]) if too_far[own[1, at1], best1] else best1
                    best2 = np.int32(own[2, at2]) if too_far[own[2, at2], best2] else best2
                    best3 = np.int32(own[3, at3]) if too_far[own[3, at3], best3] else best3
                shown0[at0], shown1[at1], shown2[at2], shown3[at3] = best0, best1, best2, best3
                left0, left1 = _left(color0, best0, colors, errors0, four0), _left(color1, best1, colors, errors1, four1)
                left2, left3 = _left(color2, best2, colors, errors2, four2), _left(color3, best3, colors, errors3, four3)
                onward0, onward1 = _onward(left0, next1, after0), _onward(left1, next1, after1)
                onward2, onward3 = _onward(left2, next1, after2), _onward(left3, next1, after3)
                after0, after1 = _times(left0, next2), _times(left1, next2)
                after2, after3 = _times(left2, next2), _times(left3, next2)
                column += step
        for row in range(min(ROWS, height - y)):
            _take_row(
                pixels[(y + row) * width : (y + row + 1) * width], threshold, words[row][rows], shown[row][rows], nearest,
                bits, ranks, transparent, indices[y + row],
            )  # fmt: skip


@njit(cache=True, error_model="numpy")
def rough_oklab(light):
    """(k, 3) float32 OKLab of linear light, in the very numbers in which `diffuse_rows` has the pixels."""
    colors = np.empty_like(light)
    for row in range(light.shape[0]):
        colors[row, 0], colors[row, 1], colors[row, 2] = linear_to_rough_oklab32(light[row, 0], light[row, 1], light[row, 2])
    return colors


def workspace(width: int, in_oklab: bool, has_limit: bool) -> tuple[Floats, Floats, Floats, Integers, Bytes, Bytes]:
    """What `diffuse_rows` works in.

    Parameters
    ----------
    width : int
        Columns of the picture.
    in_oklab, has_limit : bool
        Whether rows are prepared in OKLab, and whether each pixel's own color is asked for.

    Returns
    -------
    tuple[Floats, Floats, Floats, Integers, Bytes, Bytes]
        Errors of two times `ROWS` rows; what each of `ROWS` rows gets from above, their colors in OKLab, their bytes, what is shown,
        and the color nearest to each pixel.
    """
    wide = width + 2 * ASIDE
    return (
        np.zeros((2 * ROWS, 4 * wide), dtype=np.float32), np.zeros((ROWS, 4 * wide), dtype=np.float32),
        np.zeros((ROWS, 4, wide if in_oklab else 1), dtype=np.float32), np.zeros((ROWS, wide), dtype=np.uint32),
        np.zeros((ROWS, wide), dtype=np.uint8), np.zeros((ROWS, wide if has_limit else 1), dtype=np.uint8),
    )  # fmt: skip


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
