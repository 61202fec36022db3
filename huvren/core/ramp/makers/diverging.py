"""Diverging: two arms that leave a neutral middle with equal lightness at equal distance."""

from collections.abc import Mapping, Sequence

import numpy as np

from huvren.core.color.gamut import in_srgb_gamut
from huvren.core.color.measures import MEASURES
from huvren.core.color.spaces import convert
from huvren.core.color.value import Color
from huvren.core.errors import BadInput
from huvren.core.ramp.makers.maker import MAKERS, Maker, MakerNumber, oklch_of
from huvren.core.ramp.plan import PlanStop, RampPlan

PLACES = 65
ROUNDS = 30
SAME_LENGTH = 1e-6


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


def _length(middle: float, end: float, hue: float, chroma: float, measure: str) -> float:
    """How long an arm is, by a measure of difference."""
    share = np.linspace(0, 1, PLACES)
    srgb = convert(np.column_stack([middle + share * (end - middle), share * chroma, np.full(PLACES, hue)]), "oklch", "srgb")
    return float(MEASURES[measure].steps(srgb, np.ones(PLACES)).sum())


def _as_long_as(wanted: float, middle: float, end: float, hue: float, chroma: float, measure: str) -> float:
    """The chroma, up to `chroma`, with which an arm is no longer than wanted: the middle then lies half way."""
    low, high = 0.0, chroma
    if _length(middle, end, hue, chroma, measure) <= wanted * (1 + SAME_LENGTH):
        return chroma
    for _ in range(ROUNDS):
        tried = (low + high) / 2
        low, high = (tried, high) if _length(middle, end, hue, tried, measure) <= wanted else (low, tried)
    return low


def make(colors: Sequence[Color], numbers: Mapping[str, float], steps: int | None, measure: str) -> list[RampPlan]:
    """Each arm runs straight through OKLab; both have the same chroma at their ends, or by another measure than OKLab as much less of
    it as makes them equally long, so that their steps are equal too."""
    middle, end = numbers["middle"], numbers["end"]
    if abs(middle - end) < 0.1:
        raise BadInput(f"A middle of lightness {middle:g} and ends of {end:g} are too much alike; leave 0.1 between them.")
    oklch = oklch_of(colors)
    chroma = min(_reach(middle, end, hue, max(float(oklch[:, 1].max()), 0.02)) for hue in oklch[:, 2].tolist())
    hues = oklch[:, 2].tolist()
    arms = [_length(middle, end, hue, chroma, measure) for hue in hues]
    ends = [
        Color("oklab", (end, float(reach * np.cos(np.radians(hue))), float(reach * np.sin(np.radians(hue)))))
        for hue in hues
        for reach in [_as_long_as(min(arms), middle, end, hue, chroma, measure)]
    ]
    stops = (PlanStop(ends[0], position=0), PlanStop(Color("oklab", (middle, 0.0, 0.0)), position=0.5), PlanStop(ends[1], position=1))
    return [RampPlan(stops, steps, spacing="even", purpose="diverging", measure=measure)]


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
