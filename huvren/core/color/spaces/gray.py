"""Gray: one sRGB-coded value, by relative luminance on the way in."""

import numpy as np

from huvren.core.color.arrays import Floats
from huvren.core.color.matrices import LINEAR_SRGB_TO_XYZ_D65
from huvren.core.color.spaces.space import SPACES, Channel, ColorSpace
from huvren.core.color.transfer import encode_srgb_array


def gray_to_linear(gray: Floats) -> Floats:
    """(..., 1) sRGB-coded gray → (..., 3) linear sRGB.

    Parameters
    ----------
    gray : Floats
        (..., 1) sRGB-coded gray.

    Returns
    -------
    Floats
        (..., 3) linear sRGB.
    """
    return np.asarray(SPACES["srgb"].to_base(np.repeat(gray, 3, axis=-1)))


def linear_to_gray(linear: Floats) -> Floats:
    """(..., 3) linear sRGB → (..., 1) sRGB-coded gray of the same luminance.

    Parameters
    ----------
    linear : Floats
        (..., 3) linear sRGB.

    Returns
    -------
    Floats
        (..., 1) sRGB-coded gray of the same luminance.
    """
    return np.asarray(encode_srgb_array(linear @ LINEAR_SRGB_TO_XYZ_D65[1:2].T))


SPACES.register(ColorSpace("gray", "Gray", (Channel("gray", 0, 1),), "D65", "srgb-linear", gray_to_linear, linear_to_gray))
