"""Do the two halves match, and is the middle neutral?"""

import numpy as np

from huvren.core.color.spaces import convert
from huvren.core.ramp.plan import ColorOf, RampPlan
from huvren.core.ramp.promises.lightness import turning
from huvren.core.ramp.promises.promise import PROMISES, Examined, Finding, Promise, in_gamut

BALANCED, NEARLY = 0.01, 0.03
NEUTRAL = 0.02
STOPS = 17


def symmetric(examined: Examined) -> Finding:
    """Equal lightness at equal distance from the middle."""
    gaps = np.abs(examined.lightness - examined.lightness[::-1])
    worst = float(gaps.max())
    if worst <= BALANCED:
        return Finding("holds", f"equal lightness at equal distance within L {worst:.3f}")
    share = float(examined.shares[int(np.argmax(gaps))])
    return Finding("look" if worst <= NEARLY else "fails", f"the halves differ by L {worst:.3f}, at {share:.2f}", (share,))


def middle(examined: Examined) -> Finding:
    """The middle has hardly any chroma and is the lightest or the darkest place."""
    half = len(examined.shares) // 2
    lightness, a, b = examined.oklab[half]
    chroma = float(np.hypot(a, b))
    said = f"chroma {chroma:.3f} at L {lightness:.2f}"
    if chroma > NEUTRAL:
        return Finding("fails", f"{said}: the middle is no gray", (0.5,))
    ends = examined.lightness[[0, -1]]
    if not (lightness >= ends.max() or lightness <= ends.min()):
        return Finding("fails", f"{said}: the middle is neither lighter nor darker than both ends", (0.5,))
    return Finding("holds", said)


def each_way(examined: Examined) -> Finding:
    """Each half goes one way, so that its values can be read in order."""
    half = len(examined.shares) // 2
    for begin, lightness in ((0, examined.lightness[: half + 1]), (half, examined.lightness[half:])):
        at, back = turning(lightness)
        if at >= 0:
            share = float(examined.shares[begin + at])
            return Finding("fails", f"a half turns back at {share:.2f}, by {back:.3f}", (share,))
    return Finding("holds", "each half goes one way; the two meet in gray, as they must")


def balance(plan: RampPlan, color_of: ColorOf) -> RampPlan:
    """Both halves over the mean of their lightness, with a neutral middle."""
    shares = np.linspace(0, 1, STOPS)
    oklab = convert(plan.ramp(color_of).shown(shares)[0], "srgb", "oklab")
    lightness = (oklab[:, 0] + oklab[::-1, 0]) / 2
    half = STOPS // 2
    # Each half straight from its end to the middle, so that it goes one way.
    outer = np.linspace(lightness[0], lightness[half], half + 1)
    oklab[: half + 1, 0], oklab[half:, 0] = outer, outer[::-1]
    oklab[half, 1:] = 0
    return plan.with_colors(in_gamut(oklab), shares.tolist(), space="oklab", curve="straight", spacing="position", closed=False)


PROMISES.register(Promise("symmetric", "Halves balanced", "Do its two halves match?", symmetric, balance, "Balance the halves"))
PROMISES.register(Promise("middle", "Neutral middle", "Is its middle neutral?", middle, balance, "Balance the halves"))
PROMISES.register(Promise("arms", "Each half one way", "Can each half be read in order?", each_way, balance, "Balance the halves"))
