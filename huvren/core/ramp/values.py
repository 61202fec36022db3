"""`Ramp`: stops, the way between them and their spacing, as one immutable value that gives its color anywhere.

Interpolation is that of CSS Color 4 §12 (premultiplied alpha, missing and powerless components, hue routes); stops stand as in
CSS Images 4 §3.5.3. NaN stands for a missing component in arrays.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import ArrayLike

from huvren.core.color.arrays import Flags, Floats
from huvren.core.color.gamut import displayed
from huvren.core.color.spaces import SPACES, ColorSpace, convert
from huvren.core.color.value import ALPHA, Color
from huvren.core.errors import BadInput
from huvren.core.ramp.ways import Lane
from huvren.core.registry import Registry

SAME_PLACE = 1e-9
FEWEST_STEPS, MOST_STEPS = 2, 64
MOST_STOPS = 64


@dataclass(frozen=True)
class Stop:
    """A color at a place 0..1 of the ramp; `None` lets it stand evenly between its neighbors."""

    color: Color
    position: float | None = None


@dataclass(frozen=True)
class Spacing:
    """How even steps lie along a ramp. `places` takes (n,) shares 0..1 of the steps and gives (n,) places 0..1."""

    id: str
    label: str
    places: Callable[["Ramp", Floats], Floats]


SPACINGS: Registry[Spacing] = Registry("spacing")
BY_POSITION = SPACINGS.register(Spacing("position", "by position", lambda ramp, shares: shares))


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


def numbers(coords: Floats) -> Floats:
    """Coordinates as a screen or a format takes them: a missing component is 0."""
    return np.nan_to_num(coords, nan=0.0)


def components_in(color: Color, space: ColorSpace) -> Floats:
    """(channels,) of a color in another space, NaN where a component is missing or a hue has no power.

    A component that is missing in the color's own space is missing in the analogous one of the other (CSS Color 4 §12.2).
    """
    own = SPACES[color.space]
    coords = np.array([convert(color.coords, color.space, space.id)])
    # A strength that is missing says nothing about its hue; one that is none takes its power.
    if not (own is space and space.strength in color.missing):
        coords[space.hue_is_powerless(coords), space.hue if space.hue is not None else 0] = np.nan
    for place in color.missing:
        if place == ALPHA:
            continue
        means = own.channels[place].means
        there = place if own is space else space.channel_of(means) if means else None
        if there is not None:
            coords[0, there] = np.nan
    return np.asarray(coords[0])


@dataclass(frozen=True)
class Ramp:
    """Two or more stops and the lane between them. Raises `BadInput` for fewer."""

    stops: tuple[Stop, ...]
    lane: Lane
    spacing: Spacing = BY_POSITION

    def __post_init__(self) -> None:
        if len(self.stops) < 2:
            count = {0: "none was", 1: "one was"}[len(self.stops)]
            raise BadInput(f"A ramp needs two colors or more; {count} given. Select another swatch or type a color.")

    @property
    def space(self) -> ColorSpace:
        return self.lane.way.space

    @cached_property
    def positions(self) -> list[float]:
        """Where each stop stands, 0..1, none before its forerunner."""
        return settle_positions([stop.position for stop in self.stops])

    def through(self, lane: Lane) -> "Ramp":
        """The same stops another way."""
        return replace(self, lane=lane)

    @cached_property
    def _corners(self) -> tuple[Floats, Floats]:
        """(s, channels) coordinates and (s,) alphas of the stops, NaN for what is missing."""
        coords = np.array([components_in(stop.color, self.space) for stop in self.stops])
        alphas = np.array([np.nan if ALPHA in stop.color.missing else stop.color.alpha for stop in self.stops])
        return coords, alphas

    def at(self, places: ArrayLike) -> tuple[Floats, Floats]:
        """(n,) places 0..1 → (n, channels) coordinates in the lane's space, not gamut mapped, and (n,) alpha.

        A component that both neighbors miss is NaN, as is their alpha.
        """
        wanted = np.asarray(places, dtype=np.float64)
        coords, alphas = self._corners
        result, alpha = np.empty((len(wanted), coords.shape[1])), np.empty(len(wanted))
        # The interval of each place; where two stops coincide the later one holds from there on.
        interval = np.clip(np.searchsorted(self.positions, wanted, side="right") - 1, 0, len(self.stops) - 2)
        for left in np.unique(interval).tolist():
            here = interval == left
            begin, end = self.positions[left], self.positions[left + 1]
            share = np.clip((wanted[here] - begin) / (end - begin), 0, 1) if end > begin else (wanted[here] >= end) * 1.0
            result[here], alpha[here] = self._between(coords[left : left + 2], alphas[left : left + 2], share)
        # Before the first stop and behind the last there is no neighbor to take a missing component from.
        for beyond, end in ((wanted < self.positions[0], 0), (wanted > self.positions[-1], -1)):
            result[beyond], alpha[beyond] = coords[end], alphas[end]
        if self.space.hue is not None:
            result[:, self.space.hue] %= 360
        return result, alpha

    def _between(self, coords: Floats, alphas: Floats, share: Floats) -> tuple[Floats, Floats]:
        """Mix two neighbors: (2, channels), (2,) alphas, (n,) shares of the later one."""
        hue = self.space.hue
        # What one of the two misses is taken from the other; what both miss stays NaN.
        ends = np.where(np.isnan(coords), coords[::-1], coords)
        covers = np.where(np.isnan(alphas), alphas[::-1], alphas)
        weights = np.repeat(np.where(np.isnan(covers), 1.0, covers)[:, None], coords.shape[1], axis=1)
        if hue is not None:
            weights[:, hue] = 1
            if not np.isnan(ends[:, hue]).any():
                first, last = ends[:, hue] % 360
                ends[:, hue] = self.lane.route.fix_up(float(first), float(last))
        mixed = ends[0] * weights[0] + share[:, None] * (ends[1] * weights[1] - ends[0] * weights[0])
        divisor = weights[0] + share[:, None] * (weights[1] - weights[0])
        return np.where(divisor > 0, mixed / np.where(divisor > 0, divisor, 1), mixed), covers[0] + share * (covers[1] - covers[0])

    def shown(self, places: ArrayLike) -> tuple[Floats, Floats, Flags]:
        """(n,) places → (n, 3) sRGB 0..1 as a screen shows it, (n,) alpha, and (n,) bool, true where it lay inside the gamut."""
        coords, alpha = self.at(places)
        srgb, inside = displayed(numbers(coords), self.space.id)
        return srgb, numbers(alpha), inside

    def baked(self, count: int) -> list[Color]:
        """Exactly `count` colors from end to end; a step that falls on a stop is that stop's very color."""
        places = self.spacing.places(self, np.linspace(0, 1, count))
        coords, alphas = self.at(places)
        # Later stops win where two share a place, as they do in `at`.
        known = list(zip(self.positions, self.stops, strict=True))[::-1]
        colors = []
        for place, row, alpha in zip(places.tolist(), coords.tolist(), alphas.tolist(), strict=True):
            exact = next((stop.color for at, stop in known if abs(at - place) < SAME_PLACE), None)
            colors.append(exact or Color.of(self.space.id, row, alpha if alpha != alpha else min(max(alpha, 0.0), 1.0)))
        return colors


def said_ramp(names: Sequence[str], steps: int, lane: Lane) -> str:
    """What a ramp is, as a sentence; names : one for every stop."""
    through = f" through {', '.join(names[1:-1])}" if len(names) > 2 else ""
    return f"Ramp from {names[0]}{through} to {names[-1]} in {steps} steps, in {lane.label}."
