"""HSL as in CSS Color 4 §7. Hue in degrees, saturation and lightness 0..1."""

import numpy as np

from huvren.core.color.arrays import Floats
from huvren.core.color.spaces.space import SPACES, Between, Channel, ColorSpace, Editing


def hsv_to_hsl(hsv: Floats) -> Floats:
    """(..., 3) HSV → (..., 3) HSL, same hue.

    Parameters
    ----------
    hsv : Floats
        (..., 3): hue in degrees, saturation, value.

    Returns
    -------
    Floats
        (..., 3) HSL, same hue.
    """
    hue, saturation, value = np.moveaxis(hsv, -1, 0)
    lightness = value * (1 - saturation / 2)
    room = np.minimum(lightness, 1 - lightness)
    return np.stack([hue, np.where(room == 0, 0.0, (value - lightness) / np.where(room == 0, 1.0, room)), lightness], -1)


def hsl_to_hsv(hsl: Floats) -> Floats:
    """(..., 3) HSL → (..., 3) HSV, same hue.

    Parameters
    ----------
    hsl : Floats
        (..., 3): hue in degrees, saturation, lightness.

    Returns
    -------
    Floats
        (..., 3) HSV, same hue.
    """
    hue, saturation, lightness = np.moveaxis(hsl, -1, 0)
    value = lightness + saturation * np.minimum(lightness, 1 - lightness)
    return np.stack([hue, np.where(value == 0, 0.0, 2 * (1 - lightness / np.where(value == 0, 1.0, value))), value], -1)


SPACES.register(
    ColorSpace(
        "hsl", "HSL",
        (Channel("h", 0, 360, 1, means="hue"), Channel("s", 0, 1, means="colorfulness"), Channel("l", 0, 1, means="lightness")),
        "D65", "hsv",
        hsl_to_hsv, hsv_to_hsl, gradient="hsl", between=Between(7, "round the screen's hues, light comes and goes"),
        editing=Editing(
            3, (("Hue", 1, 0), ("Saturation", 100, 0), ("Lightness", 100, 0)),
            "hsl({0} calc({1} * 100%) calc({2} * 100%))",
        ),
    )
)  # fmt: skip
