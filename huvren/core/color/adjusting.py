"""Adjustments of many colors at once, in OKLCh at held hue or lightness, and compositing over a ground."""

from dataclasses import dataclass

import numpy as np

from huvren.core.color.arrays import Floats
from huvren.core.color.gamut import map_to_srgb
from huvren.core.color.spaces import convert

WARMEST = (0.012, 0.05)
"""OKLab a, b that full warmth adds: toward a lamp's amber; full coolness takes as much away."""


@dataclass(frozen=True)
class Adjustment:
    """hue_turn in degrees; chroma_scale 0..; lightness −1..1 moves everything; contrast −1..1 spreads lightness from its
    middle or draws it together; curve −1..1 bends the middle tones up or down; warmth −1..1.
    """

    hue_turn: float = 0.0
    """Degrees."""
    chroma_scale: float = 1.0
    """1 leaves chroma as it is."""
    lightness: float = 0.0
    """Added to OKLab lightness."""
    contrast: float = 0.0
    """1 leaves it as it is."""
    curve: float = 0.0
    """−1 darkens the middle, 1 lightens it."""
    warmth: float = 0.0
    """Toward yellow where positive, toward blue where negative."""


def adjust(srgb: Floats, wanted: Adjustment) -> Floats:
    """(n, 3) sRGB 0..1 → (n, 3) sRGB 0..1, mapped into the gamut by reducing chroma.

    Parameters
    ----------
    srgb : Floats
        (n, 3) sRGB 0..1.
    wanted : Adjustment
        How lightness, chroma and hue change.

    Returns
    -------
    Floats
        (n, 3) sRGB 0..1, mapped into the gamut by reducing chroma.
    """
    lightness, chroma, hue = np.moveaxis(convert(srgb, "srgb", "oklch"), -1, 0)
    # A power curve keeps black and white; half way up, a full bend moves the middle by about a quarter.
    lightness = np.clip(lightness, 0, 1) ** (2.0 ** (-wanted.curve))
    lightness = 0.5 + (lightness - 0.5) * (1 + wanted.contrast)
    lightness = np.clip(lightness + wanted.lightness, 0, 1)
    polar = np.stack([lightness, chroma * wanted.chroma_scale, (hue + wanted.hue_turn) % 360], axis=-1)
    lab = convert(polar, "oklch", "oklab")
    # Black and white have no room for a cast: it fades out toward both ends.
    room = (4 * lightness * (1 - lightness))[:, None]
    lab[:, 1:] += wanted.warmth * np.array(WARMEST) * room
    return np.asarray(map_to_srgb(convert(lab, "oklab", "oklch")))


def over(srgb: Floats, ground: Floats, opacity: float) -> Floats:
    """Colors as they look at an opacity 0..1 over a ground: mixed in coded sRGB, as screens composite.

    Parameters
    ----------
    srgb : Floats
        (..., 3) sRGB 0..1.
    ground : Floats
        (..., 3) sRGB 0..1 of what is below.
    opacity : float
        0..1.

    Returns
    -------
    Floats
        (..., 3) sRGB 0..1.
    """
    return np.asarray(srgb * opacity + ground * (1 - opacity))
