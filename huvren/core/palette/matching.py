"""Two palettes side by side: which swatch of one is nearest to each of the other."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from huvren.core.color.difference import DELTA_SCALE
from huvren.core.errors import BadInput
from huvren.core.palette.values import Swatch


@dataclass(frozen=True)
class Match:
    """A swatch, the place of its nearest partner in the other palette, and ΔEOK×100 between them.

    place is None, and delta infinite, where the other palette holds none of the same alpha.
    """

    swatch: Swatch
    place: int | None
    delta: float


def match(swatches: Sequence[Swatch], others: Sequence[Swatch]) -> list[Match]:
    """The nearest of `others` for each swatch, among those of the same 8-bit alpha; clear ones are all alike."""
    if not others:
        raise BadInput("The other palette holds no swatch to compare with.")
    oklab = np.array([swatch.color.oklab for swatch in others])
    alpha = np.array([swatch.color.bytes[3] for swatch in others])
    matches = []
    for swatch in swatches:
        gaps = np.linalg.norm(oklab - np.array(swatch.color.oklab), axis=1) * DELTA_SCALE
        own = swatch.color.bytes[3]
        if own == 0:
            gaps[alpha == 0] = 0
        gaps[alpha != own] = np.inf
        place = int(gaps.argmin())
        matches.append(Match(swatch, place if np.isfinite(gaps[place]) else None, float(gaps[place])))
    return matches
