"""What is shown about every swatch, computed for a whole palette at once."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from huvren.core.color.arrays import Floats, Integers
from huvren.core.color.difference import DELTA_SCALE
from huvren.core.color.eight_bits import byte_of, hex_of, to_eight_bits
from huvren.core.color.spaces import convert
from huvren.core.color.value import Color, srgb_of

Triple = tuple[float, float, float]
MOST_COMPARED = 2048


@dataclass(frozen=True)
class Derived:
    """The 8-bit form of a color and where it lies in OKLCh.

    nearest, nearest_delta : index of the swatch most like it and the ΔEOK×100 between them, or None
    """

    hex: str
    """`#rrggbb`, or `#rrggbbaa`."""
    rgb: tuple[int, int, int]
    """8-bit sRGB."""
    oklch: Triple
    """Of what is shown."""
    in_srgb: bool
    """Whether it is shown as it is."""
    nearest: int | None
    nearest_delta: float | None


Facts = tuple[str, tuple[int, int, int], Triple, bool]
"""All of a color that does not depend on its neighbors: hex, rgb, oklch, in_srgb."""
_known: dict[Color, Facts] = {}
MOST_KNOWN = 50_000


def _facts_of(colors: Sequence[Color]) -> list[Facts]:
    """(n,) facts from the 8-bit form that the screen shows."""
    exact, inside = srgb_of(colors)
    rgb = to_eight_bits(exact)
    srgb = rgb / 255
    oklch = convert(srgb, "srgb", "oklch")
    for place, color in enumerate(colors):
        if color.space == "oklch" and inside[place]:
            oklch[place] = color.coords
    codes = [hex_of((*row, byte_of(color.alpha))) for row, color in zip(rgb.tolist(), colors, strict=True)]
    channels = [(red, green, blue) for red, green, blue in rgb.tolist()]
    return list(zip(codes, channels, _triples(oklch, 5), inside.tolist(), strict=True))


def derive(colors: Sequence[Color]) -> list[Derived]:
    """What every swatch shows. Colors seen lately are remembered, since most steps change few of many."""
    if not colors:
        return []
    mine = {color: _known.get(color) for color in colors}
    new = [color for color, facts in mine.items() if facts is None]
    if new:
        fresh = dict(zip(new, _facts_of(new), strict=True))
        mine.update(fresh)
        if len(_known) + len(fresh) > MOST_KNOWN:
            _known.clear()
        if len(fresh) <= MOST_KNOWN:
            _known.update(fresh)
    facts = [found for found in map(mine.__getitem__, colors) if found is not None]
    nearest, deltas = _nearest(convert(np.array([fact[1] for fact in facts]) / 255, "srgb", "oklab"))
    count = len(colors)
    near = [None] * count if nearest is None else nearest.tolist()
    gaps = [None] * count if deltas is None else np.round(deltas, 3).tolist()
    return [Derived(*fact, index, gap) for fact, index, gap in zip(facts, near, gaps, strict=True)]


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
