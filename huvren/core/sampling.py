"""Picking a color from a picture: the mean of a disc in linear light, and how mixed what lies in it is."""

from dataclasses import dataclass

import numpy as np

from huvren.core.color.arrays import Bytes, Floats
from huvren.core.color.difference import DELTA_SCALE
from huvren.core.color.spaces import convert
from huvren.core.color.transfer import decode_srgb_array, encode_srgb_array
from huvren.core.color.value import Color
from huvren.core.errors import BadInput

SMALLEST, LARGEST = 1, 201
MIXED_APART, MIXED_SHARE = 12.0, 0.15
"""A disc counts as mixed where its pixels fall into two kinds at least so far apart, in ΔEOK×100, the smaller of at
least this share."""
MOST_ALONG = 64


@dataclass(frozen=True)
class Sample:
    """color : the mean of the disc's pixels, weighed by alpha. pixels : how many lie in it.

    spread : mean ΔEOK×100 of the pixels from the mean. kinds : where the disc is mixed, the means of the two kinds of
    color in it and their shares, the larger first; else empty.
    """

    color: Color
    pixels: int
    spread: float
    kinds: tuple[tuple[Color, float], ...]


def _two_kinds(oklab: Floats) -> tuple[Floats, Floats, float]:
    """Two means by k-means, begun at the ends of the widest axis, and the share of the first."""
    middle = oklab - oklab.mean(axis=0)
    axis = np.linalg.svd(middle, full_matrices=False)[2][0]
    side = middle @ axis > 0
    for _ in range(8):
        if side.all() or not side.any():
            break
        first, second = oklab[side].mean(axis=0), oklab[~side].mean(axis=0)
        after = np.linalg.norm(oklab - first, axis=1) < np.linalg.norm(oklab - second, axis=1)
        if (after == side).all():
            break
        side = after
    if side.all() or not side.any():
        return oklab.mean(axis=0), oklab.mean(axis=0), 1.0
    return oklab[side].mean(axis=0), oklab[~side].mean(axis=0), float(side.mean())


def _color(oklab: Floats) -> Color:
    return Color("oklab", (float(oklab[0]), float(oklab[1]), float(oklab[2])))


def sample_disc(rgba: Bytes, x: float, y: float, diameter: int) -> Sample:
    """The color around (x, y), pixel coordinates with 0, 0 at the corner, in an (h, w, 4) uint8 picture.

    Pixels belong to the disc where their middle lies within it; at least the one under the point does.

    Parameters
    ----------
    rgba : Bytes
        (h, w, 4) uint8.
    x : float
        In pixels from the left edge.
    y : float
        In pixels from the upper edge.
    diameter : int
        Of a disc in pixels, 1 to 201.

    Returns
    -------
    Sample
        The color and how many pixels it is the mean of.

    Raises
    ------
    BadInput
        Outside the picture, for a disc of clear pixels alone, and for a diameter beyond 1 to 201.
    """
    height, width = rgba.shape[:2]
    if not SMALLEST <= diameter <= LARGEST:
        raise BadInput(f"The disc is {SMALLEST} to {LARGEST} pixels wide; {diameter} was asked for.")
    column, row = int(np.floor(x)), int(np.floor(y))
    if not (0 <= column < width and 0 <= row < height):
        raise BadInput(f"The point {x:g}, {y:g} lies outside the picture of {width} × {height} pixels.")
    reach = diameter // 2 + 1
    left, right = max(column - reach, 0), min(column + reach + 1, width)
    top, bottom = max(row - reach, 0), min(row + reach + 1, height)
    across, down = np.meshgrid(np.arange(left, right) - column, np.arange(top, bottom) - row)
    inside = across**2 + down**2 <= (diameter / 2) ** 2
    found = rgba[top:bottom, left:right][inside]
    found = found[found[:, 3] > 0]
    if len(found) == 0:
        raise BadInput("There is nothing but clear pixels in that disc.")
    alpha = found[:, 3] / 255
    linear = decode_srgb_array(found[:, :3] / 255)
    red, green, blue = encode_srgb_array((linear * alpha[:, None]).sum(axis=0) / alpha.sum())
    color = Color("srgb", (float(red), float(green), float(blue)))
    oklab = convert(found[:, :3] / 255, "srgb", "oklab")
    spread = float(np.linalg.norm(oklab - np.array(color.oklab), axis=1).mean() * DELTA_SCALE)
    kinds: tuple[tuple[Color, float], ...] = ()
    if len(found) > 2:
        first, second, share = _two_kinds(oklab)
        apart = float(np.linalg.norm(first - second) * DELTA_SCALE)
        if apart >= MIXED_APART and min(share, 1 - share) >= MIXED_SHARE:
            pair = sorted(((first, share), (second, 1 - share)), key=lambda kind: -kind[1])
            kinds = tuple((_color(place), amount) for place, amount in pair)
    return Sample(color, len(found), spread, kinds)


def sample_line(rgba: Bytes, start: tuple[float, float], end: tuple[float, float], count: int, diameter: int) -> list[Sample]:
    """`count` discs at even distances along a line, its ends included.

    Parameters
    ----------
    rgba : Bytes
        (h, w, 4) uint8.
    start : tuple[float, float]
        (x, y) in pixels.
    end : tuple[float, float]
        (x, y) in pixels.
    count : int
        How many.
    diameter : int
        Of a disc in pixels, 1 to 201.

    Returns
    -------
    list[Sample]
        One for each place.

    Raises
    ------
    BadInput
        As `sample_disc` does, and for another count than it takes.
    """
    if not 2 <= count <= MOST_ALONG:
        raise BadInput(f"Along a line 2 to {MOST_ALONG} colors are picked; {count} were asked for.")
    steps = np.linspace(0, 1, count)
    return [sample_disc(rgba, start[0] + (end[0] - start[0]) * t, start[1] + (end[1] - start[1]) * t, diameter) for t in steps]
