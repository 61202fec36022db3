"""Diverging: two arms that leave a neutral middle with equal lightness at equal distance."""

from collections.abc import Mapping, Sequence

import numpy as np

from huvren.core.color.gamut import in_srgb_gamut
from huvren.core.color.spaces import convert
from huvren.core.color.value import Color
from huvren.core.errors import BadInput
from huvren.core.ramp.makers.maker import MAKERS, Maker, MakerNumber, oklch_of
from huvren.core.ramp.plan import PlanStop, RampPlan

PLACES = 65
ROUNDS = 30


def _reach(middle: float, end: float, hue: float, chroma: float) -> float:
    """The most chroma, up to `chroma`, whose straight way from the middle stays inside sRGB."""
    share = np.linspace(0, 1, PLACES)
    low, high = 0.0, chroma
    for turn in range(ROUNDS):
        tried = (low + high) / 2 if turn else high
        path = np.column_stack([middle + share * (end - middle), share * tried, np.full(PLACES, hue)])
        inside = bool(in_srgb_gamut(convert(path, "oklch", "srgb")).all())
        if inside and tried == high:
            return tried
        low, high = (tried, high) if inside else (low, tried)
    return low


def make(colors: Sequence[Color], numbers: Mapping[str, float], steps: int | None) -> list[RampPlan]:
    """Each arm runs straight through OKLab; both have the same chroma at their ends, so that their steps are equal too."""
    middle, end = numbers["middle"], numbers["end"]
    if abs(middle - end) < 0.1:
        raise BadInput(f"A middle of lightness {middle:g} and ends of {end:g} are too much alike; leave 0.1 between them.")
    oklch = oklch_of(colors)
    chroma = min(_reach(middle, end, hue, max(float(oklch[:, 1].max()), 0.02)) for hue in oklch[:, 2].tolist())
    ends = [
        Color("oklab", (end, float(chroma * np.cos(np.radians(hue))), float(chroma * np.sin(np.radians(hue)))))
        for hue in oklch[:, 2].tolist()
    ]
    stops = (PlanStop(ends[0], position=0), PlanStop(Color("oklab", (middle, 0.0, 0.0)), position=0.5), PlanStop(ends[1], position=1))
    return [RampPlan(stops, steps, spacing="even", purpose="diverging")]


MAKERS.register(
    Maker(
        "diverging", "diverging ramp", "For above and below: two arms that mirror each other.", 2, 2, "against", 9,
        (
            MakerNumber("middle", "Lightness of the middle", 0, 1, 0.95, 0.01, "over a middle of L"),
            MakerNumber("end", "Lightness of the ends", 0, 1, 0.42, 0.01, "down to L"),
        ),
        make,
    )
)  # fmt: skip
