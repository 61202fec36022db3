"""CIELAB and its polar form, D65 for display work and D50 for CSS and files (CIE 15:2004, §8.2.1)."""

import numpy as np

from huvren.core.color.arrays import Floats
from huvren.core.color.spaces.space import SPACES, Between, Channel, ColorSpace, Editing, to_polar, to_rectangular

EPSILON = 216 / 24389
KAPPA = 24389 / 27
WHITE_D65 = np.array([0.3127 / 0.3290, 1.0, (1 - 0.3127 - 0.3290) / 0.3290])
WHITE_D50 = np.array([0.3457 / 0.3585, 1.0, (1 - 0.3457 - 0.3585) / 0.3585])


def xyz_to_lab(xyz: Floats, white: Floats) -> Floats:
    """(..., 3) XYZ relative to `white` → (..., 3) L* 0..100, a*, b*.

    Parameters
    ----------
    xyz : Floats
        (..., 3) XYZ.
    white : Floats
        (3,) XYZ of the white.

    Returns
    -------
    Floats
        (..., 3) L* 0..100, a*, b*.
    """
    ratio = xyz / white
    f = np.where(ratio > EPSILON, np.cbrt(ratio), (KAPPA * ratio + 16) / 116)
    x, y, z = np.moveaxis(f, -1, 0)
    return np.stack([116 * y - 16, 500 * (x - y), 200 * (y - z)], axis=-1)


def lab_to_xyz(lab: Floats, white: Floats) -> Floats:
    """(..., 3) CIELAB → (..., 3) XYZ relative to `white`.

    Parameters
    ----------
    lab : Floats
        (..., 3) L* 0..100, a*, b*.
    white : Floats
        (3,) XYZ of the white.

    Returns
    -------
    Floats
        (..., 3) XYZ relative to `white`.
    """
    lightness, a, b = np.moveaxis(lab, -1, 0)
    y = (lightness + 16) / 116
    f = np.stack([y + a / 500, y, y - b / 200], axis=-1)
    return np.where(f**3 > EPSILON, f**3, (116 * f - 16) / KAPPA) * white


_L = Channel("L", 0, 100, 1, "lightness")
_LAB = (_L, Channel("a", -125, 125, 1, "a"), Channel("b", -125, 125, 1, "b"))
_LCH = (_L, Channel("C", 0, 150, 1, "colorfulness"), Channel("h", 0, 360, 1, "hue"))

SPACES.register(
    ColorSpace(
        "lab-d65", "CIELAB (D65)", _LAB, "D65", "xyz-d65",
        lambda lab: lab_to_xyz(lab, WHITE_D65), lambda xyz: xyz_to_lab(xyz, WHITE_D65),
        # The white of CSS's lab() differs, but not the course of a slider.
        editing=Editing(5, (("Lightness", 1, 1), ("a, red", 1, 1), ("b, yellow", 1, 1)), "lab({0} {1} {2})"),
    )
)  # fmt: skip
SPACES.register(
    ColorSpace(
        "lab", "CIELAB (D50)", _LAB, "D50", "xyz-d50",
        lambda lab: lab_to_xyz(lab, WHITE_D50), lambda xyz: xyz_to_lab(xyz, WHITE_D50), function="lab", gradient="lab",
        between=Between(3, "even in print terms, blues turn violet", "CIELAB"),
    )
)  # fmt: skip
SPACES.register(ColorSpace("lch-d65", "CIELCh (D65)", _LCH, "D65", "lab-d65", to_rectangular, to_polar))
SPACES.register(
    ColorSpace(
        "lch", "CIELCh (D50)", _LCH, "D50", "lab", to_rectangular, to_polar, function="lch", gradient="lch",
        between=Between(4, "saturated, in print terms", "CIELCh"),
    )
)  # fmt: skip
