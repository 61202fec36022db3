"""Grain: how much is given of what is seen from afar for a finer look close up.

A dithered pixel differs from its picture more, the farther apart the mixed colors lie; from afar, less. Colors that are tuned to a
dither are therefore measured at several distances together: each pixel by itself, and blurred by about half, once and twice what an
eye at the recipe's distance blurs.
"""

from typing import NamedTuple

FREE, FINE, FINEST = 0, 50, 100
"""By the numbers of a recipe, 0 to 100."""
GRAINS: dict[int, str] = {FREE: "free", FINE: "fine", FINEST: "finest"}
"""Names of some."""
GRAIN_USES: dict[int, str] = {
    FREE: "Nearest from afar, and from there alone: single dots may differ much.",
    FINE: "Near from afar and calm close up: most of what free gains, with far less grain.",
    FINEST: "Calmest close up: less is gained from afar.",
}


class Term(NamedTuple):
    """One of the distances: the standard deviation of its blur in pixels, 0 for the pixels themselves, and its share of the whole."""

    sigma: float
    share: float


CLOSE, FAR = 0.7 / 1.5, 2.0
"""The nearer and the farther blur, in terms of that of the distance itself."""


def grain_name(grain: int) -> str:
    """A grain in words: “free grain”, “grain of 30”."""
    return f"{GRAINS[grain]} grain" if grain in GRAINS else f"grain of {grain}"


def terms_of(grain: int, sigma: float) -> tuple[Term, ...]:
    """The distances that count, with shares that add up to 1; of *free* the one alone.

    Parameters
    ----------
    grain : int
        0 to 100.
    sigma : float
        Standard deviation of the blur at the recipe's distance, in pixels.

    Returns
    -------
    tuple[Term, ...]
        The distance itself first.
    """
    part = grain / FINEST
    weights = ((sigma, 1 - part / 2), (0.0, 1.6 * part**3), (CLOSE * sigma, 0.6 * part), (FAR * sigma, part * (1.5 - part)))
    total = sum(weight for _, weight in weights)
    return tuple(Term(blur, weight / total) for blur, weight in weights if weight > 0)
