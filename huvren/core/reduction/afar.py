"""Seen from afar: how a picture and its result differ once the eye has mixed what lies close together.

An eye at a distance blurs. Both are blurred in linear light, which is what is added up there, by a Gaussian whose width
grows with the pixels that fall into a degree of the view; what differs then is measured in OKLab. Clear pixels, and what
lies beyond the edge, give no light and take none: each mean is over the opaque pixels alone.
"""

import numpy as np

from huvren.core.color.arrays import Bytes, Floats
from huvren.core.color.difference import DELTA_SCALE
from huvren.core.color.kernels import linear_to_oklab32
from huvren.core.compiled import njit, prange
from huvren.core.reduction.histogram import LINEAR_OF_BYTE, as_words

ARMS_LENGTH = 40
"""Pixels a degree of an ordinary screen, of 96 pixels an inch, at about 60 cm."""
NEAREST, FARTHEST = 10, 200
DEGREES = 1.5 / ARMS_LENGTH
"""Standard deviation of the blur in degrees of the view."""
WIDTHS = 3.0
"""How many standard deviations of the Gaussian are summed up, either way."""
DISTANCES: dict[int, str] = {20: "close up", ARMS_LENGTH: "arm's length", 80: "two steps back", FARTHEST: "across the room"}
"""Names of some distances, by pixels a degree."""


def distance_name(pixels_a_degree: int) -> str:
    """A distance in words."""
    return DISTANCES.get(pixels_a_degree, f"{pixels_a_degree} pixels a degree")


def sigma_of(pixels_a_degree: float) -> float:
    """Standard deviation of the blur in pixels."""
    return pixels_a_degree * DEGREES


def gaussian(sigma: float, widths: float = WIDTHS) -> Floats:
    """(2 r + 1,) float32 shares of a Gaussian, cut off after `widths` standard deviations; they add up to one.

    Parameters
    ----------
    sigma : float
        Of the blur, in pixels.
    widths : float
        Standard deviations after which it is cut off.

    Returns
    -------
    Floats
        (2 r + 1,) float32 shares of a Gaussian, cut off after `widths` standard deviations.
    """
    reach = max(int(np.ceil(widths * sigma)), 1)
    shares = np.exp(-0.5 * (np.arange(-reach, reach + 1) / sigma) ** 2)
    return np.asarray(shares / shares.sum(), dtype=np.float32)


@njit(parallel=True, cache=True)
def _light(pixels, threshold, linear, light):
    """Linear light and cover of each pixel, four float32 side by side; nothing of a clear one."""
    rows, width = light.shape[0], light.shape[1] // 4
    for y in prange(rows):
        for x in range(width):
            value = pixels[y * width + x]
            if value >> np.uint32(24) < threshold:
                light[y, 4 * x] = light[y, 4 * x + 1] = light[y, 4 * x + 2] = light[y, 4 * x + 3] = 0
                continue
            light[y, 4 * x] = linear[value & np.uint32(255)]
            light[y, 4 * x + 1] = linear[(value >> np.uint32(8)) & np.uint32(255)]
            light[y, 4 * x + 2] = linear[(value >> np.uint32(16)) & np.uint32(255)]
            light[y, 4 * x + 3] = 1


@njit(parallel=True, cache=True)
def _painted(indices, covered, palette, light):
    """The same of an index map painted with (256, 3) colors, where `covered` has light."""
    rows, width = indices.shape
    for y in prange(rows):
        for x in range(width):
            cover = covered[y, 4 * x + 3]
            index = indices[y, x]
            for channel in range(3):
                light[y, 4 * x + channel] = palette[index, channel] * cover
            light[y, 4 * x + 3] = cover


@njit(parallel=True, cache=True, fastmath=True)
def _blur(light, taps, result):
    """Each row of `result`: the rows around it summed up, then the columns, as `taps` say."""
    rows, size = light.shape
    reach = taps.size // 2
    for y in prange(rows):
        column = np.zeros(size + 8 * reach, dtype=np.float32)
        middle = column[4 * reach : 4 * reach + size]
        for tap in range(taps.size):
            source = y + tap - reach
            if 0 <= source < rows:
                share = taps[tap]
                row = light[source]
                for x in range(size):
                    middle[x] += share * row[x]
        into = result[y]
        for x in range(size):
            into[x] = 0
        for tap in range(taps.size):
            share = taps[tap]
            row = column[4 * tap : 4 * tap + size]
            for x in range(size):
                into[x] += share * row[x]


