"""What is shown about every swatch, computed for a whole palette at once."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from huvren.core.color.arrays import Floats, Integers
from huvren.core.color.difference import DELTA_SCALE
from huvren.core.color.spaces import convert
from huvren.core.color.value import Color, srgb_of

Triple = tuple[float, float, float]
MOST_COMPARED = 2048


@dataclass(frozen=True)
class Derived:
    """The 8-bit form of a color and its coordinates in the spaces of the readout.

    nearest, nearest_delta : index of the swatch most like it and the ΔEOK×100 between them, or None
    """

    hex: str
    rgb: tuple[int, int, int]
    oklch: Triple
    hsv: Triple
    lab: Triple
    in_srgb: bool
    nearest: int | None
    nearest_delta: float | None


def derive(colors: Sequence[Color]) -> list[Derived]:
    """Everything the readout shows, from the 8-bit form that the screen shows."""
    if not colors:
        return []
    exact, inside = srgb_of(colors)
    rgb = np.floor(exact * 255 + 0.5).astype(int)
    srgb = rgb / 255
    oklab = convert(srgb, "srgb", "oklab")
    oklch = convert(oklab, "oklab", "oklch")
    for place, color in enumerate(colors):
        if color.space == "oklch" and inside[place]:
            oklch[place] = color.coords
    nearest, deltas = _nearest(oklab)
    count = len(colors)
    return [
        Derived("#{:02x}{:02x}{:02x}".format(*row[0]) + (f"{alpha:02x}" if alpha != 255 else ""), *row)
        for row, alpha in zip(
            zip(
                map(tuple, rgb.tolist()),
                _triples(oklch, 5),
                _triples(convert(srgb, "srgb", "hsv"), 5),
                _triples(convert(srgb, "srgb", "lab-d65"), 3),
                inside.tolist(),
                [None] * count if nearest is None else nearest.tolist(),
                [None] * count if deltas is None else np.round(deltas, 3).tolist(),
                strict=True,
            ),
            [int(color.alpha * 255 + 0.5) for color in colors],
            strict=True,
        )
    ]


def _triples(values: Floats, digits: int) -> list[Triple]:
    return [(first, second, third) for first, second, third in np.round(values, digits).tolist()]


def _nearest(oklab: Floats) -> tuple[Integers | None, Floats | None]:
    if not 2 <= len(oklab) <= MOST_COMPARED:
        return None, None
    lengths = (oklab**2).sum(axis=1)
    squares = lengths[:, None] + lengths[None] - 2 * oklab @ oklab.T
    np.fill_diagonal(squares, np.inf)
    nearest = squares.argmin(axis=1)
    return nearest, np.linalg.norm(oklab - oklab[nearest], axis=1) * DELTA_SCALE
