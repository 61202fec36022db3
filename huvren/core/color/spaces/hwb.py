"""HWB as in CSS Color 4 §8. Hue in degrees, whiteness and blackness 0..1."""

import numpy as np

from huvren.core.color.arrays import Flags, Floats
from huvren.core.color.spaces.space import POWERLESS_SHARE, SPACES, Channel, ColorSpace


def hsv_to_hwb(hsv: Floats) -> Floats:
    """(..., 3) HSV → (..., 3) hue, whiteness, blackness.

    Parameters
    ----------
    hsv : Floats
        (..., 3): hue in degrees, saturation, value.

    Returns
    -------
    Floats
        (..., 3) hue, whiteness, blackness.
    """
    hue, saturation, value = np.moveaxis(hsv, -1, 0)
    return np.stack([hue, (1 - saturation) * value, 1 - value], axis=-1)


def hwb_to_hsv(hwb: Floats) -> Floats:
    """(..., 3) HWB → (..., 3) HSV; whiteness and blackness above 1 together are scaled to a gray.

    Parameters
    ----------
    hwb : Floats
        (..., 3): hue in degrees, whiteness, blackness.

    Returns
    -------
    Floats
        (..., 3) HSV; whiteness and blackness above 1 together are scaled to a gray.
    """
    hue, white, black = np.moveaxis(hwb, -1, 0)
    total = np.maximum(white + black, 1.0)
    white, black = white / total, black / total
    value = 1 - black
    return np.stack([hue, np.where(value == 0, 0.0, 1 - white / np.where(value == 0, 1.0, value)), value], axis=-1)


def hue_is_powerless(hwb: Floats) -> Flags:
    """(n, 3) → (n,) bool: a gray, where whiteness and blackness together leave no room for a hue (CSS Color 4 §8.1).

    Parameters
    ----------
    hwb : Floats
        (..., 3): hue in degrees, whiteness, blackness.

    Returns
    -------
    Flags
        (n,) bool: a gray, where whiteness and blackness together leave no room for a hue (CSS Color 4 §8.1).
    """
    return np.asarray(hwb[:, 1] + hwb[:, 2] >= 1 - POWERLESS_SHARE)


SPACES.register(
    ColorSpace(
        "hwb", "HWB", (Channel("h", 0, 360, 1, means="hue"), Channel("w", 0, 1), Channel("b", 0, 1)), "D65", "hsv",
        hwb_to_hsv, hsv_to_hwb, gradient="hwb", powerless=hue_is_powerless,
    )
)  # fmt: skip
