"""Shading: from one color, dark to light; hue turns toward the shadow's and the light's, chroma falls off at both ends."""

from collections.abc import Mapping, Sequence

import numpy as np

from huvren.core.color.value import Color
from huvren.core.ramp.makers.maker import MAKERS, Maker, MakerNumber, oklch_of, shown_colors, turned
from huvren.core.ramp.plan import PlanStop, RampPlan

PLACES = 9
"""Stops of each ramp, by even lightness."""
NEUTRAL = 0.01


def _toward(hue: float, wanted: float, most: float) -> float:
    """By how many degrees a hue turns toward another one, at most so many."""
    return float(np.clip(turned(hue, wanted) - hue, -most, most))


def _shades(color: Color, numbers: Mapping[str, float]) -> list[Color]:
    """OKLab colors at even lightness from dark to light; the color itself lies on the way at its own lightness."""
    lightness, chroma, hue = oklch_of([color])[0].tolist()
    dark, light = numbers["dark"], numbers["light"]
    levels = np.linspace(dark, light, PLACES)
    middle = float(np.clip(lightness, dark + 0.02, light - 0.02))
    below = np.clip((middle - levels) / (middle - dark), 0, 1)
    above = np.clip((levels - middle) / (light - middle), 0, 1)
    turn = _toward(hue, numbers["shadow"], numbers["turn"]) * below + _toward(hue, numbers["lamp"], numbers["turn"]) * above
    falloff = 1 - numbers["falloff"] / 100 * np.maximum(below, above) ** 2
    if chroma < NEUTRAL:
        turn = np.zeros(PLACES)
    return shown_colors(np.column_stack([levels, chroma * falloff, (hue + turn) % 360]))


def make(colors: Sequence[Color], numbers: Mapping[str, float], steps: int | None) -> list[RampPlan]:
    """One ramp a color. All pass the same lightness at the same step, so that materials match."""
    if numbers["light"] - numbers["dark"] < 0.1:
        numbers = {**numbers, "dark": max(0.0, numbers["light"] - 0.1)}
    shares = np.linspace(0, 1, PLACES).tolist()
    return [
        RampPlan(
            tuple(PlanStop(shade, position=at) for shade, at in zip(_shades(color, numbers), shares, strict=True)),
            steps, curve="monotone", spacing="lightness", purpose="shading",
        )
        for color in colors
    ]  # fmt: skip


MAKERS.register(
    Maker(
        "shading", "shading ramp", "From dark to light over one material; several share their lightness steps.", 1, 16, "and", 7,
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
