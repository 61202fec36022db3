"""Lightness only: the gray of the same OKLab lightness."""

import numpy as np

from huvren.core.color.arrays import Floats
from huvren.core.color.spaces import convert
from huvren.core.lenses.lens import LENSES, Lens


def in_gray(srgb: Floats) -> Floats:
    """(n, 3) sRGB → (n, 3) grays of the same OKLab lightness.

    Parameters
    ----------
    srgb : Floats
        (n, 3) sRGB 0..1.

    Returns
    -------
    Floats
        (n, 3) grays of the same OKLab lightness.
    """
    lightness = convert(srgb, "srgb", "oklab")[:, 0]
    return convert(np.column_stack([lightness, np.zeros((len(lightness), 2))]), "oklab", "srgb")


LENSES.register(Lens("lightness", "lightness only", "Each color as the gray that is as light.", "eye", lambda srgb, _: in_gray(srgb)))
