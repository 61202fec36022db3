"""Weights: how much each color of a picture counts when colors are chosen.

Two things change it. Marks painted over the picture make a part count more, or not at all. Accent protection lets
small saturated areas count as if they were larger.
"""

import math
from collections.abc import Sequence
from typing import Annotated, Literal

import numpy as np
from PIL import Image
from pydantic import ConfigDict, Field

from huvren.core.bounded import Bounded
from huvren.core.color.arrays import Bytes, Floats
from huvren.core.compiled import get_num_threads, njit, prange
from huvren.core.errors import BadInput
from huvren.core.reduction.histogram import Histogram, Points, as_words, rank_of

MASK_MOST = 512
"""Pixels along the longer side of a mask; marks are soft enough that more would not show."""
ONCE = 16
"""The mask value that stands for a weight of 1."""
MOST_WEIGHT = 8.0
MOST_MARKS = 400
MOST_POINTS = 20_000
"""Of all brush strokes of a recipe together."""
DRAWN_RADIUS = 48.0
"""Pixels of a stroke's radius beyond which it is drawn smaller."""


Share = Annotated[float, Field(ge=-1, le=2)]
"""A place in shares of the picture; a stroke may run over its edge."""


class RectangleMark(Bounded):
    """A rectangle, in shares of the picture's width and height, whose pixels count `weight` times; 0 ignores them."""

    model_config = ConfigDict(frozen=True, extra="forbid", defer_build=True)
    shape: Literal["rectangle"] = "rectangle"
    x: float = Field(ge=0, le=1)
    y: float = Field(ge=0, le=1)
    width: float = Field(gt=0, le=1)
    height: float = Field(gt=0, le=1)
    weight: float = Field(ge=0, le=MOST_WEIGHT)


class BrushMark(Bounded):
    """A soft stroke through points, in shares; `radius` in shares of the longer side, full at the middle, 1 at the rim."""

    model_config = ConfigDict(frozen=True, extra="forbid", defer_build=True)
    shape: Literal["brush"] = "brush"
    points: list[tuple[Share, Share]] = Field(min_length=1, max_length=2000)
    radius: float = Field(gt=0, le=0.5)
    weight: float = Field(ge=0, le=MOST_WEIGHT)


def check_marks(marks: Sequence[RectangleMark | BrushMark]) -> None:
    """Raises `BadInput` where the strokes have more points than can be drawn while somebody waits."""
    points = sum(len(mark.points) for mark in marks if mark.shape == "brush")
    if points > MOST_POINTS:
        raise BadInput(f"The painted marks have {points:,} points; {MOST_POINTS:,} is the most. Take some strokes back.")


Mark = Annotated[RectangleMark | BrushMark, Field(discriminator="shape")]


@njit(cache=True)
def _squares_to_path(path, reach, rows, columns):
    """(rows, columns) squared distances of pixel centers to a polyline, `reach`² where they are larger.

    path : (n, 2) x and y in pixels. Each segment is only looked at in its own band, so the work is its length times `reach`.
    """
    far = np.full((rows, columns), reach * reach)
    for place in range(max(len(path) - 1, 1)):
        x0, y0 = path[place]
        x1, y1 = path[min(place + 1, len(path) - 1)]
        dx, dy = x1 - x0, y1 - y0
        squared = max(dx * dx + dy * dy, 1e-9)
        length = np.sqrt(squared)
        top, bottom = max(0, int(min(y0, y1) - reach - 1)), min(rows, int(max(y0, y1) + reach + 2))
        for row in range(top, bottom):
            y = row + 0.5
            left, right = min(x0, x1) - reach, max(x0, x1) + reach
            if abs(dy) > 1e-6 * length:
                middle = x0 + (y - y0) * dx / dy
                wide = reach * length / abs(dy)
                left, right = max(left, middle - wide), min(right, middle + wide)
            for column in range(max(0, int(left - 1)), min(columns, int(right + 2))):
                x = column + 0.5
                t = min(max(((x - x0) * dx + (y - y0) * dy) / squared, 0.0), 1.0)
                across, down = x - x0 - t * dx, y - y0 - t * dy
                far[row, column] = min(far[row, column], across * across + down * down)
    return far


