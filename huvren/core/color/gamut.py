"""Gamut mapping into sRGB: chroma reduction in OKLCh with local clip (CSS Color 4 §13.2), and plain clip."""

import numpy as np

from huvren.core.color.arrays import Flags, Floats
from huvren.core.color.difference import DELTA_SCALE, delta_eok
from huvren.core.color.spaces import convert

JUST_NOTICEABLE = 0.02
TINY = 1e-4
SLACK = 1e-6
"""Rounding left by a conversion there and back; a color this close to the edge is inside."""


def in_srgb_gamut(srgb: Floats) -> Flags:
    """(..., 3) sRGB → (...) bool, true where every channel lies in 0..1 within rounding."""
    return np.asarray(((srgb >= -SLACK) & (srgb <= 1 + SLACK)).all(axis=-1))


def clip_to_srgb(srgb: Floats) -> Floats:
    """(..., 3) sRGB → each channel limited to 0..1. Changes hue; offered as “plain clip”."""
    return np.clip(srgb, 0.0, 1.0)


def map_to_srgb(oklch: Floats) -> Floats:
    """(3,) OKLCh → (3,) sRGB inside 0..1, hue and lightness held, chroma reduced as far as needed."""
    lightness, chroma, hue = (float(v) for v in oklch)
    if lightness >= 1:
        return np.ones(3)
    if lightness <= 0:
        return np.zeros(3)
    srgb = convert(oklch, "oklch", "srgb")
    if in_srgb_gamut(srgb):
        return clip_to_srgb(srgb)

    def clipped_distance(candidate: Floats) -> tuple[Floats, float]:
        clipped = clip_to_srgb(convert(candidate, "oklch", "srgb"))
        return clipped, float(delta_eok(convert(clipped, "srgb", "oklab"), convert(candidate, "oklch", "oklab")) / DELTA_SCALE)

    clipped, distance = clipped_distance(oklch)
    if distance < JUST_NOTICEABLE:
        return clipped
    low, high, low_in_gamut = 0.0, chroma, True
    while high - low > TINY:
        middle = (low + high) / 2
        current = np.array([lightness, middle, hue])
        if low_in_gamut and in_srgb_gamut(convert(current, "oklch", "srgb")):
            low = middle
            continue
        clipped, distance = clipped_distance(current)
        if distance < JUST_NOTICEABLE:
            if JUST_NOTICEABLE - distance < TINY:
                return clipped
            low_in_gamut = False
            low = middle
        else:
            high = middle
    return clipped
