"""The exact histogram of a picture's distinct colors.

A bit for each of the 2^24 colors (2 MiB) says which occur; with a running count per 64-bit word the rank of a
color, its row in every per-color table, is two look-ups. So the whole reduction works once per distinct color and
touches each pixel only to look it up, whatever the picture's size.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from huvren.core.color.arrays import Bytes, Floats, Integers, Words
from huvren.core.color.kernels import linear_to_oklab32
from huvren.core.color.transfer import decode_srgb_array
from huvren.core.compiled import get_num_threads, njit, prange
from huvren.core.errors import BadInput

LINEAR_OF_BYTE = decode_srgb_array(np.arange(256) / 255).astype(np.float32)
WORDS = 1 << 18


@dataclass(frozen=True)
class Histogram:
    """Distinct opaque colors of a picture, in rank order.

    bits, ranks : (2^18,) membership words and the count of colors before each word
    colors : (d,) uint32, red + green·2^8 + blue·2^16
    counts : (d,) int64, pixels of each
    oklab : (d, 3) float32
    transparent : pixels whose alpha is below `alpha_threshold`
    """

    bits: Words
    ranks: Words
    colors: Words
    counts: Integers
    oklab: Floats
    transparent: int
    alpha_threshold: int
    """Alpha below it counts as clear."""

    @property
    def distinct(self) -> int:
        return len(self.colors)

    @property
    def opaque(self) -> int:
        return int(self.counts.sum())

    @cached_property
    def points(self) -> "Points":
        """The colors as weighted points to choose from, see `bin_colors`."""
        return bin_colors(self)

    def rgb(self) -> Bytes:
        """(d, 3) uint8 sRGB of the distinct colors.

        Returns
        -------
        Bytes
            (d, 3) uint8 sRGB of the distinct colors.
        """
        return np.stack([self.colors & 255, (self.colors >> 8) & 255, self.colors >> 16], axis=-1).astype(np.uint8)


@njit(inline="always")
def popcount(word):
    """Bits set in a 64-bit word."""
    word = word - ((word >> np.uint64(1)) & np.uint64(0x5555555555555555))
    word = (word & np.uint64(0x3333333333333333)) + ((word >> np.uint64(2)) & np.uint64(0x3333333333333333))
    word = (word + (word >> np.uint64(4))) & np.uint64(0x0F0F0F0F0F0F0F0F)
    return (word * np.uint64(0x0101010101010101)) >> np.uint64(56)


@njit(inline="always")
def rank_of(key, bits, ranks):
    """Row of a color in the per-color tables; the color must occur in the picture."""
    place = key >> np.uint32(6)
    below = (np.uint64(1) << np.uint64(key & np.uint32(63))) - np.uint64(1)
    return np.int64(ranks[place]) + np.int64(popcount(bits[place] & below))


@njit(parallel=True, cache=True)
def _mark(pixels, threshold, parts):
    bits = np.zeros((parts, WORDS), dtype=np.uint64)
    hidden = np.zeros(parts * 16, dtype=np.int64)
    total = pixels.size
    for part in prange(parts):
        count = 0
        for pixel in range(total * part // parts, total * (part + 1) // parts):
            value = pixels[pixel]
            if value >> np.uint32(24) < threshold:
                count += 1
                continue
            key = value & np.uint32(0xFFFFFF)
            bits[part, key >> np.uint32(6)] |= np.uint64(1) << np.uint64(key & np.uint32(63))
        hidden[part * 16] = count
    merged = bits[0]
    for part in range(1, parts):
        merged |= bits[part]
    ranks = np.empty(WORDS, dtype=np.uint32)
    running = np.uint32(0)
    for place in range(WORDS):
        ranks[place] = running
        running += np.uint32(popcount(merged[place]))
    return merged, ranks, np.int64(running), hidden.sum()


@njit(parallel=True, cache=True)
def _count(pixels, threshold, bits, ranks, distinct, parts):
    partial = np.zeros((parts, distinct), dtype=np.uint32)
    total = pixels.size
    for part in prange(parts):
        for pixel in range(total * part // parts, total * (part + 1) // parts):
            value = pixels[pixel]
            if value >> np.uint32(24) >= threshold:
                partial[part, rank_of(value & np.uint32(0xFFFFFF), bits, ranks)] += np.uint32(1)
    counts = np.zeros(distinct, dtype=np.int64)
    for part in range(parts):
        counts += partial[part]
    return counts


@njit(cache=True)
def _list_colors(bits, ranks, distinct):
    colors = np.empty(distinct, dtype=np.uint32)
    for place in range(WORDS):
        word = bits[place]
        row = ranks[place]
        while word:
            lowest = word & (~word + np.uint64(1))
            colors[row] = np.uint32(place * 64) + np.uint32(popcount(lowest - np.uint64(1)))
            row += 1
            word ^= lowest
    return colors


AT_ONCE = 512
"""Colors that are converted together, channel by channel: by instructions for several at a time."""


@njit(cache=True, error_model="numpy", _nrt=False)
def oklab_of_words(words, linear, lightness, a, b):
    """OKLab of colors given as words, red in the lowest byte: into three arrays as long. linear : (256,) light of each byte"""
    for row in range(words.size):
        word = words[row]
        lightness[row] = linear[word & 255]
        a[row] = linear[(word >> 8) & 255]
        b[row] = linear[(word >> 16) & 255]
    for row in range(words.size):
        lightness[row], a[row], b[row] = linear_to_oklab32(lightness[row], a[row], b[row])


@njit(parallel=True, cache=True)
def _oklab_of_keys(colors, linear, parts):
    oklab = np.empty((colors.size, 3), dtype=np.float32)
    for part in prange(parts):
        room = np.empty((3, AT_ONCE), dtype=np.float32)
        for begin in range(colors.size * part // parts, colors.size * (part + 1) // parts, AT_ONCE):
            end = min(begin + AT_ONCE, colors.size * (part + 1) // parts)
            lightness, a, b = room[0, : end - begin], room[1, : end - begin], room[2, : end - begin]
            oklab_of_words(colors[begin:end], linear, lightness, a, b)
            for row in range(begin, end):
                oklab[row, 0], oklab[row, 1], oklab[row, 2] = lightness[row - begin], a[row - begin], b[row - begin]
    return oklab


def oklab_of_rgb(rgb: Bytes) -> Floats:
    """(k, 3) uint8 sRGB → (k, 3) float32 OKLab, by the very arithmetic of the histogram, so that equal is equal.

    Parameters
    ----------
    rgb : Bytes
        (k, 3) uint8 sRGB.

    Returns
    -------
    Floats
        (k, 3) float32 OKLab, by the very arithmetic of the histogram, so that equal is equal.
    """
    red, green, blue = (np.asarray(rgb, dtype=np.uint32).reshape(-1, 3)[:, axis] for axis in range(3))
    return np.asarray(_oklab_of_keys(red | green << 8 | blue << 16, LINEAR_OF_BYTE, get_num_threads()))


def as_words(rgba: Bytes) -> Words:
    """(h, w, 4) uint8 → (h·w,) uint32 view, red in the low byte, alpha in the high one.

    Copies only if it must.

    Parameters
    ----------
    rgba : Bytes
        (h, w, 4) uint8.

    Returns
    -------
    Words
        (h·w,) uint32 view, red in the low byte, alpha in the high one.

    Raises
    ------
    BadInput
        For a picture of no pixels.
    ValueError
        For another shape or type.
    """
    if rgba.dtype != np.uint8 or rgba.ndim != 3 or rgba.shape[2] != 4:
        raise ValueError(f"Expected an (h, w, 4) uint8 picture, got {rgba.dtype} {rgba.shape}.")
    if rgba.size == 0:
        raise BadInput("The picture has no pixels.")
    return np.ascontiguousarray(rgba).view("<u4").reshape(-1)


def build_histogram(rgba: Bytes, alpha_threshold: int = 128) -> Histogram:
    """Count the distinct colors of an (h, w, 4) uint8 picture; alpha below the threshold counts as transparent.

    Parameters
    ----------
    rgba : Bytes
        (h, w, 4) uint8.
    alpha_threshold : int
        Alpha below it counts as clear, 0..255.

    Returns
    -------
    Histogram
        The distinct colors in rising order, with their pixels.
    """
    pixels = as_words(rgba)
    parts = get_num_threads()
    threshold = np.uint32(alpha_threshold)
    bits, ranks, distinct, hidden = _mark(pixels, threshold, parts)
    counts = _count(pixels, threshold, bits, ranks, distinct, parts)
    colors = _list_colors(bits, ranks, distinct)
    oklab = _oklab_of_keys(colors, LINEAR_OF_BYTE, get_num_threads())
    return Histogram(bits, ranks, colors, counts, oklab, int(hidden), alpha_threshold)


def count_distinct(rgba: Bytes, alpha_threshold: int = 128) -> int:
    """Distinct colors of an (h, w, 4) uint8 picture, without a table of them.

    Parameters
    ----------
    rgba : Bytes
        (h, w, 4) uint8.
    alpha_threshold : int
        Alpha below it counts as clear, 0..255.

    Returns
    -------
    int
        How many there are.
    """
    return int(_mark(as_words(rgba), np.uint32(alpha_threshold), get_num_threads())[2])


def unite(histograms: Sequence[Histogram]) -> Histogram:
    """The histogram of several frames together; they must have been counted with the same alpha threshold."""
    if len(histograms) == 1:
        return histograms[0]
    colors, rows = np.unique(np.concatenate([one.colors for one in histograms]), return_inverse=True)
    counts = np.zeros(len(colors), dtype=np.int64)
    np.add.at(counts, rows, np.concatenate([one.counts for one in histograms]))
    bits = np.bitwise_or.reduce([one.bits for one in histograms])
    ranks = np.cumsum(np.bitwise_count(bits), dtype=np.uint32) - np.bitwise_count(bits)
    return Histogram(
        bits, ranks.astype(np.uint32), colors, counts, _oklab_of_keys(colors, LINEAR_OF_BYTE, get_num_threads()),
        sum(one.transparent for one in histograms), histograms[0].alpha_threshold,
    )  # fmt: skip


BIN = 1 / 160
_LEVELS = np.array([162, 112, 104])
_ORIGIN = np.array([0.0, -0.35, -0.35], dtype=np.float32)


@njit(cache=True)
def _bin(oklab, counts, origin, levels, step):
    grid = np.full(levels[0] * levels[1] * levels[2], -1, dtype=np.int32)
    rows = oklab.shape[0]
    bin_of = np.empty(rows, dtype=np.int32)
    sums = np.zeros((rows, 4), dtype=np.float64)
    used = 0
    for row in range(rows):
        cell = 0
        for axis in range(3):
            level = int((oklab[row, axis] - origin[axis]) / step)
            cell = cell * levels[axis] + min(max(level, 0), levels[axis] - 1)
        slot = grid[cell]
        if slot < 0:
            slot = used
            grid[cell] = used
            used += 1
        bin_of[row] = slot
        weight = float(counts[row])
        sums[slot, 0] += weight * oklab[row, 0]
        sums[slot, 1] += weight * oklab[row, 1]
        sums[slot, 2] += weight * oklab[row, 2]
        sums[slot, 3] += weight
    points = np.empty((used, 3), dtype=np.float32)
    weights = np.empty(used, dtype=np.float32)
    for slot in range(used):
        weights[slot] = sums[slot, 3]
        for axis in range(3):
            points[slot, axis] = sums[slot, axis] / sums[slot, 3]
    return points, weights, bin_of


MOST_EXACT = 1 << 15


@dataclass(frozen=True)
class Points:
    """Weighted OKLab points to choose from: the distinct colors, or their means over a fine OKLab grid.

    places : (n, 3) float32; weights : (n,) float32; bin_of : (d,) int32, the point of each distinct color
    """

    places: Floats
    weights: Floats
    bin_of: Integers


def bin_colors(histogram: Histogram) -> Points:
    """The histogram's colors as points; above `MOST_EXACT` of them, as means over cells of 0.6 ΔE."""
    if histogram.distinct <= MOST_EXACT:
        return Points(
            histogram.oklab,
            histogram.counts.astype(np.float32),
            np.arange(histogram.distinct, dtype=np.int32),
        )
    return Points(*_bin(histogram.oklab, histogram.counts, _ORIGIN, _LEVELS, np.float32(BIN)))
