"""Two palettes side by side: which swatch of one is nearest to each of the other."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from huvren.core.color.arrays import Floats
from huvren.core.color.convert import srgb_to_oklab
from huvren.core.color.difference import DELTA_SCALE
from huvren.core.color.eight_bits import byte_of, shown_shares
from huvren.core.color.value import srgb_of
from huvren.core.errors import BadInput
from huvren.core.palette.values import Swatch


@dataclass(frozen=True)
class Match:
    """A swatch, the place of its nearest partner in the other palette, and ΔEOK×100 between them.

    place is None, and delta infinite, where the other palette holds none of the same alpha.
    """

    swatch: Swatch
    """Of the other palette."""
    place: int | None
    """Of the nearest swatch here, or None."""
    delta: float
    """ΔEOK×100."""


def _by_alpha(swatches: Sequence[Swatch]) -> dict[int, list[int]]:
    """Places of swatches by their 8-bit alpha."""
    places: dict[int, list[int]] = {}
    for place, swatch in enumerate(swatches):
        places.setdefault(byte_of(swatch.color.alpha), []).append(place)
    return places


def _oklab(swatches: Sequence[Swatch], places: Sequence[int]) -> Floats:
    """(n, 3) OKLab of what a screen shows of the swatches at some places."""
    shown = [swatches[place].color for place in places]
    return srgb_to_oklab(shown_shares(srgb_of(shown)[0]))


def match(swatches: Sequence[Swatch], others: Sequence[Swatch]) -> list[Match]:
    """The nearest of `others` for each swatch, among those of the same 8-bit alpha; clear ones are all alike."""
    if not others:
        raise BadInput("The other palette holds no swatch to compare with.")
    # Loaded where two palettes are compared: nothing else needs it, and it takes longer to load than most commands to run.
    from scipy.spatial import KDTree

    theirs, ours = _by_alpha(others), _by_alpha(swatches)
    matches: list[Match | None] = [None] * len(swatches)
    nobody: list[int | None] = [None] * len(swatches)
    nearest: list[int | None]
    for alpha, places in ours.items():
        there = theirs.get(alpha)
        if there is None:
            gaps, nearest = np.full(len(places), np.inf), nobody[: len(places)]
        elif alpha == 0:
            gaps, nearest = np.zeros(len(places)), [there[0]] * len(places)
        else:
            # Each color once, at its first place: of equal ones the first is meant.
            colors, first = np.unique(_oklab(others, there), axis=0, return_index=True)
            gaps, rows = KDTree(colors).query(_oklab(swatches, places))
            nearest = [there[first[row]] for row in rows]
        for place, gap, partner in zip(places, gaps.tolist(), nearest, strict=True):
            matches[place] = Match(swatches[place], partner, gap * DELTA_SCALE)
    return [found for found in matches if found is not None]
