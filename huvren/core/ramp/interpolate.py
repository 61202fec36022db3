"""Interpolation along stops: CSS Color 4 §12 (premultiplied alpha, powerless hues, hue routes), CSS Images 4 §3.5.3."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from huvren.core.color.arrays import Floats
from huvren.core.color.spaces import SPACES, convert
from huvren.core.color.value import Color
from huvren.core.errors import BadInput
from huvren.core.ramp.ways import HUE_ROUTES

POWERLESS_SHARE = 1e-5
"""A hue is powerless where chroma or saturation is at most this share of its usual range (CSS Color 4 §9.4: 4e-6 of 0.4)."""


@dataclass(frozen=True)
class Stop:
    """A color at a place 0..1 of the ramp; `None` lets it stand evenly between its neighbors."""

    color: Color
    position: float | None = None


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


def without_powerless(space: str, coords: Floats) -> Floats:
    """(n, c) coordinates in `space` with NaN for a hue that has no power."""
    channels = SPACES[space].channels
    hue = next((place for place, channel in enumerate(channels) if channel.is_hue), None)
    if hue is None:
        return coords
    strength = next(place for place, channel in enumerate(channels) if channel.name in ("C", "s", "S"))
    coords = coords.copy()
    coords[np.abs(coords[:, strength]) <= POWERLESS_SHARE * channels[strength].high, hue] = np.nan
    return coords


def sample(stops: Sequence[Stop], space: str, route: str, at: ArrayLike) -> tuple[Floats, Floats]:
    """Colors along a ramp.

    stops : two or more. space : interpolation space id; route : hue route id, for polar spaces. at : (n,) places 0..1.
    Returns (n, c) coordinates in `space`, not gamut mapped, and (n,) alpha. Raises `BadInput` for fewer than two stops.
    """
    if len(stops) < 2:
        count = {0: "none was", 1: "one was"}[len(stops)]
        raise BadInput(f"A ramp needs two colors or more; {count} given. Select another swatch or type a color.")
    places = np.asarray(at, dtype=np.float64)
    positions = settle_positions([stop.position for stop in stops])
    coords = without_powerless(space, np.array([convert(stop.color.coords, stop.color.space, space) for stop in stops]))
    alphas = np.array([stop.color.alpha for stop in stops])
    hue = next((place for place, channel in enumerate(SPACES[space].channels) if channel.is_hue), None)
    result = np.empty((len(places), coords.shape[1]))
    alpha = np.empty(len(places))
    # The interval of each place; where two stops coincide the later one holds from there on.
    interval = np.clip(np.searchsorted(positions, places, side="right") - 1, 0, len(stops) - 2)
    for left in range(len(stops) - 1):
        here = interval == left
        if not here.any():
            continue
        span = positions[left + 1] - positions[left]
        share = np.clip((places[here] - positions[left]) / span, 0, 1) if span > 0 else (places[here] >= positions[left + 1]) * 1.0
        ends = coords[left : left + 2].copy()
        if hue is not None:
            first, last = ends[:, hue]
            first, last = (last if np.isnan(first) else first), (first if np.isnan(last) else last)
            ends[:, hue] = (0, 0) if np.isnan(first) else HUE_ROUTES[route].fix_up(first % 360, last % 360)
        weights = np.repeat(alphas[left : left + 2, None], coords.shape[1], axis=1)
        if hue is not None:
            weights[:, hue] = 1
        mixed = ends[0] * weights[0] + share[:, None] * (ends[1] * weights[1] - ends[0] * weights[0])
        alpha[here] = alphas[left] + share * (alphas[left + 1] - alphas[left])
        divisor = weights[0] + share[:, None] * (weights[1] - weights[0])
        result[here] = np.where(divisor > 0, mixed / np.where(divisor > 0, divisor, 1), mixed)
    if hue is not None:
        result[:, hue] %= 360
    return result, alpha
