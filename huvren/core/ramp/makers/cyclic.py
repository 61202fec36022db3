"""Cyclic: round the hues and back, for angles, hours and months; the ends meet in value and in slope."""

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np

from huvren.core.color.arrays import Floats
from huvren.core.color.gamut import in_srgb_gamut
from huvren.core.color.spaces import convert
from huvren.core.color.value import Color
from huvren.core.ramp.makers.maker import MAKERS, Maker, MakerNumber, oklch_of
from huvren.core.ramp.plan import PlanStop, RampPlan, plain_only
from huvren.core.ramp.profile import evenness

PLACES = 12
ROUNDS = 30
EVEN_ENOUGH = 1.045


def _ring(lightness: float, sway: float, hue: float, chroma: float) -> Floats:
    """(PLACES, 3) OKLab once round, from the hue on; lightest there, darkest opposite."""
    angle = np.arange(PLACES) / PLACES * 2 * np.pi
    around = np.radians(hue) + angle
    return np.asarray(np.column_stack([lightness + sway / 2 * np.cos(angle), chroma * np.cos(around), chroma * np.sin(around)]))


def _unevenness(plan: RampPlan) -> float:
    return evenness(plan.ramp(plain_only), None).exact


def make(colors: Sequence[Color], numbers: Mapping[str, float], steps: int | None, measure: str) -> list[RampPlan]:
    """One color: a ring through every hue, that begins at its hue. Several: through them and back to the first."""
    if len(colors) == 1:
        _, _, hue = oklch_of(colors)[0].tolist()
        wanted = numbers["chroma"]
        low, high = 0.0, wanted
        if not in_srgb_gamut(convert(_ring(numbers["lightness"], numbers["sway"], hue, wanted), "oklab", "srgb")).all():
            for _ in range(ROUNDS):
                tried = (low + high) / 2
                inside = in_srgb_gamut(convert(_ring(numbers["lightness"], numbers["sway"], hue, tried), "oklab", "srgb")).all()
                low, high = (tried, high) if inside else (low, tried)
            wanted = low
        ring = _ring(numbers["lightness"], numbers["sway"], hue, wanted)
        around = [Color("oklab", (row[0], row[1], row[2])) for row in ring.tolist()]
    else:
        around = list(colors)
    places = np.linspace(0, 1, len(around) + 1).tolist()
    stops = tuple(PlanStop(color, position=at) for color, at in zip([*around, around[0]], places, strict=True))
    flowing = RampPlan(stops, steps, curve="natural", spacing="even", closed=True, purpose="cyclic", measure=measure)
    if _unevenness(flowing) <= EVEN_ENOUGH:
        return [flowing]
    # Beyond white or the edge of the gamut a flowing curve is brought back with a jump; this one stays within its colors.
    return [min(flowing, replace(flowing, curve="monotone"), key=_unevenness)]


MAKERS.register(
    Maker(
        "cyclic", "cyclic ramp", "For hours, months and angles: the end is the beginning again.", 1, 16, "round", 12,
        (
            MakerNumber("lightness", "Lightness of the ring", 0.2, 0.95, 0.72, 0.01, "at L"),
            MakerNumber("sway", "How far lightness sways", 0, 0.5, 0.16, 0.01, "swaying by"),
            MakerNumber("chroma", "Chroma of the ring", 0.01, 0.3, 0.11, 0.01, "with chroma"),
        ),
        make,
    )
)  # fmt: skip