@njit(cache=True)
def _lay_over(mask, squares, reach, weight):
    """Blend a weight into the mask where a stroke of this radius covers it, full at half of it. squares : of `_squares_to_path`."""
    for row in range(mask.shape[0]):
        for column in range(mask.shape[1]):
            cover = 2.0 * (1.0 - np.sqrt(squares[row, column]) / reach)
            if cover > 0.0:
                mask[row, column] += min(cover, 1.0) * (weight - mask[row, column])


def _draw_stroke(mask: Floats, mark: BrushMark) -> None:
    """Draw a soft stroke into the mask.

    A broad stroke changes slowly from pixel to pixel: it is measured on fewer pixels and enlarged, so that a long one costs no more.
    """
    rows, columns = mask.shape
    reach = max(mark.radius * max(columns, rows), 0.5)
    step = max(1.0, reach / DRAWN_RADIUS)
    down, across = max(1, math.ceil(rows / step)), max(1, math.ceil(columns / step))
    squares = _squares_to_path(np.array(mark.points) * (across, down), reach / step, down, across)
    if (down, across) != (rows, columns):
        far = Image.fromarray(np.sqrt(squares).astype(np.float32), "F").resize((columns, rows), Image.Resampling.BILINEAR)
        squares = np.square(np.asarray(far, dtype=np.float64))
    _lay_over(mask, squares, reach / step, mark.weight)


def draw_mask(marks: Sequence[RectangleMark | BrushMark], width: int, height: int) -> Bytes:
    """The marks over a picture of this size: an (h', w') uint8 mask of at most 512 pixels a side; 16 counts once, 0 never.

    Later marks lie over earlier ones.

    Parameters
    ----------
    marks : Sequence[RectangleMark | BrushMark]
        Rectangles and strokes, later ones over earlier ones.
    width : int
        Of the picture in pixels.
    height : int
        Of the picture in pixels.

    Returns
    -------
    Bytes
        (h', w') uint8.
    """
    scale = min(1.0, MASK_MOST / max(width, height))
    columns, rows = max(1, round(width * scale)), max(1, round(height * scale))
    mask = np.ones((rows, columns))
    for mark in marks:
        if mark.shape == "rectangle":
            left, right = math.floor(mark.x * columns), math.ceil((mark.x + mark.width) * columns)
            top, bottom = math.floor(mark.y * rows), math.ceil((mark.y + mark.height) * rows)
            mask[top:bottom, left:right] = mark.weight
            continue
        _draw_stroke(mask, mark)
    return np.rint(np.clip(mask, 0, MOST_WEIGHT) * ONCE).astype(np.uint8)


def mask_of_gray(gray: Bytes, width: int, height: int) -> Bytes:
    """A gray picture as a mask: black ignores, middle gray (128) counts once, white eight times.

    Parameters
    ----------
    gray : Bytes
        (h, w) uint8 of the picture's own size.
    width : int
        Of the picture in pixels.
    height : int
        Of the picture in pixels.

    Returns
    -------
    Bytes
        (h', w') uint8; 16 counts once.

    Raises
    ------
    BadInput
        For any size but the picture's own.
    """
    if gray.shape != (height, width):
        raise BadInput(
            f"The mask has {gray.shape[1]} × {gray.shape[0]} pixels, but the picture has {width} × {height}. "
            "Make the mask as large as the picture."
        )
    level = np.arange(256)
    weight = np.where(level <= 128, level / 128, MOST_WEIGHT ** ((level - 128) / 127))
    shares: Bytes = np.rint(weight * ONCE).astype(np.uint8)
    return shares[gray]


