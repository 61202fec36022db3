"""What a palette is tuned on: a picture, or blocks of one or of several set side by side, and where it is looked at.

The blocks are blurred together as they stand, the picture's and the painting's alike, so their seams favor neither.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol

import numpy as np

from huvren.core.color.arrays import Bytes, Floats, Integers
from huvren.core.color.eight_bits import to_eight_bits
from huvren.core.color.kernels import linear_to_oklab32
from huvren.core.color.transfer import encode_srgb_array
from huvren.core.compiled import njit, prange
from huvren.core.reduction.afar import gaussian
from huvren.core.reduction.histogram import LINEAR_OF_BYTE, Histogram, as_words, build_histogram, rank_of

BLOCK = 24
BLOCK_WIDTHS = 8.0
"""A block is at least so many standard deviations of the blur wide."""
STEP_WIDTHS = 1.34
"""Blurred pictures are smooth: they are looked at this many standard deviations apart."""
REACH_WIDTHS = 2.6
"""How far a place looks, in standard deviations."""
DARKEST = 0.0005
"""Linear light below which differences count no more than there."""
EVENLY = (0.7548776662466927, 0.5698402909980532)
"""Steps that fill a square evenly (Roberts 2018, the two-dimensional sequence of the plastic number)."""


Corner = tuple[int, int]


class Framed(Protocol):
    """What is known of a frame."""

    @property
    def rgba(self) -> Bytes:
        """(h, w, 4) uint8."""

    @property
    def histogram(self) -> Histogram:
        """Its distinct colors and their pixels."""


@dataclass(frozen=True)
class Sample:
    """rgba : (h, w, 4) uint8, a picture or blocks of it; histogram of it; is_whole : nothing is left out

    ys, xs : (n,) places that are looked at; taps : (2 r + 1,) shares of the blur
    light : (n, 3) float32, blurred linear light there; oklab : (n, 3) float32 of that light
    metric : (n, 6) float32, the upper triangle of what a small step of linear light there weighs in OKLab
    weights : (n,) float32, how much each place counts
    """

    rgba: Bytes
    histogram: Histogram
    """Its distinct colors and their pixels."""
    is_whole: bool
    ys: Integers
    xs: Integers
    taps: Floats
    light: Floats
    oklab: Floats
    metric: Floats
    weights: Floats


def _block_starts(height: int, width: int, rows: int, columns: int, tile: tuple[int, int], wanted: int, begin: int) -> list[Corner]:
    """Upper left corners of about `wanted` blocks: evenly spread from edge to edge, on the tiles' grid, none over another."""
    down, across = height // rows, width // columns

    def start(cell: int, cells: int, side: int, block: int, edge: int) -> int:
        return int(cell * (side - block) / max(cells - 1, 1)) // edge * edge

    found: dict[Corner, None] = {}
    for step in range(begin, begin + 4 * wanted):
        if len(found) == min(wanted, down * across):
            break
        row, column = int((0.5 + step * EVENLY[0]) % 1 * down), int((0.5 + step * EVENLY[1]) % 1 * across)
        found.setdefault((start(row, down, height, rows, tile[0]), start(column, across, width, columns, tile[1])))
    return list(found)


