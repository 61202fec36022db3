"""Do the ends meet?"""

from dataclasses import replace

import numpy as np

from huvren.core.color.difference import DELTA_SCALE
from huvren.core.color.spaces import convert
from huvren.core.color.value import TRANSPARENT
from huvren.core.ramp.easings import LINEAR
from huvren.core.ramp.plan import ColorOf, PlanStop, RampPlan
from huvren.core.ramp.promises.promise import PROMISES, Examined, Finding, Promise
from huvren.core.ramp.stops import MOST_STOPS

SAME = 1.0
"""ΔEOK×100 within which the ends are one color."""
SLOPE = 0.35
"""Change of direction and pace at the seam, over the mean pace, that does not show."""
NEAR = 1e-3
NEARLY = 4.0
"""ΔEOK×100 within which the last color is taken for the first one, not hit quite."""


def meets(examined: Examined) -> Finding:
    """The last color is the first one, and the ramp passes it without a corner."""
    shares = np.array([0, NEAR, 1 - NEAR, 1])
    oklab = convert(examined.ramp.shown(shares)[0], "srgb", "oklab")
    gap = float(np.linalg.norm(oklab[3] - oklab[0])) * DELTA_SCALE
    if gap > SAME:
        return Finding("fails", f"the ends differ by ΔE {gap:.1f}", (0.0, 1.0))
    lengths = np.linalg.norm(np.diff(examined.oklab, axis=0), axis=1)
    pace = float(lengths.sum())
    corner = float(np.linalg.norm((oklab[1] - oklab[0]) - (oklab[3] - oklab[2]))) / NEAR / max(pace, 1e-9)
    if corner > SLOPE:
        return Finding("look", f"the ends meet with a corner, {corner:.2f} of the mean pace", (0.0, 1.0))
    return Finding("holds", f"the ends meet within ΔE {gap:.2f} and without a corner")


def close(plan: RampPlan, color_of: ColorOf) -> RampPlan:
    """The first color again at the end, passed in a flowing curve. A last color that was nearly the first gives way to it."""
    first, last = (color_of(s.swatch) if s.swatch else s.color or TRANSPARENT for s in (plan.stops[0], plan.stops[-1]))
    gap = float(np.linalg.norm(np.subtract(first.oklab, last.oklab))) * DELTA_SCALE
    kept = plan.stops[:-1] if len(plan.stops) > 2 and gap <= NEARLY else plan.stops
    stops = [replace(stop, position=None, midpoint=0.5, easing=LINEAR) for stop in kept][: MOST_STOPS - 1]
    again = PlanStop(plan.stops[0].color, plan.stops[0].swatch)
    return replace(plan, stops=(*stops, again), closed=True, curve="natural", spacing="even", space="oklab")


PROMISES.register(Promise("closed", "Ends meet", "Do its ends meet?", meets, close, "Close the cycle"))
