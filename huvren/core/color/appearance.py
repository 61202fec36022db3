"""CAM16-UCS: coordinates of how a color appears, in which distances are about alike everywhere.

Reference: Li et al. 2017, “Comprehensive color solutions: CAM16, CAT16, and CAM16-UCS”, under the viewing of sRGB (IEC 61966-2-1):
64 lux, a gray world of 20 %, an average surround. Color maps that are published as even are so by this or by its forerunner.
"""

import numpy as np
from numpy.typing import ArrayLike

from huvren.core.color.arrays import Floats
from huvren.core.color.matrices import LINEAR_SRGB_TO_XYZ_D65
from huvren.core.color.spaces import convert

CONES = np.array([[0.401288, 0.650173, -0.051461], [-0.250268, 1.204414, 0.045854], [-0.002079, 0.048952, 0.953127]])
SURROUND, BACKGROUND = 0.69, 0.2
ADAPTING = 64 / np.pi / 5
"""cd/m²: a fifth of what a white page gives under 64 lux."""
WHITE: Floats = LINEAR_SRGB_TO_XYZ_D65.sum(axis=1) * 100
DEGREE = 1 - np.exp((-ADAPTING - 42) / 92) / 3.6
ADAPTED: Floats = DEGREE * 100 / (CONES @ WHITE) + 1 - DEGREE
_K = 1 / (5 * ADAPTING + 1)
LEVEL = 0.2 * _K**4 * 5 * ADAPTING + 0.1 * (1 - _K**4) ** 2 * (5 * ADAPTING) ** (1 / 3)
INDUCTION = 0.725 * BACKGROUND**-0.2
EXPONENT = SURROUND * (1.48 + np.sqrt(BACKGROUND))


def _response(cones: Floats) -> Floats:
    """(..., 3) adapted cones → compressed."""
    raised = (LEVEL * np.abs(cones) / 100) ** 0.42
    return np.asarray(np.sign(cones) * 400 * raised / (raised + 27.13))


def _achromatic(response: Floats) -> Floats:
    return np.asarray((response @ np.array([2, 1, 1 / 20])) * INDUCTION)


OF_WHITE = float(_achromatic(_response(CONES @ WHITE * ADAPTED)))


def cam16_ucs(srgb: ArrayLike) -> Floats:
    """(..., 3) sRGB 0..1 → (..., 3) J′, a′, b′ of CAM16-UCS; J′ is 0 for black and 100 for white.

    Parameters
    ----------
    srgb : ArrayLike
        (..., 3) sRGB 0..1.

    Returns
    -------
    Floats
        (..., 3) J′, a′, b′.
    """
    light = convert(np.asarray(srgb, dtype=float), "srgb", "srgb-linear")
    response = _response((light @ LINEAR_SRGB_TO_XYZ_D65.T * 100) @ CONES.T * ADAPTED)
    red, green, blue = np.moveaxis(response, -1, 0)
    a, b = red - (12 * green - blue) / 11, (red + green - 2 * blue) / 9
    hue = np.arctan2(b, a)
    lightness = 100 * (np.maximum(_achromatic(response), 0) / OF_WHITE) ** EXPONENT
    eccentricity = (np.cos(hue + 2) + 3.8) / 4
    # The noise of 0.1 in each response, which cancels elsewhere, counts here: 0.1 × (1 + 1 + 21/20).
    strength = 50_000 / 13 * INDUCTION * eccentricity * np.hypot(a, b) / (red + green + 1.05 * blue + 0.305)
    chroma = strength**0.9 * np.sqrt(lightness / 100) * (1.64 - 0.29**BACKGROUND) ** 0.73
    colorful = np.log1p(0.0228 * chroma * LEVEL**0.25) / 0.0228
    return np.stack([1.7 * lightness / (1 + 0.007 * lightness), colorful * np.cos(hue), colorful * np.sin(hue)], axis=-1)