@njit(parallel=True, cache=True)
def _gather(pixels, width, height, threshold, bits, ranks, mask, distinct, parts):
    sums = np.zeros((parts, distinct), dtype=np.float32)
    rows, columns = mask.shape
    for part in prange(parts):
        for y in range(height * part // parts, height * (part + 1) // parts):
            row = y * rows // height
            for x in range(width):
                value = pixels[y * width + x]
                if value >> np.uint32(24) >= threshold:
                    sums[part, rank_of(value & np.uint32(0xFFFFFF), bits, ranks)] += mask[row, x * columns // width]
    return sums


def weigh_by_marks(rgba: Bytes, histogram: Histogram, mask: Bytes) -> Floats:
    """(d,) float32: pixels of each distinct color, each counted as its place in the mask says.

    Parameters
    ----------
    rgba : Bytes
        (h, w, 4) uint8.
    histogram : Histogram
        The distinct colors and their pixels.
    mask : Bytes
        (h', w') uint8, see `mask_of_gray`; 16 counts once.

    Returns
    -------
    Floats
        (d,) float32.
    """
    height, width = rgba.shape[:2]
    sums = _gather(
        as_words(rgba), width, height, np.uint32(histogram.alpha_threshold), histogram.bits, histogram.ranks, mask,
        histogram.distinct, get_num_threads(),
    )  # fmt: skip
    return np.asarray(sums.sum(axis=0, dtype=np.float32) / np.float32(ONCE))


ACCENT_CELL = 0.1
ACCENT_SHARE = 0.02
DULL, VIVID = 0.07, 0.15


def protect_accents(places: Floats, weights: Floats, protection: float) -> Floats:
    """Weights in which small saturated areas count as if they were larger.

    Colors are taken together in cells of ΔE 10; a cell of vivid colors counts as at least `protection` × 2 % of the picture, one
    of dull colors as what it is, between chroma 0.07 and 0.15 in proportion.

    Parameters
    ----------
    places : Floats
        (n, 3) OKLab.
    weights : Floats
        (n,) float32 how much each point counts.
    protection : float
        Of accents, 0..1.

    Returns
    -------
    Floats
        (n,) float32.
    """
    if protection <= 0 or len(places) == 0:
        return weights
    total = float(weights.sum())
    cells = np.floor(np.asarray(places, dtype=np.float64) / ACCENT_CELL).astype(np.int64)
    _, cell_of = np.unique(cells @ np.array([1_000_000, 1_000, 1]), return_inverse=True)
    area = np.bincount(cell_of, weights=weights)
    chroma = np.bincount(cell_of, weights=weights * np.hypot(places[:, 1], places[:, 2])) / np.maximum(area, 1e-12)
    vivid = np.clip((chroma - DULL) / (VIVID - DULL), 0, 1)
    wanted = protection * vivid * ACCENT_SHARE * total
    factor = np.maximum(1.0, wanted / np.maximum(area, 1e-12))
    return np.asarray(weights * factor[cell_of], dtype=np.float32)


def _weigh(histogram: Histogram, color_weights: Floats | None, protection: float) -> Floats:
    """(n,) what each of the histogram's points weighs."""
    points = histogram.points
    weights = points.weights
    if color_weights is not None:
        weights = np.bincount(points.bin_of, weights=color_weights, minlength=len(points.places)).astype(np.float32)
    return protect_accents(points.places, weights, protection)


def weighted_points(histogram: Histogram, color_weights: Floats | None, protection: float) -> Points:
    """The histogram's points with other weights; points that weigh nothing are left out, unless none weighs anything.

    Parameters
    ----------
    histogram : Histogram
        The distinct colors and their pixels.
    color_weights : Floats | None
        (d,) how much each distinct color counts; None for its pixels.
    protection : float
        Of accents, 0..1.

    Returns
    -------
    Points
        The points that count.
    """
    points = histogram.points
    weights = _weigh(histogram, color_weights, protection)
    heavy = weights > 0
    if heavy.all() or not heavy.any():
        return Points(points.places, weights if heavy.any() else points.weights, points.bin_of)
    renumbered = np.cumsum(heavy) - 1
    return Points(points.places[heavy], weights[heavy], np.where(heavy, renumbered, -1)[points.bin_of].astype(np.int32))


def color_factors(histogram: Histogram, color_weights: Floats | None, protection: float) -> Floats:
    """(d,) float32: how often a pixel of each distinct color counts, by the same weights; 1 for all where none counts.

    Parameters
    ----------
    histogram : Histogram
        The distinct colors and their pixels.
    color_weights : Floats | None
        (d,) how much each distinct color counts; None for its pixels.
    protection : float
        Of accents, 0..1.

    Returns
    -------
    Floats
        (d,) float32.
    """
    points = histogram.points
    weights = _weigh(histogram, color_weights, protection)
    if not weights.any():
        return np.ones(histogram.distinct, dtype=np.float32)
    return np.asarray((weights / points.weights)[points.bin_of], dtype=np.float32)
