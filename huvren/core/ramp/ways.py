"""The ways to interpolate: the spaces a ramp may pass through, which say so themselves, and the routes a hue may take."""

from collections.abc import Callable
from dataclasses import dataclass

from huvren.core.color.spaces import SPACES, ColorSpace
from huvren.core.registry import Registry


@dataclass(frozen=True)
class HueRoute:
    """How a hue gets from one end to the other. `fix_up` takes and gives both hues in degrees (CSS Color 4 §12.4)."""

    id: str
    label: str
    use: str
    fix_up: Callable[[float, float], tuple[float, float]]


HUE_ROUTES: Registry[HueRoute] = Registry("hue route")


def _shorter(start: float, end: float) -> tuple[float, float]:
    if end - start > 180:
        return start + 360, end
    if end - start < -180:
        return start, end + 360
    return start, end


def _longer(start: float, end: float) -> tuple[float, float]:
    if 0 < end - start < 180:
        return start + 360, end
    if -180 < end - start <= 0:
        return start, end + 360
    return start, end


HUE_ROUTES.register(HueRoute("shorter", "shorter hue", "The near way round the hue circle.", _shorter))
HUE_ROUTES.register(HueRoute("longer", "longer hue", "The far way round, through every other hue.", _longer))
HUE_ROUTES.register(HueRoute("increasing", "rising hue", "Always upward in hue.", lambda a, b: (a, b + 360 if b < a else b)))
HUE_ROUTES.register(HueRoute("decreasing", "falling hue", "Always downward in hue.", lambda a, b: (a + 360 if a < b else a, b)))


@dataclass(frozen=True)
class Way:
    """A space to interpolate in. `id` is that of the color space."""

    space: ColorSpace

    @property
    def id(self) -> str:
        return self.space.id

    @property
    def label(self) -> str:
        return (self.space.between.label if self.space.between else "") or self.space.label

    @property
    def use(self) -> str:
        return self.space.between.use if self.space.between else ""

    @property
    def is_polar(self) -> bool:
        return self.space.hue is not None


WAYS: Registry[Way] = Registry("interpolation space")
for _space in sorted((space for space in SPACES if space.between), key=lambda space: space.between.order if space.between else 0):
    WAYS.register(Way(_space))


@dataclass(frozen=True)
class Lane:
    """One way with one hue route: how a ramp gets from stop to stop, and a full-width strip of the ramp stage."""

    way: Way
    route: HueRoute

    @classmethod
    def of(cls, space: str, route: str = "shorter") -> "Lane":
        """By ids; any color space can be passed through, those that are no registered way as well."""
        return cls(WAYS[space] if space in WAYS else Way(SPACES[space]), HUE_ROUTES[route])

    @property
    def id(self) -> str:
        return f"{self.way.id}-{self.route.id}" if self.way.is_polar else self.way.id

    @property
    def label(self) -> str:
        return f"{self.way.label}, {self.route.label}" if self.way.is_polar else self.way.label


SHOWN_ROUTES = ("shorter", "longer")


def lanes() -> tuple[Lane, ...]:
    """Every way one under the other; a polar one once for each route that is shown."""
    return tuple(Lane(way, HUE_ROUTES[route]) for way in WAYS for route in (SHOWN_ROUTES if way.is_polar else SHOWN_ROUTES[:1]))
