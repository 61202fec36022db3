"""Measures of difference: by which of them the steps of a ramp are even is the artist's choice. One line registers one."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from huvren.core.color.appearance import cam16_ucs
from huvren.core.color.arrays import Floats
from huvren.core.color.difference import DELTA_SCALE, ciede2000
from huvren.core.color.spaces import convert
from huvren.core.registry import Registry


@dataclass(frozen=True)
class Measure:
    """How far each color is from the next. steps : (n, 3) sRGB and (n,) alpha, both 0..1 → (n − 1,) differences, about 1 for the
    least that is seen; what is half clear shows half of its differences, and becoming clear is a difference as well."""

    id: str
    """By which it is named in documents, addresses and commands."""
    label: str
    """As menus call it."""
    use: str
    """What it is for, in one sentence."""
    steps: Callable[[Floats, Floats], Floats]


MEASURES: Registry[Measure] = Registry("measure of difference")


def in_space(places: Callable[[Floats], Floats]) -> Callable[[Floats, Floats], Floats]:
    """Steps by distances in a space.

    Parameters
    ----------
    places : Callable[[Floats], Floats]
        (n, 3) sRGB 0..1 → (n, 3) coordinates, in which 100 lies between black and white.

    Returns
    -------
    Callable[[Floats, Floats], Floats]
        (n, 3) sRGB and (n,) alpha → (n − 1,) distances.
    """

    def steps(srgb: Floats, alpha: Floats) -> Floats:
        seen = np.column_stack([places(srgb) * alpha[:, None], alpha * DELTA_SCALE])
        return np.asarray(np.linalg.norm(np.diff(seen, axis=0), axis=1))

    return steps


def by_pairs(srgb: Floats, alpha: Floats) -> Floats:
    """Steps by CIEDE2000, which gives colors no places.

    Parameters
    ----------
    srgb : Floats
        (n, 3) sRGB 0..1.
    alpha : Floats
        (n,) 0..1.

    Returns
    -------
    Floats
        (n − 1,) differences.
    """
    lab = convert(srgb, "srgb", "lab")
    seen = ciede2000(lab[:-1], lab[1:]) * (alpha[:-1] + alpha[1:]) / 2
    return np.asarray(np.hypot(seen, np.diff(alpha) * DELTA_SCALE))


OKLAB = MEASURES.register(
    Measure("oklab", "OKLab", "As everywhere else here.", in_space(lambda srgb: convert(srgb, "srgb", "oklab") * DELTA_SCALE))
)
MEASURES.register(
    Measure("cam16-ucs", "CAM16-UCS", "As published color maps are even: wider steps in the dark.", in_space(cam16_ucs))
)
MEASURES.register(Measure("ciede2000", "CIEDE2000", "As paint and print are judged: wider steps of strong colors.", by_pairs))