@njit(parallel=True, cache=True, fastmath=True)
def _blur_second(light, taps, first, result):
    """As `_blur`, of every second pixel of every second row from `first` on."""
    rows, size = light.shape
    reach = taps.size // 2
    padded = size + 8 * reach
    half = (padded // 4 + 1) // 2 * 4
    for y in prange(result.shape[0]):
        column = np.zeros(padded, dtype=np.float32)
        middle = column[4 * reach : 4 * reach + size]
        for tap in range(taps.size):
            source = first + 2 * y + tap - reach
            if 0 <= source < rows:
                share = taps[tap]
                row = light[source]
                for x in range(size):
                    middle[x] += share * row[x]
        # Pixels at even places and at odd ones, each side by side: what is summed up lies side by side too.
        sides = np.zeros((2, half), dtype=np.float32)
        for place in range(padded // 4):
            for channel in range(4):
                sides[place & 1, (place >> 1) * 4 + channel] = column[4 * place + channel]
        into = result[y]
        for x in range(into.size):
            into[x] = 0
        for tap in range(taps.size):
            share = taps[tap]
            begin = (tap >> 1) * 4
            row = sides[tap & 1, begin : begin + into.size]
            for x in range(row.size):
                into[x] += share * row[x]


@njit(parallel=True, cache=True)
def _gaps(covered, before, after, gaps):
    """OKLab distance of each pixel's means; 0 where it is clear."""
    rows, width = gaps.shape
    for y in prange(rows):
        for x in range(width):
            gaps[y, x] = 0
            if covered[y, 4 * x + 3] == 0:
                continue
            part = np.float32(1) / before[y, 4 * x + 3]
            l0, a0, b0 = linear_to_oklab32(before[y, 4 * x] * part, before[y, 4 * x + 1] * part, before[y, 4 * x + 2] * part)
            l1, a1, b1 = linear_to_oklab32(after[y, 4 * x] * part, after[y, 4 * x + 1] * part, after[y, 4 * x + 2] * part)
            gaps[y, x] = np.sqrt((l0 - l1) ** 2 + (a0 - a1) ** 2 + (b0 - b1) ** 2)


ROWS_AT_ONCE = 512
MANY_PIXELS, BLURRED = 250_000, 1.0
"""Pixels, and the blur, from which on not each is looked at for the mean."""


def gaps_from_afar(rgba: Bytes, indices: Bytes, rgb: Bytes, alpha_threshold: int, sigma: float, step: int = 1) -> Floats:
    """(h, w) float32 ΔEOK (not ×100) between a picture and its result, both blurred; 0 at clear pixels.

    With a `step` of 2 of every second pixel of every second row: what is blurred changes little from one to the next.

    Parameters
    ----------
    rgba : Bytes
        (h, w, 4) uint8.
    indices : Bytes
        (h, w) uint8 index map.
    rgb : Bytes
        (k, 3) uint8 sRGB.
    alpha_threshold : int
        Alpha below it counts as clear, 0..255.
    sigma : float
        Of the blur, in pixels.
    step : int
        1 or 2: from one pixel to the next that is looked at, either way.

    Returns
    -------
    Floats
        (⌈h / step⌉, ⌈w / step⌉) float32 ΔEOK (not ×100) between a picture and its result, both blurred.
    """
    height, width = indices.shape
    palette = np.zeros((256, 3), dtype=np.float32)
    palette[: len(rgb)] = LINEAR_OF_BYTE[rgb]
    taps = gaussian(sigma)
    reach = len(taps) // 2
    gaps = np.empty((-(-height // step), -(-width // step)), dtype=np.float32)
    for start in range(0, height, ROWS_AT_ONCE):
        top, bottom = max(start - reach, 0), min(start + ROWS_AT_ONCE + reach, height)
        light, shown = (np.empty((bottom - top, 4 * width), dtype=np.float32) for _ in range(2))
        _light(as_words(rgba[top:bottom]), np.uint32(alpha_threshold), LINEAR_OF_BYTE, light)
        _painted(indices[top:bottom], light, palette, shown)
        inner = slice(start - top, min(start + ROWS_AT_ONCE, height) - top, step)
        into = gaps[start // step : (start + ROWS_AT_ONCE) // step]
        if step == 1:
            before, after = np.empty_like(light), np.empty_like(light)
            _blur(light, taps, before)
            _blur(shown, taps, after)
            _gaps(light[inner], before[inner], after[inner], into)
        else:
            before, after = (np.empty((len(into), 4 * into.shape[1]), dtype=np.float32) for _ in range(2))
            _blur_second(light, taps, start - top, before)
            _blur_second(shown, taps, start - top, after)
            covered = np.ascontiguousarray(light[inner].reshape(len(into), width, 4)[:, ::step]).reshape(len(into), -1)
            _gaps(covered, before, after, into)
    return gaps


def mean_from_afar(rgba: Bytes, indices: Bytes, rgb: Bytes, alpha_threshold: int, sigma: float) -> float:
    """Mean ΔEOK×100 of the opaque pixels, see `gaps_from_afar`; 0 where all is clear.

    Of many pixels every second of every second row, which stayed within 0.3 % on every picture that was tried.

    Parameters
    ----------
    rgba : Bytes
        (h, w, 4) uint8.
    indices : Bytes
        (h, w) uint8 index map.
    rgb : Bytes
        (k, 3) uint8 sRGB.
    alpha_threshold : int
        Alpha below it counts as clear, 0..255.
    sigma : float
        Of the blur, in pixels.

    Returns
    -------
    float
        ΔEOK×100.
    """
    step = 2 if indices.size >= MANY_PIXELS and sigma >= BLURRED else 1
    opaque = int((rgba[::step, ::step, 3] >= alpha_threshold).sum())
    gaps = gaps_from_afar(rgba, indices, rgb, alpha_threshold, sigma, step)
    return float(gaps.sum(dtype=np.float64)) / opaque * DELTA_SCALE if opaque else 0.0


@njit(parallel=True, cache=True)
def _halved(pixels, width, threshold, indices, palette, linear, sums):
    """Of each pair of rows: the sum of OKLab distances between means of two by two coded values, and how many there are."""
    rows = indices.shape[0] // 2
    for row in prange(rows):
        for column in range(width // 2):
            many = 0
            red0 = green0 = blue0 = red1 = green1 = blue1 = 0
            for y in range(2 * row, 2 * row + 2):
                for x in range(2 * column, 2 * column + 2):
                    value = pixels[y * width + x]
                    if value >> np.uint32(24) < threshold:
                        continue
                    many += 1
                    index = indices[y, x]
                    red0 += value & np.uint32(255)
                    green0 += (value >> np.uint32(8)) & np.uint32(255)
                    blue0 += (value >> np.uint32(16)) & np.uint32(255)
                    red1 += palette[index, 0]
                    green1 += palette[index, 1]
                    blue1 += palette[index, 2]
            if many < 4:
                continue
            l0, a0, b0 = linear_to_oklab32(linear[(red0 + 2) // 4], linear[(green0 + 2) // 4], linear[(blue0 + 2) // 4])
            l1, a1, b1 = linear_to_oklab32(linear[(red1 + 2) // 4], linear[(green1 + 2) // 4], linear[(blue1 + 2) // 4])
            sums[row, 0] += np.sqrt((l0 - l1) ** 2 + (a0 - a1) ** 2 + (b0 - b1) ** 2)
            sums[row, 1] += 1


def gap_when_halved(rgba: Bytes, indices: Bytes, rgb: Bytes, alpha_threshold: int) -> float:
    """Mean ΔEOK (not ×100) between copies of half the size, as most viewers make them: by averaging coded values two by two.

    Parameters
    ----------
    rgba : Bytes
        (h, w, 4) uint8.
    indices : Bytes
        (h, w) uint8 index map.
    rgb : Bytes
        (k, 3) uint8 sRGB.
    alpha_threshold : int
        Alpha below it counts as clear, 0..255.

    Returns
    -------
    float
        0 where no four opaque pixels stand together.
    """
    palette = np.zeros((256, 3), dtype=np.uint8)
    palette[: len(rgb)] = rgb
    sums = np.zeros((max(len(indices) // 2, 1), 2))
    _halved(as_words(rgba), indices.shape[1], np.uint32(alpha_threshold), indices, palette, LINEAR_OF_BYTE, sums)
    total, many = sums.sum(axis=0)
    return float(total / many) if many else 0.0
