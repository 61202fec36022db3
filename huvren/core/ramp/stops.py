"""Stops of a ramp: colors at places, and where those stand that have none; and how many steps and stops there may be.

Stops stand as in CSS Images 4 §3.5.3, and a midpoint bends as a color hint does (§3.5.3 too).
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from huvren.core.color.value import Color
from huvren.core.errors import BadInput
from huvren.core.ramp.easings import LINEAR, Easing

FEWEST_STEPS, MOST_STEPS = 2, 1024
MOST_STOPS = 64
LEAST_MIDPOINT = 0.01


@dataclass(frozen=True)
class Stop:
    """A color at a place 0..1 of the ramp; `None` lets it stand evenly between its neighbors.

    midpoint : where in the interval that begins here half of the way is done; easing : how that interval is passed.
    Raises `BadInput` for a midpoint outside 0.01 to 0.99.
    """

    color: Color
    """Of the stop."""
    position: float | None = None
    """0..1; None for even places."""
    midpoint: float = 0.5
    easing: Easing = LINEAR

    def __post_init__(self) -> None:
        if not LEAST_MIDPOINT <= self.midpoint <= 1 - LEAST_MIDPOINT:
            raise BadInput(f"A midpoint of {self.midpoint:g} is outside {LEAST_MIDPOINT:g} to {1 - LEAST_MIDPOINT:g}.")


def settle_positions(positions: Sequence[float | None]) -> list[float]:
    """Positions with the gaps filled: the ends at 0 and 1, none before its forerunner, runs without one spread evenly."""
    known = list(positions)
    known[0] = 0.0 if known[0] is None else known[0]
    known[-1] = 1.0 if known[-1] is None else known[-1]
    highest = 0.0
    for place, position in enumerate(known):
        if position is not None:
            known[place] = highest = max(highest, position)
    settled = [np.nan if position is None else position for position in known]
    places = np.arange(len(settled))
    missing = np.isnan(settled)
    return [float(v) for v in np.interp(places, places[~missing], np.array(settled)[~missing])]
