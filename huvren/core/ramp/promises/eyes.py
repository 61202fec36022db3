"""Does it read in gray, and to every kind of color vision?"""

import numpy as np

from huvren.core.color.arrays import Floats, Integers
from huvren.core.color.spaces import convert
from huvren.core.color.value import TRANSPARENT
from huvren.core.color.vision import VISIONS, seen
from huvren.core.ramp.plan import ColorOf, RampPlan
from huvren.core.ramp.profile import rgba_bytes
from huvren.core.ramp.promises.lightness import MOST_ROUNDS, straighten, turning
from huvren.core.ramp.promises.promise import PROMISES, Examined, Finding, Promise, in_gamut

MANY = 64
"""Steps that nobody tells apart one by one, in gray or otherwise."""
LEAST_RANGE = 0.1


def grays(lightness: Floats) -> Integers:
    """(n,) OKLab L → (n,) 8-bit grays of that lightness.

    Parameters
    ----------
    lightness : Floats
        (n,) OKLab lightness 0..1.

    Returns
    -------
    Integers
        (n,) 8-bit grays of that lightness.
    """
    gray = convert(np.column_stack([lightness, np.zeros((len(lightness), 2))]), "oklab", "srgb")
    return rgba_bytes(np.clip(gray, 0, 1), np.ones(len(gray)))[:, 0].astype(int)


def in_gray(examined: Examined) -> Finding:
    """In gray the steps stay in order, and few steps all differ."""
    steps = examined.steps if examined.steps is not None and examined.steps <= MANY else None
    shares = examined.ramp.shares(steps) if steps else examined.shares
    lightness = convert(examined.ramp.shown(shares)[0], "srgb", "oklab")[:, 0]
    found = grays(lightness)
    at, _ = turning(lightness)
    span = f"gray {found[0]} to {found[-1]}"
    if at >= 0:
        return Finding("fails", f"in gray the order is lost at {shares[at]:.2f}", (float(shares[at]),))
    if steps is None:
        return Finding("holds", f"in order in gray, {span}") if abs(lightness[-1] - lightness[0]) >= LEAST_RANGE else (
            Finding("fails", f"all one gray: {span}"))  # fmt: skip
    same = np.flatnonzero(np.diff(found) == 0)
    if len(same):
        share = float(shares[int(same[0]) + 1])
        return Finding("fails", f"two steps are the same gray at {share:.2f}", (share,))
    return Finding("holds", f"{steps} steps, {steps} different grays, {span}")


def to_eyes(examined: Examined) -> Finding:
    """To each kind of color vision its lightness still goes one way."""
    lost = []
    places = []
    for vision in VISIONS:
        at, _ = turning(convert(seen(examined.srgb, vision), "srgb", "oklab")[:, 0])
        if at >= 0:
            lost.append(vision.label)
            places.append(float(examined.shares[at]))
    if turning(examined.lightness)[0] >= 0:
        return Finding("look", "it has no order that other eyes could lose", ())
    if lost:
        where = f"{places[0]:.2f}"
        return Finding("fails", f"the order is lost to {' and '.join(lost)}, first at {where}", tuple(places))
    return Finding("holds", "in order to protan, deutan and tritan eyes")


def calm(plan: RampPlan, color_of: ColorOf) -> RampPlan:
    """Lightness straight from end to end, and as much of the chroma as leaves it in order to all eyes."""
    mended = straighten(plan, color_of)
    oklab = np.array([(stop.color or TRANSPARENT).oklab for stop in mended.stops])
    places = [stop.position for stop in mended.stops]
    for _ in range(MOST_ROUNDS):
        if to_eyes(Examined(mended.ramp(color_of), mended.steps)).verdict == "holds":
            break
        oklab[:, 1:] *= 0.85
        mended = mended.with_colors(in_gamut(oklab), places)
    return mended


PROMISES.register(Promise("gray", "Reads in gray", "Does it read in gray?", in_gray, straighten, "Straighten the lightness"))
PROMISES.register(
    Promise("vision", "Ordered to all eyes", "Is it in order to every kind of color vision?", to_eyes, calm, "Calm the colors")
)
