"""The ways to interpolate: the spaces a ramp may pass through, which say so themselves, paint, and the routes a hue may take."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from huvren.core.color.arrays import Floats
from huvren.core.color.mixing import paints_of, seen_paint
from huvren.core.color.spaces import SPACES, ColorSpace, convert
from huvren.core.color.value import ALPHA, Color
from huvren.core.errors import Unknown
from huvren.core.registry import Registry


@dataclass(frozen=True)
class HueRoute:
    """How a hue gets from one end to the other. `turn` takes the (n,) differences in degrees and gives those that are gone
    (CSS Color 4 §12.4)."""

    id: str
    """By which it is named in documents, addresses and commands."""
    label: str
    """As menus call it."""
    use: str
    """What it is for, in one sentence."""
    turn: Callable[[Floats], Floats]
    """(n,) differences of hue → those of this way."""


HUE_ROUTES: Registry[HueRoute] = Registry("hue route")


def _shorter(gap: Floats) -> Floats:
    return np.where(gap > 180, gap - 360, np.where(gap < -180, gap + 360, gap))


def _longer(gap: Floats) -> Floats:
    return np.where((gap > 0) & (gap < 180), gap - 360, np.where((gap > -180) & (gap <= 0), gap + 360, gap))


HUE_ROUTES.register(HueRoute("shorter", "shorter hue", "The near way round the hue circle.", _shorter))
HUE_ROUTES.register(HueRoute("longer", "longer hue", "The far way round, through every other hue.", _longer))
HUE_ROUTES.register(HueRoute("increasing", "rising hue", "Always upward in hue.", lambda gap: np.where(gap < 0, gap + 360, gap)))
HUE_ROUTES.register(HueRoute("decreasing", "falling hue", "Always downward in hue.", lambda gap: np.where(gap > 0, gap - 360, gap)))


def components_of(colors: Sequence[Color], space: ColorSpace) -> Floats:
    """(n, channels) of colors in another space, NaN where a component is missing or a hue has no power.

    A component that is missing in a color's own space is missing in the analogous one of the other (CSS Color 4 §12.2).

    Parameters
    ----------
    colors : Sequence[Color]
        n colors in any space.
    space : ColorSpace
        The space to give them in.

    Returns
    -------
    Floats
        (n, channels), NaN where one is missing.
    """
    rows = np.empty((len(colors), len(space.channels)))
    by_space: dict[str, list[int]] = {}
    for place, color in enumerate(colors):
        by_space.setdefault(color.space, []).append(place)
    for own_id, places in by_space.items():
        rows[places] = convert([colors[place].coords for place in places], own_id, space.id)
    if space.hue is not None:
        # A strength that is missing says nothing about its hue; one that is none takes its power.
        keeps = np.array([color.space == space.id and space.strength in color.missing for color in colors])
        rows[space.hue_is_powerless(rows) & ~keeps, space.hue] = np.nan
    for row, color in enumerate(colors):
        own = SPACES[color.space]
        for place in color.missing:
            if place == ALPHA:
                continue
            means = own.channels[place].means
            there = place if own is space else space.channel_of(means) if means else None
            if there is not None:
                rows[row, there] = np.nan
    return rows


@dataclass(frozen=True)
class Way:
    """What is interpolated. `space` is what the colors in between are given in.

    enter : n colors → (n, c) coordinates, NaN for missing ones, that are interpolated; leave : (n, c) → (n, channels).
    gradient : its name in a CSS gradient, if it has one.
    """

    id: str
    """By which it is named in documents, addresses and commands."""
    label: str
    """As menus call it."""
    use: str
    """What it is for, in one sentence."""
    space: ColorSpace
    """Between the stops."""
    hue: int | None
    """Place of the hue among the channels, or None."""
    enter: Callable[[Sequence[Color]], Floats]
    leave: Callable[[Floats], Floats]
    gradient: str | None = None

    @property
    def is_polar(self) -> bool:
        return self.hue is not None


def through(space: ColorSpace) -> Way:
    """The way straight through a color space."""
    between = space.between
    return Way(
        space.id, (between.label if between else "") or space.label, between.use if between else "", space, space.hue,
        lambda colors: components_of(colors, space), lambda coords: coords, space.gradient,
    )  # fmt: skip


WAYS: Registry[Way] = Registry("interpolation space")
for _space in sorted((space for space in SPACES if space.between), key=lambda space: space.between.order if space.between else 0):
    WAYS.register(through(_space))
WAYS.register(Way("pigment", "Paint", "as paints mix, darker and greener", SPACES["srgb-linear"], None, paints_of, seen_paint))


@dataclass(frozen=True)
class Lane:
    """One way with one hue route: how a ramp gets from stop to stop, and a full-width strip of the ramp stage."""

    way: Way
    """The space."""
    route: HueRoute
    """Around the hue."""

    @classmethod
    def of(cls, space: str, route: str = "shorter") -> "Lane":
        """By ids; any color space can be passed through, those that are no registered way as well."""
        return cls(WAYS[space] if space in WAYS else through(SPACES[space]), HUE_ROUTES[route])

    @property
    def id(self) -> str:
        return f"{self.way.id}-{self.route.id}" if self.way.is_polar else self.way.id

    @property
    def label(self) -> str:
        return f"{self.way.label}, {self.route.label}" if self.way.is_polar else self.way.label


def lanes() -> tuple[Lane, ...]:
    """Every way one under the other; a polar one once for each route."""
    return tuple(Lane(way, route) for way in WAYS for route in HUE_ROUTES if way.is_polar or route.id == HUE_ROUTES.ids()[0])


SHOWN_FIRST = ("oklab", "oklch-shorter", "oklch-longer", "srgb-linear", "srgb")
"""Lanes that stand where an artist has chosen none."""


def lane_of(lane_id: str) -> Lane:
    """A lane by its id. Raises `Unknown`."""
    found = next((lane for lane in lanes() if lane.id == lane_id), None)
    if found is None:
        raise Unknown(f"There is no lane “{lane_id[:40]}”.")
    return found
