"""What makes ramps, and the registry of makers."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from huvren.core.color.arrays import Floats
from huvren.core.color.gamut import within_srgb
from huvren.core.color.measures import MEASURES
from huvren.core.color.spaces import convert
from huvren.core.color.value import Color
from huvren.core.errors import BadInput
from huvren.core.ramp.plan import ColorOf, RampPlan
from huvren.core.ramp.stops import FEWEST_STEPS, MOST_STEPS
from huvren.core.registry import Registry


@dataclass(frozen=True)
class MakerNumber:
    """A number of a maker. said : how the sentence leads up to it."""

    id: str
    """By which it is named in documents, addresses and commands."""
    label: str
    """As menus call it."""
    low: float
    """The least."""
    high: float
    """The most."""
    usual: float
    """Where nothing is chosen."""
    step: float
    """From one value to the next in the interface."""
    said: str
    unit: str = ""
    """Written behind the number."""


@dataclass(frozen=True)
class Maker:
    """fewest, most : how many colors it takes; joined : what a sentence puts between them; apart : whether each color is a ramp
    of its own. make : colors, numbers, steps and a measure of difference → plans. Raises `BadInput`."""

    id: str
    """By which it is named in documents, addresses and commands."""
    label: str
    """As menus call it."""
    use: str
    """What it is for, in one sentence."""
    fewest: int
    most: int
    joined: str
    steps: int
    """Where nothing is chosen."""
    numbers: tuple[MakerNumber, ...]
    """That it takes."""
    make: Callable[[Sequence[Color], Mapping[str, float], int | None, str], list[RampPlan]]
    apart: bool = False


MAKERS: Registry[Maker] = Registry("maker")


def remade(plan: RampPlan, color_of: ColorOf) -> RampPlan:
    """A plan that was made from the one swatch its stop is tied to, made anew from the color that swatch has now. Any other, and
    one whose numbers its maker does not know any more, as it is."""
    tied = plan.tied()
    if not plan.numbers or len(tied) != 1 or plan.purpose not in MAKERS:
        return plan
    (swatch,) = tied
    color = color_of(swatch)
    try:
        (made,) = make(plan.purpose, [color], dict(plan.numbers), plan.steps, plan.measure)
    except BadInput:
        return plan
    return replace(made.tied_to(swatch, color), space=plan.space, hue=plan.hue, curve=plan.curve, gamut=plan.gamut)


def make(
    maker_id: str, colors: Sequence[Color], numbers: Mapping[str, float], steps: int | None, measure: str = "oklab"
) -> list[RampPlan]:
    """The plans of a maker, even by a measure of difference; numbers that are not given are the usual ones. Raises `BadInput` or
    `Unknown`."""
    maker = MAKERS[maker_id]
    MEASURES[measure]
    if not maker.fewest <= len(colors) <= maker.most:
        wanted = f"{maker.fewest}" if maker.fewest == maker.most else f"{maker.fewest} to {maker.most}"
        raise BadInput(f"A {maker.label} is made from {wanted} colors; {len(colors)} were given.")
    if steps is not None and not FEWEST_STEPS <= steps <= MOST_STEPS:
        raise BadInput(f"A ramp has {FEWEST_STEPS} to {MOST_STEPS:,} steps; {steps:,} were asked for.")
    known = {number.id: number for number in maker.numbers}
    if unknown := next((name for name in numbers if name not in known), None):
        raise BadInput(f"A {maker.label} has no number “{unknown[:40]}”. It has: {', '.join(known) or 'none'}.")
    chosen = {number.id: numbers.get(number.id, number.usual) for number in maker.numbers}
    for name, value in chosen.items():
        if not known[name].low <= value <= known[name].high:
            raise BadInput(f"{known[name].label} is {value:g}; {known[name].low:g} to {known[name].high:g} was expected.")
    return [replace(plan, measure=measure) for plan in maker.make(colors, chosen, steps, measure)]


def oklch_of(colors: Sequence[Color]) -> Floats:
    """(n, 3) OKLCh of colors as they are shown.

    Parameters
    ----------
    colors : Sequence[Color]
        n colors in any space.

    Returns
    -------
    Floats
        (n, 3) OKLCh of colors as they are shown.
    """
    return convert(np.array([color.srgb for color in colors]), "srgb", "oklch")


def shown_colors(oklch: Floats) -> list[Color]:
    """(n, 3) OKLCh → OKLab colors inside sRGB, with less chroma where it must be; lightness and hue held.

    Parameters
    ----------
    oklch : Floats
        (n, 3) OKLCh, hue in degrees.

    Returns
    -------
    list[Color]
        OKLab colors inside sRGB, with less chroma where it must be; lightness and hue held.
    """
    oklab = convert(within_srgb(oklch), "oklch", "oklab")
    return [Color("oklab", (row[0], row[1], row[2])) for row in oklab.tolist()]


def turned(start: float, end: float) -> float:
    """`end`, a hue in degrees, by the near way from `start`."""
    return start + (end - start + 180) % 360 - 180
