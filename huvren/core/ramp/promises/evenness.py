"""Are the steps equal?"""

from dataclasses import replace

from huvren.core.color.measures import OKLAB
from huvren.core.ramp.plan import ColorOf, RampPlan
from huvren.core.ramp.profile import evenness
from huvren.core.ramp.promises.promise import PROMISES, Examined, Finding, Promise

EVEN_ENOUGH, NEARLY = 1.05, 1.25


def even(examined: Examined) -> Finding:
    """Largest step over mean step, before rounding to 8 bits; what rounding adds is said."""
    found = evenness(examined.ramp, examined.steps)
    measure = examined.ramp.measure
    said = f"largest step {found.exact:.2f} × the mean{'' if measure is OKLAB else f' by {measure.label}'}"
    if found.exact > EVEN_ENOUGH:
        return Finding("look" if found.exact <= NEARLY else "fails", f"{said}, at {found.at:.2f}", (found.at,))
    return Finding("holds", f"{said}; {found.rounded:.2f} once rounded to 8 bits")


def even_out(plan: RampPlan, color_of: ColorOf) -> RampPlan:
    return replace(plan, spacing="even")


PROMISES.register(Promise("even", "Even", "Are its steps equal?", even, even_out, "Even it out"))
