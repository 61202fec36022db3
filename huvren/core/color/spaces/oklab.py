"""OKLab and OKLCh (Ottosson 2020, revision 2021-01-25, matrices of CSS Color 4 §18)."""

import numpy as np

from huvren.core.color.arrays import Floats
from huvren.core.color.matrices import LINEAR_SRGB_TO_LMS, LMS_TO_LINEAR_SRGB, LMS_TO_OKLAB, OKLAB_TO_LMS
from huvren.core.color.spaces.space import SPACES, Between, Channel, ColorSpace, Editing, to_polar, to_rectangular


def linear_srgb_to_oklab(linear: Floats) -> Floats:
    """(..., 3) linear sRGB → (..., 3) OKLab.

    Parameters
    ----------
    linear : Floats
        (..., 3) linear sRGB.

    Returns
    -------
    Floats
        (..., 3) OKLab.
    """
    return np.asarray(np.cbrt(linear @ LINEAR_SRGB_TO_LMS.T) @ LMS_TO_OKLAB.T)


def oklab_to_linear_srgb(oklab: Floats) -> Floats:
    """(..., 3) OKLab → (..., 3) linear sRGB, unbounded.

    Parameters
    ----------
    oklab : Floats
        (..., 3) OKLab.

    Returns
    -------
    Floats
        (..., 3) linear sRGB, unbounded.
    """
    return np.asarray((oklab @ OKLAB_TO_LMS.T) ** 3 @ LMS_TO_LINEAR_SRGB.T)


_L = Channel("L", 0, 1, means="lightness")

SPACES.register(
    ColorSpace(
        "oklab", "OKLab", (_L, Channel("a", -0.4, 0.4, means="a"), Channel("b", -0.4, 0.4, means="b")), "D65",
        "srgb-linear", oklab_to_linear_srgb, linear_srgb_to_oklab,
        function="oklab", gradient="oklab", between=Between(1, "even, keeps its light"),
    )
)  # fmt: skip
SPACES.register(
    ColorSpace(
        "oklch", "OKLCh", (_L, Channel("C", 0, 0.4, means="colorfulness"), Channel("h", 0, 360, 1, "hue")), "D65",
        "oklab", to_rectangular, to_polar, function="oklch", gradient="oklch", between=Between(2, "stays saturated"),
        editing=Editing(4, (("Lightness", 1, 3), ("Chroma", 1, 3), ("Hue", 1, 1)), "oklch({0} {1} {2})"),
    )
)  # fmt: skip
