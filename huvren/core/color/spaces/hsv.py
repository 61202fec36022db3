"""HSV (hue, saturation, value), the common hexcone form on sRGB. Hue in degrees, the rest 0..1."""

import numpy as np

from huvren.core.color.arrays import Floats
from huvren.core.color.spaces.space import SPACES, Between, Channel, ColorSpace, Editing


def srgb_to_hsv(srgb: Floats) -> Floats:
    """(..., 3) sRGB → (..., 3) hue in degrees, saturation, value.

    Parameters
    ----------
    srgb : Floats
        (..., 3) sRGB 0..1.

    Returns
    -------
    Floats
        (..., 3) hue in degrees, saturation, value.
    """
    red, green, blue = np.moveaxis(srgb, -1, 0)
    top, bottom = srgb.max(axis=-1), srgb.min(axis=-1)
    spread = top - bottom
    safe = np.where(spread == 0, 1.0, spread)
    hue = np.select(
        [spread == 0, top == red, top == green],
        [0.0, (green - blue) / safe % 6, (blue - red) / safe + 2],
        (red - green) / safe + 4,
    )
    saturation = np.where(top == 0, 0.0, spread / np.where(top == 0, 1.0, top))
    return np.stack([hue * 60 % 360, saturation, top], axis=-1)


def hsv_to_srgb(hsv: Floats) -> Floats:
    """(..., 3) hue in degrees, saturation, value → (..., 3) sRGB.

    Parameters
    ----------
    hsv : Floats
        (..., 3): hue in degrees, saturation, value.

    Returns
    -------
    Floats
        (..., 3) sRGB.
    """
    hue, saturation, value = np.moveaxis(hsv, -1, 0)
    ramp = (np.array([5.0, 3.0, 1.0]) + hue[..., None] / 60) % 6
    return np.asarray(value[..., None] * (1 - saturation[..., None] * np.clip(np.minimum(ramp, 4 - ramp), 0, 1)), dtype=np.float64)


SPACES.register(
    ColorSpace(
        "hsv", "HSV",
        (Channel("h", 0, 360, 1, means="hue"), Channel("s", 0, 1, means="colorfulness"), Channel("v", 0, 1)), "D65", "srgb",
        hsv_to_srgb, srgb_to_hsv, between=Between(8, "round the screen's hues, rings show"),
        # CSS has no HSV: the same color as HWB.
        editing=Editing(
            2, (("Hue", 1, 0), ("Saturation", 100, 0), ("Value", 100, 0)),
            "hwb({0} calc((1 - {1}) * {2} * 100%) calc((1 - {2}) * 100%))",
        ),
    )
)  # fmt: skip
