"""`Ramp`: stops, the way between them and their spacing, as one immutable value that gives its color anywhere.

Straight ramps interpolate as CSS Color 4 §12 does (premultiplied alpha, missing and powerless components, hue routes); stops
stand as in CSS Images 4 §3.5.3, and a midpoint bends as a color hint does (§3.5.3 too). NaN stands for a missing component.

A place on the *path* says between which stops a color lies and how much of both it has; a *position* is where it stands when
midpoints and easings are heard; a *share* is a place of the finished ramp, spaced as is wanted.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import ArrayLike

from huvren.core.color.arrays import Flags, Floats, Integers
from huvren.core.color.measures import OKLAB, Measure
from huvren.core.color.spaces import ColorSpace
from huvren.core.color.value import ALPHA, Color
from huvren.core.errors import BadInput
from huvren.core.ramp.curves import CURVES, Curve, hermite, slopes_of
from huvren.core.ramp.gamuts import GAMUTS, GamutRule
from huvren.core.ramp.spacings import BY_POSITION, Spacing, measured
from huvren.core.ramp.stops import MOST_STOPS, Stop, settle_positions
from huvren.core.ramp.ways import Lane

SAME_PLACE = 1e-9
NO_ALPHA = 1e-9
"""Up to here a color is clear: there is nothing to divide by."""
STRAIGHT, REDUCED = CURVES["straight"], GAMUTS["reduce"]


def numbers(coords: Floats) -> Floats:
    """Coordinates as a screen or a format takes them: a missing component is 0.

    Parameters
    ----------
    coords : Floats
        (n, channels) coordinates.

    Returns
    -------
    Floats
        The same shape.
    """
    return np.nan_to_num(coords, nan=0.0)


@dataclass(frozen=True)
class Intervals:
    """What lies between stops: (s−1, c) premultiplied coordinates and (s−1,) alphas at both ends, NaN for what both miss.

    slopes, alpha_slopes : at both ends, for a curve that is not straight.
    low, high : (s−1, c) what a curve that stays within its stops is held to.
    """

    left: Floats
    """(n, channels) before each interval."""
    right: Floats
    """(n, channels) behind it."""
    alpha_left: Floats
    """(n,) before it."""
    alpha_right: Floats
    """(n,) behind it."""
    slopes: tuple[Floats, Floats] | None = None
    alpha_slopes: tuple[Floats, Floats] | None = None
    low: Floats | None = None
    high: Floats | None = None


@dataclass(frozen=True)
class Ramp:
    """Two or more stops and how to get from each to the next. Raises `BadInput` for fewer.

    closed : it goes round; so many steps do not repeat the first color at the end.
    """

    stops: tuple[Stop, ...]
    """In order."""
    lane: Lane
    """Space and way around."""
    spacing: Spacing = BY_POSITION
    """How steps lie."""
    curve: Curve = STRAIGHT
    """How the way bends at stops."""
    gamut: GamutRule = REDUCED
    """How colors beyond the screen are shown."""
    closed: bool = False
    measure: Measure = OKLAB
    """By which its steps are even."""

    def __post_init__(self) -> None:
        if len(self.stops) < 2:
            count = {0: "none was", 1: "one was"}[len(self.stops)]
            raise BadInput(f"A ramp needs two colors or more; {count} given. Select another swatch or type a color.")
        if len(self.stops) > MOST_STOPS:
            raise BadInput(f"A ramp takes at most {MOST_STOPS} colors; {len(self.stops)} were given.")

    @property
    def space(self) -> ColorSpace:
        """What its colors are given in."""
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
        """(s, c) coordinates and (s,) alphas of the stops, NaN for what is missing."""
        coords = self.lane.way.enter([stop.color for stop in self.stops])
        alphas = np.array([np.nan if ALPHA in stop.color.missing else stop.color.alpha for stop in self.stops])
        return coords, alphas

    @cached_property
    def _intervals(self) -> Intervals:
        coords, alphas = self._corners
        hue = self.lane.way.hue
        alpha_left, alpha_right = alphas[:-1], alphas[1:]
        alpha_left, alpha_right = (
            np.where(np.isnan(alpha_left), alpha_right, alpha_left), np.where(np.isnan(alpha_right), alpha_left, alpha_right),
        )  # fmt: skip
        if self.curve.slopes is not None:
            return self._curved(coords, alphas)
        # What is missing is so premultiplied as well (CSS Color 4 §12.3); then one end takes it from the other (§12.2).
        left, right = self._weighed(coords[:-1], alpha_left), self._weighed(coords[1:], alpha_right)
        left, right = np.where(np.isnan(left), right, left), np.where(np.isnan(right), left, right)
        if hue is not None:
            right[:, hue] = left[:, hue] + self.lane.route.turn(right[:, hue] - left[:, hue])
        return Intervals(left, right, alpha_left, alpha_right)

    def _weighed(self, coords: Floats, alphas: Floats) -> Floats:
        """Premultiplied by alpha, all but the hue."""
        weights = np.where(np.isnan(alphas), 1.0, alphas)
        made = coords * weights[:, None]
        if self.lane.way.hue is not None:
            made[:, self.lane.way.hue] = coords[:, self.lane.way.hue]
        return made

    def _curved(self, coords: Floats, alphas: Floats) -> Intervals:
        """One value a stop, so that the curve has no gap: what is missing lies between its neighbors; then slopes, piece by piece."""
        places, hue = np.array(self.positions), self.lane.way.hue
        filled = coords.copy()
        for channel in range(coords.shape[1]):
            column, known = filled[:, channel], ~np.isnan(coords[:, channel])
            if hue == channel and known.any():
                turns = self.lane.route.turn(np.diff(column[known]))
                column[known] = column[known][0] + np.concatenate([[0.0], np.cumsum(turns)])
            if known.any() and not known.all():
                column[~known] = np.interp(places[~known], places[known], column[known])
        known = ~np.isnan(alphas)
        alpha = np.interp(places, places[known], alphas[known]) if known.any() else np.ones(len(alphas))
        values = np.column_stack([self._weighed(filled, alpha), alpha])
        before, after = np.zeros((len(places) - 1, values.shape[1])), np.zeros((len(places) - 1, values.shape[1]))
        breaks = [0, *(np.flatnonzero(np.diff(places) < SAME_PLACE) + 1).tolist(), len(places)]
        for begin, end in zip(breaks[:-1], breaks[1:], strict=True):
            if end - begin > 1:
                whole = self.closed and begin == 0 and end == len(places)
                slopes = slopes_of(self.curve, places[begin:end], numbers(values[begin:end]), whole)
                before[begin : end - 1], after[begin : end - 1] = slopes[:-1], slopes[1:]
        low = high = None
        if self.curve.stays:
            low, high = np.minimum(filled[:-1], filled[1:]), np.maximum(filled[:-1], filled[1:])
        return Intervals(
            values[:-1, :-1], values[1:, :-1], np.where(known.any(), alpha, np.nan)[:-1], np.where(known.any(), alpha, np.nan)[1:],
            (before[:, :-1], after[:, :-1]), (before[:, -1], after[:, -1]), low, high,
        )  # fmt: skip

    def colors_on(self, interval: Integers, share: Floats) -> tuple[Floats, Floats]:
        """(n,) intervals and (n,) shares 0..1 of them → (n, channels) coordinates in `space`, and (n,) alpha.

        Parameters
        ----------
        interval : Integers
            (n,) places of the stop before.
        share : Floats
            (n,) 0..1 of the interval.

        Returns
        -------
        tuple[Floats, Floats]
            (n, channels) coordinates in `space`, and (n,) alpha.
        """
        held = self._intervals
        alpha_left, alpha_right = held.alpha_left[interval], held.alpha_right[interval]
        if held.slopes is None or held.alpha_slopes is None:
            alpha = alpha_left + share * (alpha_right - alpha_left)
            mixed: Floats = held.left[interval] + share[:, None] * (held.right[interval] - held.left[interval])
        else:
            width = np.diff(self.positions)[interval]
            before, after = (slopes[interval] for slopes in held.slopes)
            mixed = hermite(held.left[interval], held.right[interval], before, after, width, share)
            before, after = (slopes[interval][:, None] for slopes in held.alpha_slopes)
            alpha = hermite(alpha_left[:, None], alpha_right[:, None], before, after, width, share)[:, 0].clip(0, 1)
        hue = self.lane.way.hue
        weights = np.where(np.isnan(alpha), 1.0, alpha)
        # Where all is clear the color is that of the nearer end.
        clear = weights <= NO_ALPHA
        coords: Floats = mixed / np.where(clear, 1.0, weights)[:, None]
        if clear.any():
            bare = self._corners[0]
            coords[clear] = np.where((share < 0.5)[:, None], bare[interval], bare[interval + 1])[clear]
        if hue is not None:
            coords[:, hue] = mixed[:, hue]
        if held.low is not None and held.high is not None:
            coords = np.where(clear[:, None], coords, np.clip(coords, held.low[interval], held.high[interval]))
        coords = self.lane.way.leave(coords)
        if hue is not None:
            coords[:, hue] %= 360
        return coords, alpha

    def split(self, path: Floats) -> tuple[Integers, Floats]:
        """(n,) places on the path → (n,) interval, and (n,) share 0..1 of it; where two stops coincide the later one holds.

        Parameters
        ----------
        path : Floats
            (n,) places on the path, 0..1.

        Returns
        -------
        tuple[Integers, Floats]
            (n,) intervals and (n,) shares.
        """
        positions = np.array(self.positions)
        interval = np.clip(np.searchsorted(positions, path, side="right") - 1, 0, len(positions) - 2)
        begin, width = positions[interval], np.diff(positions)[interval]
        share = np.where(width > 0, (path - begin) / np.where(width > 0, width, 1.0), path >= begin)
        return interval, np.clip(share, 0, 1)

    def eased(self, positions: Floats) -> Floats:
        """(n,) positions → (n,) places on the path, where midpoints and easings have taken them.

        Parameters
        ----------
        positions : Floats
            (n,) 0..1 by the stops.

        Returns
        -------
        Floats
            (n,) places on the path, where midpoints and easings have taken them.
        """
        if all(stop.midpoint == 0.5 and stop.easing.kind == "linear" for stop in self.stops[:-1]):
            return positions
        interval, share = self.split(positions)
        begin, width = np.array(self.positions)[interval], np.diff(self.positions)[interval]
        bent = share.copy()
        for left in np.unique(interval).tolist():
            stop, here = self.stops[left], interval == left
            if stop.midpoint != 0.5:
                bent[here] = bent[here] ** (np.log(0.5) / np.log(stop.midpoint))
            bent[here] = stop.easing.bend(bent[here])
        path = begin + bent * width
        outside = (positions < self.positions[0]) | (positions > self.positions[-1])
        return np.where(outside, positions, path)

    def on_path(self, path: Floats) -> tuple[Floats, Floats]:
        """(n,) places on the path → (n, channels) coordinates and (n,) alpha; beyond the ends there is the end's own color.

        Parameters
        ----------
        path : Floats
            (n,) places on the path, 0..1.

        Returns
        -------
        tuple[Floats, Floats]
            (n, channels) coordinates and (n,) alpha.
        """
        interval, share = self.split(path)
        coords, alpha = self.colors_on(interval, share)
        bare, alphas = self._corners
        # Before the first stop and behind the last there is no neighbor to take a missing component from.
        for beyond, end in ((path < self.positions[0], 0), (path > self.positions[-1], -1)):
            if beyond.any():
                coords[beyond], alpha[beyond] = self.lane.way.leave(bare[[end]])[0], alphas[end]
        return coords, alpha

    @cached_property
    def measured(self) -> tuple[Floats, Floats, Floats]:
        """What spacings go by (`spacings.measured`)."""
        return measured(self)

    def path(self, shares: ArrayLike) -> Floats:
        """(n,) shares 0..1 of the finished ramp → (n,) places on the path, as the spacing has it.

        Parameters
        ----------
        shares : ArrayLike
            (n,) 0..1 of the finished ramp.

        Returns
        -------
        Floats
            (n,) places on the path, as the spacing has it.
        """
        return self.spacing.path(self, np.asarray(shares, dtype=np.float64))

    def at(self, shares: ArrayLike) -> tuple[Floats, Floats]:
        """(n,) shares 0..1 → (n, channels) coordinates in `space`, not gamut mapped, and (n,) alpha.

        A component that both neighbors miss is NaN, as is their alpha.

        Parameters
        ----------
        shares : ArrayLike
            (n,) 0..1.

        Returns
        -------
        tuple[Floats, Floats]
            (n, channels) coordinates in `space`, not gamut mapped, and (n,) alpha.
        """
        return self.on_path(self.path(shares))

    def shown_on(self, path: Floats) -> tuple[Floats, Floats, Flags]:
        """As `shown`, of places on the path.

        Parameters
        ----------
        path : Floats
            (n,) places on the path, 0..1.

        Returns
        -------
        tuple[Floats, Floats, Flags]
            (n, 3) sRGB 0..1, (n,) alpha and (n,) bool.
        """
        coords, alpha = self.on_path(path)
        srgb, inside = self.gamut.show(numbers(coords), self.space.id)
        return srgb, numbers(alpha), inside

    def shown(self, shares: ArrayLike) -> tuple[Floats, Floats, Flags]:
        """(n,) shares → (n, 3) sRGB 0..1 as a screen shows it, (n,) alpha, and (n,) bool, true where it lay inside the gamut.

        Parameters
        ----------
        shares : ArrayLike
            (n,) 0..1 of the finished ramp.

        Returns
        -------
        tuple[Floats, Floats, Flags]
            (n, 3) sRGB 0..1 as a screen shows it, (n,) alpha, and (n,) bool, true where it lay inside the gamut.
        """
        return self.shown_on(self.path(shares))

    def shares(self, count: int) -> Floats:
        """(count,) where that many steps lie.

        Parameters
        ----------
        count : int
            How many.

        Returns
        -------
        Floats
            (count,) where that many steps lie.
        """
        return np.linspace(0, 1, count, endpoint=not self.closed)

    def baked(self, count: int) -> list[Color]:
        """Exactly `count` colors from end to end; a step that falls on a stop is its very color, if nothing of it is missing."""
        path = self.path(self.shares(count))
        coords, alphas = self.on_path(path)
        positions = np.array(self.positions)
        # Later stops win where two share a place, as they do in `at`.
        stop = np.clip(np.searchsorted(positions, path + SAME_PLACE, side="right") - 1, 0, len(positions) - 1)
        exact = np.abs(positions[stop] - path) < SAME_PLACE
        colors = []
        for place, (row, alpha) in enumerate(zip(coords.tolist(), alphas.tolist(), strict=True)):
            own = self.stops[int(stop[place])].color if exact[place] else None
            # What it misses it has from its neighbors, as the steps beside it do.
            own = None if own is not None and own.missing else own
            colors.append(own or Color.of(self.space.id, row, alpha if alpha != alpha else min(max(alpha, 0.0), 1.0)))
        return colors


def said_ramp(names: Sequence[str], steps: int | None, lane: Lane) -> str:
    """What a ramp is, as a sentence; names : one for every stop."""
    through = (
        f" through {', '.join(names[1:-1])}" if 2 < len(names) <= 8 else f" through {len(names) - 2} colors" if len(names) > 2 else ""
    )
    how = f" in {steps} steps" if steps else ""
    return f"Ramp from {names[0]}{through} to {names[-1]}{how}, in {lane.label}."