def _side_by_side(blocks: Sequence[Bytes]) -> Bytes:
    """Blocks in rows of about as many as there are rows; what no block fills is clear."""
    rows, columns = (max(block.shape[axis] for block in blocks) for axis in (0, 1))
    across = max(round(np.sqrt(len(blocks) * rows / columns)), 1)
    whole = np.zeros((-(-len(blocks) // across) * rows, across * columns, 4), dtype=np.uint8)
    for place, block in enumerate(blocks):
        top, left = place // across * rows, place % across * columns
        whole[top : top + block.shape[0], left : left + block.shape[1]] = block
    return whole


def _blocks(frames: Sequence[Framed], tile: tuple[int, int], side: int, enough: int, begin: int) -> Bytes:
    """The frames themselves where they have no more than `enough` pixels, else blocks of them, side by side."""
    if sum(frame.rgba[..., 0].size for frame in frames) <= enough:
        return _side_by_side([frame.rgba for frame in frames])
    blocks = []
    for frame in frames:
        height, width = frame.rgba.shape[:2]
        rows, columns = (min(-(-side // edge) * edge, whole) for edge, whole in zip(tile, (height, width), strict=True))
        wanted = max(enough // (rows * columns * len(frames)), 1)
        for top, left in _block_starts(height, width, rows, columns, tile, wanted, begin):
            block = frame.rgba[top : top + rows, left : left + columns]
            if (block[..., 3] >= frame.histogram.alpha_threshold).any():
                blocks.append(block)
    return _side_by_side(blocks or [frame.rgba[:side, :side] for frame in frames])


@njit(parallel=True, cache=True)
def _look(pixels, width, threshold, linear, ys, xs, taps, light, rows_of, bits, ranks):
    """Blurred linear light at each place, and the row of its own color in the histogram."""
    height = pixels.size // width
    reach = taps.size // 2
    for place in prange(ys.size):
        red = green = blue = total = np.float32(0)
        for down in range(-reach, reach + 1):
            y = ys[place] + down
            if y < 0 or y >= height:
                continue
            for onward in range(-reach, reach + 1):
                x = xs[place] + onward
                if x < 0 or x >= width:
                    continue
                value = pixels[y * width + x]
                if value >> np.uint32(24) < threshold:
                    continue
                share = taps[down + reach] * taps[onward + reach]
                red += share * linear[value & np.uint32(255)]
                green += share * linear[(value >> np.uint32(8)) & np.uint32(255)]
                blue += share * linear[(value >> np.uint32(16)) & np.uint32(255)]
                total += share
        light[place, 0], light[place, 1], light[place, 2] = red / total, green / total, blue / total
        rows_of[place] = rank_of(pixels[ys[place] * width + xs[place]] & np.uint32(0xFFFFFF), bits, ranks)


@njit(cache=True)
def metric_of(light):
    """(n, 3) linear light → (n, 3) OKLab and (n, 6): JᵀJ of the way there, its upper triangle row by row."""
    count = light.shape[0]
    oklab = np.empty((count, 3), dtype=np.float32)
    metric = np.empty((count, 6), dtype=np.float32)
    slope = np.empty((3, 3))
    for place in range(count):
        red, green, blue = light[place, 0], light[place, 1], light[place, 2]
        oklab[place, 0], oklab[place, 1], oklab[place, 2] = linear_to_oklab32(red, green, blue)
        r, g, b = max(red, np.float32(DARKEST)), max(green, np.float32(DARKEST)), max(blue, np.float32(DARKEST))
        l0, a0, b0 = linear_to_oklab32(r, g, b)
        for channel in range(3):
            step = np.float32(0.02) * (r if channel == 0 else g if channel == 1 else b)
            l1, a1, b1 = linear_to_oklab32(
                r + (step if channel == 0 else np.float32(0)), g + (step if channel == 1 else np.float32(0)),
                b + (step if channel == 2 else np.float32(0)),
            )  # fmt: skip
            slope[0, channel], slope[1, channel], slope[2, channel] = (l1 - l0) / step, (a1 - a0) / step, (b1 - b0) / step
        at = 0
        for row in range(3):
            for column in range(row, 3):
                metric[place, at] = (
                    slope[0, row] * slope[0, column] + slope[1, row] * slope[1, column] + slope[2, row] * slope[2, column]
                )
                at += 1
    return oklab, metric


def take_sample(
    frames: Sequence[Framed], histogram: Histogram, factors: Floats, sigma: float, enough: int, tile: tuple[int, int] = (1, 1),
    begin: int = 0,
) -> Sample:  # fmt: skip
    """About `enough` pixels of the frames.

    Parameters
    ----------
    frames : Sequence[Framed]
        Pictures with their colors counted.
    histogram : Histogram
        The distinct colors and their pixels.
    factors : Floats
        (d,) how much a pixel of each color counts.
    sigma : float
        Of the blur, in pixels.
    enough : int
        About how many pixels.
    tile : tuple[int, int]
        (rows, columns) that blocks are made of.
    begin : int
        Another number gives other blocks.

    Returns
    -------
    Sample
        Pixels with what they take from their neighbors.
    """
    threshold = frames[0].histogram.alpha_threshold
    is_whole = len(frames) == 1 and frames[0].rgba.shape[0] * frames[0].rgba.shape[1] <= enough
    side = max(BLOCK, int(np.ceil(BLOCK_WIDTHS * sigma)))
    rgba = frames[0].rgba if is_whole else _blocks(frames, tile, side, enough, begin)
    own = frames[0].histogram if is_whole else build_histogram(rgba, threshold)
    height, width = rgba.shape[:2]
    step = max(int(STEP_WIDTHS * sigma), 1)
    ys, xs = (side.ravel() for side in np.mgrid[min(step // 2, height - 1) : height : step, min(step // 2, width - 1) : width : step])
    seen = rgba[ys, xs, 3] >= threshold
    if not seen.any():
        ys, xs = np.nonzero(rgba[..., 3] >= threshold)
        seen = np.ones(len(ys), dtype=bool)
    ys, xs = ys[seen], xs[seen]
    taps = gaussian(sigma, REACH_WIDTHS)
    light = np.empty((len(ys), 3), dtype=np.float32)
    rows_of = np.empty(len(ys), dtype=np.int64)
    _look(as_words(rgba), width, np.uint32(threshold), LINEAR_OF_BYTE, ys, xs, taps, light, rows_of, own.bits, own.ranks)
    oklab, metric = metric_of(light)
    weights = factors[np.searchsorted(histogram.colors, own.colors[rows_of])].astype(np.float32)
    if not weights.any():
        weights = np.ones(len(ys), dtype=np.float32)
    return Sample(rgba, own, is_whole, ys, xs, taps, light, oklab, metric, weights)


def light_to_bytes(light: Floats) -> Bytes:
    """(k, 3) linear light → (k, 3) uint8 sRGB, what lies outside clipped.

    Parameters
    ----------
    light : Floats
        (k, 3) linear light.

    Returns
    -------
    Bytes
        (k, 3) uint8 sRGB, what lies outside clipped.
    """
    return to_eight_bits(encode_srgb_array(np.clip(light, 0, 1).astype(np.float64)))
