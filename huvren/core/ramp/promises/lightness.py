"""Does the lightness go one way?"""

import numpy as np

from huvren.core.color.arrays import Floats
from huvren.core.color.spaces import convert
from huvren.core.ramp.plan import ColorOf, RampPlan
from huvren.core.ramp.promises.promise import PROMISES, Examined, Finding, Promise, in_gamut
from huvren.core.ramp.values import numbers

SLACK = 1e-4
LEAST_RANGE = 0.1
STOPS = 17
WIDE = (0.3, 0.9)
MOST_ROUNDS = 24


def turning(lightness: Floats) -> tuple[int, float]:
    """Where lightness first goes against the way from end to end, and how far at most; (−1, 0) where it never does.

    Parameters
    ----------
    lightness : Floats
        (n,) OKLab lightness 0..1.

    Returns
    -------
    tuple[int, float]
        A place, or −1, and a lightness.
    """
    way = 1.0 if lightness[-1] >= lightness[0] else -1.0
    rising = lightness * way
    back = np.maximum.accumulate(rising) - rising
    wrong = np.flatnonzero(np.diff(rising) < -SLACK)
    return (int(wrong[0]) + 1, float(back.max())) if len(wrong) and back.max() > SLACK else (-1, 0.0)


def monotone(examined: Examined) -> Finding:
    """Strictly one way, over a range that can be read."""
    lightness = examined.lightness
    first, last = float(lightness[0]), float(lightness[-1])
    at, back = turning(lightness)
    if at >= 0:
        share = float(examined.shares[at])
        return Finding("fails", f"lightness turns back at {share:.2f}, by {back:.3f}", (share,))
    if abs(last - first) < LEAST_RANGE:
        return Finding("look", f"lightness hardly changes: {first:.2f} to {last:.2f}")
    still = np.flatnonzero(np.abs(np.diff(lightness)) < 1e-9)
    if len(still):
        share = float(examined.shares[int(still[0])])
        return Finding("look", f"lightness stands still at {share:.2f}", (share,))
    way = "rises" if last > first else "falls"
    return Finding("holds", f"lightness {way} all the way, {first:.2f} to {last:.2f}")


def straighten(plan: RampPlan, color_of: ColorOf) -> RampPlan:
    """The same hues over a lightness that runs straight from end to end."""
    shares = np.linspace(0, 1, STOPS)
    ramp = plan.ramp(color_of)
    srgb, _, _ = ramp.shown(shares)
    oklab = numbers(convert(srgb, "srgb", "oklab"))
    first, last = float(oklab[0, 0]), float(oklab[-1, 0])
    if abs(last - first) < LEAST_RANGE:
        # Ends that are alike leave nothing to run between: from the darkest to the lightest that the ramp has, or wider.
        first, last = min(float(oklab[:, 0].min()), WIDE[0]), max(float(oklab[:, 0].max()), WIDE[1])
    oklab[:, 0] = first + shares * (last - first)
    for _ in range(MOST_ROUNDS):
        mended = plan.with_colors(
            in_gamut(oklab), shares.tolist(), space="oklab", curve="monotone", spacing="lightness", closed=False
        )
        if turning(convert(mended.ramp(color_of).shown(np.linspace(0, 1, 257))[0], "srgb", "oklab")[:, 0])[0] < 0:
            break
        # Between colors at the edge of the gamut the way leads out of it, and is brought back at another lightness.
        oklab[:, 1:] *= 0.85
    return mended


PROMISES.register(Promise("monotone", "One way", "Does its lightness go one way?", monotone, straighten, "Straighten the lightness"))
