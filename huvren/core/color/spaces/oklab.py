"""OKLab and OKLCh (Ottosson 2020, revision 2021-01-25, matrices of CSS Color 4 §18)."""

import numpy as np

from huvren.core.color.arrays import Floats
from huvren.core.color.matrices import LINEAR_SRGB_TO_LMS, LMS_TO_LINEAR_SRGB, LMS_TO_OKLAB, OKLAB_TO_LMS
from huvren.core.color.spaces import SPACES, Channel, ColorSpace, to_polar, to_rectangular


def linear_srgb_to_oklab(linear: Floats) -> Floats:
    """(..., 3) linear sRGB → (..., 3) OKLab."""
    return np.asarray(np.cbrt(linear @ LINEAR_SRGB_TO_LMS.T) @ LMS_TO_OKLAB.T)


def oklab_to_linear_srgb(oklab: Floats) -> Floats:
    """(..., 3) OKLab → (..., 3) linear sRGB, unbounded."""
    return np.asarray((oklab @ OKLAB_TO_LMS.T) ** 3 @ LMS_TO_LINEAR_SRGB.T)


SPACES.register(
    ColorSpace(
        "oklab", "OKLab", (Channel("L", 0, 1), Channel("a", -0.4, 0.4), Channel("b", -0.4, 0.4)), "D65",
        "srgb-linear", oklab_to_linear_srgb, linear_srgb_to_oklab,
    )
)  # fmt: skip
SPACES.register(
    ColorSpace(
        "oklch", "OKLCh", (Channel("L", 0, 1), Channel("C", 0, 0.4), Channel("h", 0, 360, 1, is_hue=True)), "D65",
        "oklab", to_rectangular, to_polar,
    )
)  # fmt: skip
