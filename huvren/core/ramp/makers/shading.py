"""Shading: dark to light through one color, which is a step of it; hue turns toward shadow and light, chroma falls off there."""

from collections.abc import Mapping, Sequence

import numpy as np

from huvren.core.color.value import Color
from huvren.core.ramp.makers.maker import MAKERS, Maker, MakerNumber, oklch_of, shown_colors, turned
from huvren.core.ramp.plan import PlanStop, RampPlan
from huvren.core.ramp.stops import MOST_STOPS

PLACES = 9
"""Stops of a ramp that has no steps or very many, by even lightness."""
NEUTRAL = 0.01
SAME_PLACE = 1e-9


def _toward(hue: float, wanted: float, most: float) -> float:
    """By how many degrees a hue turns toward another one, at most so many."""
    return float(np.clip(turned(hue, wanted) - hue, -most, most))


def _shades(color: Color, numbers: Mapping[str, float], shares: Sequence[float]) -> list[Color]:
    """OKLab colors at even lightness from dark to light, one a share of the way."""
    lightness, chroma, hue = oklch_of([color])[0].tolist()
    dark, light = numbers["dark"], numbers["light"]
    levels = dark + (light - dark) * np.array(shares)
    middle = float(np.clip(lightness, dark + 0.02, light - 0.02))
    below = np.clip((middle - levels) / (middle - dark), 0, 1)
    above = np.clip((levels - middle) / (light - middle), 0, 1)
    turn = _toward(hue, numbers["shadow"], numbers["turn"]) * below + _toward(hue, numbers["lamp"], numbers["turn"]) * above
    falloff = 1 - numbers["falloff"] / 100 * np.maximum(below, above) ** 2
    if chroma < NEUTRAL:
        turn = np.zeros(len(shares))
    return shown_colors(np.column_stack([levels, chroma * falloff, (hue + turn) % 360]))


def _shares(color: Color, numbers: Mapping[str, float], steps: int | None) -> tuple[list[float], int]:
    """Where the stops stand, 0..1, and which of them is the color itself: one a step where there are few enough steps, else even
    ones and that of the color, which is a step in any case."""
    lightness = (oklch_of([color])[0, 0] - numbers["dark"]) / (numbers["light"] - numbers["dark"])
    own = float(np.clip(lightness, 0, 1))
    if steps is not None:
        own = float(np.linspace(0, 1, steps)[round(own * (steps - 1))])
    even = np.linspace(0, 1, steps if steps is not None and steps <= MOST_STOPS else PLACES)
    # A place that only rounding sets apart from that of the color is its place.
    shares = sorted({*even[np.abs(even - own) > SAME_PLACE].tolist(), own})
    return shares, shares.index(own)


def _plan(color: Color, numbers: Mapping[str, float], steps: int | None) -> RampPlan:
    shares, own = _shares(color, numbers, steps)
    shades = _shades(color, numbers, shares)
    shades[own] = color
    stops = tuple(PlanStop(shade, position=at) for shade, at in zip(shades, shares, strict=True))
    return RampPlan(stops, steps, curve="monotone", purpose="shading", numbers=tuple(numbers.items()))


def make(colors: Sequence[Color], numbers: Mapping[str, float], steps: int | None, measure: str) -> list[RampPlan]:
    """One ramp a color, which is the step nearest to it in lightness. All pass the same lightness at every other step, so that
    materials match."""
    if numbers["light"] - numbers["dark"] < 0.1:
        numbers = {**numbers, "dark": max(0.0, numbers["light"] - 0.1)}
    return [_plan(color, numbers, steps) for color in colors]


MAKERS.register(
    Maker(
        "shading", "shading ramp", "From dark to light through one material; several share the other steps.", 1, 16, "and", 7,
        (
            MakerNumber("dark", "Darkest lightness", 0, 0.9, 0.22, 0.01, "from L"),
            MakerNumber("light", "Lightest lightness", 0.1, 1, 0.93, 0.01, "to L"),
            MakerNumber("shadow", "Hue of the shadow", 0, 360, 285, 5, "shadows toward hue", "°"),
            MakerNumber("lamp", "Hue of the light", 0, 360, 85, 5, "lights toward hue", "°"),
            MakerNumber("turn", "Most degrees turned", 0, 90, 25, 1, "by at most", "°"),
            MakerNumber("falloff", "Chroma lost at the ends", 0, 100, 45, 5, "chroma falling by", "%"),
        ),
        make, apart=True,
    )
)  # fmt: skip
