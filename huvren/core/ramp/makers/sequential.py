"""Sequential: one way in lightness over a chosen range, in even steps, through the hues of the colors."""

from collections.abc import Mapping, Sequence

import numpy as np

from huvren.core.color.value import Color
from huvren.core.errors import BadInput
from huvren.core.ramp.makers.maker import MAKERS, Maker, MakerNumber, oklch_of, shown_colors, turned
from huvren.core.ramp.plan import PlanStop, RampPlan, plain_only
from huvren.core.ramp.profile import evenness
from huvren.core.ramp.promises import Examined
from huvren.core.ramp.promises.eyes import to_eyes
from huvren.core.ramp.promises.lightness import monotone

PLACES = 13
NEUTRAL = 0.01
MOST_ROUNDS = 40
EVEN_ENOUGH = 1.045


def make(colors: Sequence[Color], numbers: Mapping[str, float], steps: int | None, measure: str) -> list[RampPlan]:
    """Stops at even lightness; hue and chroma are those of the colors, from the darkest to the lightest.

    Beyond the outermost colors, and for a single one, the hue goes on by `turn` degrees over the whole range.
    """
    low, high = numbers["low"], numbers["high"]
    if high - low < 0.2:
        raise BadInput(f"From lightness {low:g} to {high:g} there is too little to read; leave 0.2 between them.")
    oklch = oklch_of(colors)
    oklch = oklch[np.argsort(oklch[:, 0], kind="stable")]
    hues: list[float] = []
    for _, chroma, hue in oklch.tolist():
        hues.append(hue if not hues or chroma < NEUTRAL else turned(hues[-1], hue))
    levels = np.linspace(low, high, PLACES)
    known = low + (np.arange(len(oklch)) + 0.5) / len(oklch) * (high - low) if len(oklch) < 3 else np.linspace(low, high, len(oklch))
    hue = np.interp(levels, known, hues)
    beyond = np.minimum(levels - known[0], 0) + np.maximum(levels - known[-1], 0)
    hue += beyond / (high - low) * numbers["turn"]
    chroma = np.interp(levels, known, oklch[:, 1])
    # Near black and white there is room for little chroma; it falls off before the edge of the gamut bends the path.
    room = np.clip(np.minimum(levels / 0.25, (1.02 - levels) / 0.25), 0, 1)
    shares = np.linspace(0, 1, PLACES).tolist()
    for _ in range(MOST_ROUNDS):
        stops = shown_colors(np.column_stack([levels, chroma * room, hue % 360]))
        planned = tuple(PlanStop(color, position=at) for color, at in zip(stops, shares, strict=True))
        plan = RampPlan(planned, steps, curve="monotone", spacing="even", purpose="sequential", measure=measure)
        ramp = plan.ramp(plain_only)
        examined = Examined(ramp, steps)
        if evenness(ramp, steps).exact <= EVEN_ENOUGH and all(kept(examined).verdict == "holds" for kept in (monotone, to_eyes)):
            break
        # Colors that swing too far for so few steps, along the edge of the gamut, or for eyes to which red is dark: a calmer path
        # keeps the promise.
        chroma = chroma * 0.85
    return [plan]


MAKERS.register(
    Maker(
        "sequential", "sequential ramp", "For counts and heights: from dark to light in equal steps.", 1, 8, "through", 9,
        (
            MakerNumber("low", "Darkest lightness", 0, 0.8, 0.25, 0.01, "from L"),
            MakerNumber("high", "Lightest lightness", 0.2, 1, 0.95, 0.01, "to L"),
            MakerNumber("turn", "Hue turned beyond the colors", -180, 180, 60, 5, "turning", "°"),
        ),
        make,
    )
)  # fmt: skip
