"""Planes of color for the editor: slices of OKLCh as pictures, clear where sRGB ends."""

import numpy as np

from huvren.core.color.arrays import Bytes
from huvren.core.color.convert import oklch_to_srgb
from huvren.core.color.gamut import in_srgb_gamut

WIDEST_CHROMA = 0.34
"""A little over the largest chroma in sRGB (0.3225, a blue)."""


def chroma_lightness_plane(hue_degrees: float, width: int, height: int) -> Bytes:
    """(height, width, 4) uint8: chroma 0..WIDEST_CHROMA to the right, lightness 0..1 upward, at one hue."""
    chroma, lightness = np.meshgrid(np.linspace(0, WIDEST_CHROMA, width), np.linspace(1, 0, height))
    srgb = oklch_to_srgb(np.stack([lightness, chroma, np.full_like(chroma, hue_degrees)], axis=-1))
    plane = np.zeros((height, width, 4), dtype=np.uint8)
    plane[..., :3] = np.rint(np.clip(srgb, 0, 1) * 255)
    plane[..., 3] = np.where(in_srgb_gamut(srgb), 255, 0)
    return plane


def chroma_limit(lightness: float, hue_degrees: float) -> float:
    """The largest chroma inside sRGB at a lightness and hue, to 1e-4."""
    low, high = 0.0, WIDEST_CHROMA
    while high - low > 1e-4:
        middle = (low + high) / 2
        if in_srgb_gamut(oklch_to_srgb([lightness, middle, hue_degrees])):
            low = middle
        else:
            high = middle
    return low
