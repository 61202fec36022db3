"""Display P3: the P3 primaries with a D65 white and the sRGB transfer function (CSS Color 4 §10.4)."""

import numpy as np

from huvren.core.color.arrays import Floats
from huvren.core.color.spaces.space import SPACES, Between, Channel, ColorSpace
from huvren.core.color.transfer import decode_srgb_array, encode_srgb_array

LINEAR_P3_TO_XYZ_D65 = np.array(
    [
        [608311 / 1250200, 189793 / 714400, 198249 / 1000160],
        [35783 / 156275, 247089 / 357200, 198249 / 2500400],
        [0, 32229 / 714400, 5220557 / 5000800],
    ]
)
XYZ_D65_TO_LINEAR_P3 = np.linalg.inv(LINEAR_P3_TO_XYZ_D65)


def p3_to_xyz(p3: Floats) -> Floats:
    """(..., 3) Display P3 → (..., 3) XYZ (D65).

    Parameters
    ----------
    p3 : Floats
        (..., 3) Display P3 0..1.

    Returns
    -------
    Floats
        (..., 3) XYZ (D65).
    """
    return np.asarray(decode_srgb_array(p3) @ LINEAR_P3_TO_XYZ_D65.T)


def xyz_to_p3(xyz: Floats) -> Floats:
    """(..., 3) XYZ (D65) → (..., 3) Display P3.

    Parameters
    ----------
    xyz : Floats
        (..., 3) XYZ.

    Returns
    -------
    Floats
        (..., 3) Display P3.
    """
    return np.asarray(encode_srgb_array(xyz @ XYZ_D65_TO_LINEAR_P3.T))


SPACES.register(
    ColorSpace(
        "display-p3", "Display P3",
        (Channel("red", 0, 1, means="red"), Channel("green", 0, 1, means="green"), Channel("blue", 0, 1, means="blue")),
        "D65", "xyz-d65", p3_to_xyz, xyz_to_p3, css="display-p3", gradient="display-p3",
        between=Between(9, "as wide-gamut screens count"),
    )
)  # fmt: skip
