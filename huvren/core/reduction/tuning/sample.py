"""What a palette is tuned on: a picture, or blocks of one or of several set side by side, and where it is looked at.

The blocks are blurred together as they stand, the picture's and the painting's alike, so their seams favor neither.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Protocol

import numpy as np

from huvren.core.color.arrays import Bytes, Floats, Integers
from huvren.core.color.eight_bits import to_eight_bits
from huvren.core.color.kernels import linear_to_oklab32
from huvren.core.color.transfer import encode_srgb_array
from huvren.core.compiled import njit, prange
from huvren.core.reduction.afar import gaussian
from huvren.core.reduction.grain import Term
from huvren.core.reduction.histogram import LINEAR_OF_BYTE, Histogram, as_words, build_histogram, rank_of

BLOCK = 24
CELL, LEAST_OF_CELL = 32, 0.5
"""Pixels of the squares of a whole picture that are looked at one by one, and the part of one that has to be there."""
LOOKED_AT, PARTS, KIND = 2, 3, 0.06
"""Every second pixel of a block tells its kind, in 3 × 3 parts; kinds are cells of OKLab of this size."""
RARE = 5
"""One block of so many is there for a kind that is met nowhere else."""
BLOCK_WIDTHS = 8.0
"""A block is at least so many standard deviations of the blur wide."""
STEP_WIDTHS = 1.34
"""Blurred pictures are smooth: they are looked at this many standard deviations apart."""
NEAR_STEP, FAR_STEP_WIDTHS = 3, 2.0
"""From other distances than the recipe's own fewer places are enough: a step of 3 pixels meets all rows of an ordered dither."""
REACH_WIDTHS = 2.6
"""How far a place looks, in standard deviations."""
DARKEST = 0.0005
"""Linear light below which differences count no more than there."""
EVENLY = (0.7548776662466927, 0.5698402909980532)
"""Steps that fill a square evenly (Roberts 2018, the two-dimensional sequence of the plastic number)."""


class Framed(Protocol):
    """What is known of a frame."""

    @property
    def rgba(self) -> Bytes:
        """(h, w, 4) uint8."""

    @property
    def histogram(self) -> Histogram:
        """Its distinct colors and their pixels."""


@dataclass(frozen=True)
class View:
    """What is seen of a sample from one distance.

    share : of the error, see `grain.Term`
    ys, xs : (n,) places that are looked at; taps : (2 r + 1,) shares of the blur
    light : (n, 3) float32, blurred linear light there; oklab : (n, 3) float32 of that light
    metric : (n, 6) float32, the upper triangle of what a small step of linear light there weighs in OKLab
    weights : (n,) float32, how much each place counts
    """

    share: float
    ys: Integers
    xs: Integers
    taps: Floats
    light: Floats
    oklab: Floats
    metric: Floats
    weights: Floats


@dataclass(frozen=True)
class Sample:
    """rgba : (h, w, 4) uint8, a picture or blocks of it; histogram of it; is_whole : nothing is left out

    views : of it, that from the recipe's own distance first
    cells : (n,) the cell that each place of the first view lies in; counts : (c,) places of each, infinite for mere edges
    """

    rgba: Bytes
    histogram: Histogram
    """Its distinct colors and their pixels."""
    is_whole: bool
    views: tuple[View, ...]
    cells: Integers
    counts: Floats


