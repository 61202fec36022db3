"""How a ramp reads: its lightness from end to end, as shown on an sRGB screen."""

from dataclasses import dataclass

import numpy as np

from huvren.core.color.arrays import Bytes, Floats
from huvren.core.color.spaces import convert
from huvren.core.ramp.values import Ramp

SAMPLES = 256


@dataclass(frozen=True)
class Profile:
    """One lane, drawn and measured.

    rgba : (SAMPLES, 4) uint8, sRGB from left to right. lightness : (SAMPLES,) OKLab L, 0..1.
    dip, rise : how far the lightness falls below, or climbs above, the straight line between its ends.
    outside : share of the samples outside sRGB, shown with less chroma
    """

    rgba: Bytes
    lightness: Floats
    dip: float
    rise: float
    outside: float


def profile(ramp: Ramp) -> Profile:
    """Sample a ramp evenly from 0 to 1 and measure its lightness."""
    places = np.linspace(0, 1, SAMPLES)
    srgb, alpha, inside = ramp.shown(places)
    lightness = convert(srgb, "srgb", "oklab")[:, 0]
    above = lightness - (lightness[0] + places * (lightness[-1] - lightness[0]))
    rgba = np.floor(np.column_stack([srgb, alpha]) * 255 + 0.5).astype(np.uint8)
    return Profile(rgba, lightness, max(0.0, float(-above.min())), max(0.0, float(above.max())), float(1 - inside.mean()))