def _grid(height: int, width: int, rows: int, columns: int, tile: tuple[int, int]) -> list[tuple[int, int]]:
    """Upper left corners of blocks evenly spread from edge to edge, on the tiles' grid, none over another."""

    def starts(side: int, block: int, edge: int) -> list[int]:
        cells = side // block
        return [int(cell * (side - block) / max(cells - 1, 1)) // edge * edge for cell in range(cells)]

    return [(top, left) for top in starts(height, rows, tile[0]) for left in starts(width, columns, tile[1])]


@njit(parallel=True, cache=True)
def _light_of_squares(pixels, width, threshold, linear, step, tops, bottoms, lefts, rights, sums):
    """Linear light and number of the opaque pixels of each square, every `step`-th either way, into (rows, columns, 4)."""
    for row in prange(tops.size):
        for y in range(tops[row], bottoms[row]):
            for column in range(lefts.size):
                for x in range(lefts[column], rights[column]):
                    value = pixels[y * step * width + x * step]
                    if value >> np.uint32(24) >= threshold:
                        sums[row, column, 0] += linear[value & np.uint32(255)]
                        sums[row, column, 1] += linear[(value >> np.uint32(8)) & np.uint32(255)]
                        sums[row, column, 2] += linear[(value >> np.uint32(16)) & np.uint32(255)]
                        sums[row, column, 3] += 1


def _kinds(frame: Framed, corners: Sequence[tuple[int, int]], rows: int, columns: int) -> tuple[Integers, Integers]:
    """(n,) the color of each block that is rarest in the frame, as the number of a cell of OKLab, and how often that is there.

    Looked at in small squares; −1 for a block that is clear.
    """
    down, across = np.linspace(0, rows, PARTS + 1), np.linspace(0, columns, PARTS + 1)
    tops, lefts = (np.array(sorted({corner[axis] for corner in corners}))[:, None] for axis in (0, 1))
    ys, xs = ((edge / LOOKED_AT).round().astype(np.int64) for edge in (tops + down, lefts + across))
    ys, xs = (np.minimum(edge, -(-side // LOOKED_AT)) for edge, side in zip((ys, xs), frame.rgba.shape[:2], strict=True))
    sums = np.zeros((len(tops) * PARTS, len(lefts) * PARTS, 4))
    _light_of_squares(
        as_words(frame.rgba), frame.rgba.shape[1], np.uint32(frame.histogram.alpha_threshold), LINEAR_OF_BYTE, LOOKED_AT,
        ys[:, :-1].ravel(), ys[:, 1:].ravel(), xs[:, :-1].ravel(), xs[:, 1:].ravel(), sums,
    )  # fmt: skip
    inner = sums.reshape(len(tops), PARTS, len(lefts), PARTS, 4).swapaxes(1, 2).reshape(-1, PARTS, PARTS, 4)
    counts = inner[..., 3]
    means = inner[..., :3] / np.maximum(counts, 1)[..., None]
    oklab = metric_of(means.reshape(-1, 3).astype(np.float32))[0]
    keys = (np.floor(oklab / KIND).astype(np.int64) + 64) @ np.array([16_384, 128, 1])
    keys[counts.reshape(-1) < 1] = -1
    every, of, often = np.unique(keys, return_inverse=True, return_counts=True)
    often[every < 0] = np.iinfo(np.int64).max
    of = of.reshape(len(corners), -1)
    rarest = of[np.arange(len(corners)), often[of].argmin(axis=1)]
    return every[rarest], often[rarest]


def _chosen(kinds: Integers, often: Integers, across: int, wanted: int, begin: int) -> list[tuple[int, float]]:
    """Blocks, and how many each stands for: most of them evenly spread, and one of each kind that is met by none of these.

    kinds, often : (n,) of each block, row by row of so many `across`, see `_kinds`.
    """
    down, seen = len(kinds) // across, kinds >= 0
    rare = min(wanted // RARE, len(np.unique(kinds[seen])))
    even: dict[int, None] = {}
    for step in range(begin, begin + 4 * wanted):
        if len(even) == min(wanted - rare, int(seen.sum())):
            break
        place = int((0.5 + step * EVENLY[0]) % 1 * down) * across + int((0.5 + step * EVENLY[1]) % 1 * across)
        if seen[place]:
            even.setdefault(place)
    found = {place: float(seen.sum()) / len(even) for place in even}
    met = set(kinds[list(found)].tolist())
    for place in np.argsort(often, kind="stable").tolist():
        if len(found) == len(even) + rare:
            break
        if seen[place] and kinds[place] not in met:
            met.add(kinds[place])
            found[place] = 1.0
    return sorted(found.items())


def _blocks(frames: Sequence[Framed], tile: tuple[int, int], side: int, enough: int, begin: int) -> tuple[Bytes, Integers, Floats]:
    """About `enough` pixels of the frames in blocks side by side, in rows of about as many as there are rows; what no block fills
    is clear. With it (h, w) the number of the block that a pixel belongs to, and (n,) how many such blocks each stands for."""
    if sum(frame.rgba[..., 0].size for frame in frames) <= enough:
        parts = [(frame.rgba, 1.0) for frame in frames]
    else:
        parts = []
        for frame in frames:
            height, width = frame.rgba.shape[:2]
            rows, columns = (min(-(-side // edge) * edge, whole) for edge, whole in zip(tile, (height, width), strict=True))
            corners = _grid(height, width, rows, columns, tile)
            kinds, often = _kinds(frame, corners, rows, columns)
            if not (kinds >= 0).any():
                continue
            wanted = max(enough // (rows * columns * len(frames)), 1)
            for place, weight in _chosen(kinds, often, width // columns, wanted, begin):
                top, left = corners[place]
                parts.append((frame.rgba[top : top + rows, left : left + columns], weight))
    blocks = [part for part, _ in parts] or [frame.rgba[:side, :side] for frame in frames]
    weights = [weight for _, weight in parts] or [1.0] * len(blocks)
    rows, columns = (max(block.shape[axis] for block in blocks) for axis in (0, 1))
    across = max(round(np.sqrt(len(blocks) * rows / columns)), 1)
    whole = np.zeros((-(-len(blocks) // across) * rows, across * columns, 4), dtype=np.uint8)
    cells = np.zeros(whole.shape[:2], dtype=np.int64)
    for place, block in enumerate(blocks):
        top, left = place // across * rows, place % across * columns
        whole[top : top + block.shape[0], left : left + block.shape[1]] = block
        cells[top : top + rows, left : left + columns] = place
    return whole, cells, np.array(weights)


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
    frames: Sequence[Framed], histogram: Histogram, factors: Floats, terms: Sequence[Term], enough: int,
    tile: tuple[int, int] = (1, 1), begin: int = 0,
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
    terms : Sequence[Term]
        The distances it is seen from, the recipe's own first.
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
    side = max(BLOCK, int(np.ceil(BLOCK_WIDTHS * terms[0].sigma)))
    if is_whole:
        rgba, own = frames[0].rgba, frames[0].histogram
        down, onward = (np.arange(edge) // CELL for edge in rgba.shape[:2])
        numbers: Integers = down[:, None] * (onward[-1] + 1) + onward
        stands_for: Floats = np.ones(1)
    else:
        rgba, numbers, stands_for = _blocks(frames, tile, side, enough, begin)
        own = build_histogram(rgba, threshold)
    factors_here = factors[np.searchsorted(histogram.colors, own.colors)].astype(np.float32)
    views = tuple(_view(rgba, own, factors_here, term, place == 0) for place, term in enumerate(terms))
    if len(stands_for) > 1:
        views = tuple(
            replace(view, weights=view.weights * stands_for[numbers[view.ys, view.xs]].astype(np.float32)) for view in views
        )
    cells = numbers[views[0].ys, views[0].xs]
    counts = np.bincount(cells)
    # What is hardly more than an edge is no part of its own.
    full = counts >= counts.max() * LEAST_OF_CELL
    return Sample(rgba, own, is_whole, views, cells, np.where(full, counts, np.inf))


def _view(rgba: Bytes, own: Histogram, factors: Floats, term: Term, is_own: bool) -> View:
    """What is seen from one distance. factors : (d,) how much a pixel of each of its own colors counts; is_own : the recipe's."""
    threshold = own.alpha_threshold
    height, width = rgba.shape[:2]
    step = max(int((STEP_WIDTHS if is_own else FAR_STEP_WIDTHS) * term.sigma), 1 if is_own else NEAR_STEP)
    ys, xs = (side.ravel() for side in np.mgrid[min(step // 2, height - 1) : height : step, min(step // 2, width - 1) : width : step])
    seen = rgba[ys, xs, 3] >= threshold
    if not seen.any():
        ys, xs = np.nonzero(rgba[..., 3] >= threshold)
        seen = np.ones(len(ys), dtype=bool)
    ys, xs = ys[seen], xs[seen]
    taps = gaussian(term.sigma, REACH_WIDTHS) if term.sigma else np.ones(1, dtype=np.float32)
    light = np.empty((len(ys), 3), dtype=np.float32)
    rows_of = np.empty(len(ys), dtype=np.int64)
    _look(as_words(rgba), width, np.uint32(threshold), LINEAR_OF_BYTE, ys, xs, taps, light, rows_of, own.bits, own.ranks)
    oklab, metric = metric_of(light)
    weights = factors[rows_of]
    if not weights.any():
        weights = np.ones(len(ys), dtype=np.float32)
    return View(term.share, ys, xs, taps, light, oklab, metric, weights)


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
