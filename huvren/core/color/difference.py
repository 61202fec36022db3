"""Color differences."""

import numpy as np
from numpy.typing import ArrayLike

from huvren.core.color.arrays import Floats

DELTA_SCALE = 100.0
"""Differences in OKLab are shown times one hundred, so that 1 is about the smallest step an eye notices."""


def delta_eok(first: ArrayLike, second: ArrayLike) -> Floats:
    """ΔEOK×100: Euclidean distance of two (..., 3) OKLab arrays, times 100.

    Reference: CSS Color 4 §18.

    Parameters
    ----------
    first : ArrayLike
        (..., 3) OKLab.
    second : ArrayLike
        (..., 3) OKLab.

    Returns
    -------
    Floats
        (...) distances.
    """
    return np.asarray(np.linalg.norm(np.asarray(first, dtype=float) - np.asarray(second, dtype=float), axis=-1) * DELTA_SCALE)


def ciede2000(first: ArrayLike, second: ArrayLike) -> Floats:
    """CIEDE2000 of two (..., 3) CIELAB arrays, kL = kC = kH = 1.

    Reference: Sharma, Wu, Dalal 2005, eqs. 2–22.

    Parameters
    ----------
    first : ArrayLike
        (..., 3) CIELAB.
    second : ArrayLike
        (..., 3) CIELAB.

    Returns
    -------
    Floats
        (...) differences.
    """
    lightness1, a1, b1 = np.moveaxis(np.asarray(first, dtype=float), -1, 0)
    lightness2, a2, b2 = np.moveaxis(np.asarray(second, dtype=float), -1, 0)
    mean_chroma7 = ((np.hypot(a1, b1) + np.hypot(a2, b2)) / 2) ** 7
    stretch = 1 + 0.5 * (1 - np.sqrt(mean_chroma7 / (mean_chroma7 + 25.0**7)))
    a1, a2 = a1 * stretch, a2 * stretch
    chroma1, chroma2 = np.hypot(a1, b1), np.hypot(a2, b2)
    hue1, hue2 = np.degrees(np.arctan2(b1, a1)) % 360, np.degrees(np.arctan2(b2, a2)) % 360
    colored = chroma1 * chroma2 != 0
    turn = np.where(colored, (hue2 - hue1 + 180) % 360 - 180, 0.0)
    # A difference of exactly 180° counts as +180° (eq. 10); the modulo above gives −180°.
    turn = np.where(colored & (hue2 - hue1 == 180), 180.0, turn)
    delta_hue = 2 * np.sqrt(chroma1 * chroma2) * np.sin(np.radians(turn / 2))
    total = hue1 + hue2
    near = np.abs(hue1 - hue2) <= 180
    mean_hue = np.where(colored, np.where(near, total / 2, np.where(total < 360, total / 2 + 180, total / 2 - 180)), total)
    mean_lightness, mean_chroma = (lightness1 + lightness2) / 2, (chroma1 + chroma2) / 2
    tilt = (
        1
        - 0.17 * np.cos(np.radians(mean_hue - 30))
        + 0.24 * np.cos(np.radians(2 * mean_hue))
        + 0.32 * np.cos(np.radians(3 * mean_hue + 6))
        - 0.20 * np.cos(np.radians(4 * mean_hue - 63))
    )
    rotation = 30 * np.exp(-(((mean_hue - 275) / 25) ** 2))
    mean_chroma7 = mean_chroma**7
    rotation_chroma = 2 * np.sqrt(mean_chroma7 / (mean_chroma7 + 25.0**7))
    off_middle = (mean_lightness - 50) ** 2
    scale_lightness = 1 + 0.015 * off_middle / np.sqrt(20 + off_middle)
    scale_chroma = 1 + 0.045 * mean_chroma
    scale_hue = 1 + 0.015 * mean_chroma * tilt
    lightness_term = (lightness2 - lightness1) / scale_lightness
    chroma_term = (chroma2 - chroma1) / scale_chroma
    hue_term = delta_hue / scale_hue
    cross = -np.sin(np.radians(2 * rotation)) * rotation_chroma * chroma_term * hue_term
    return np.asarray(np.sqrt(np.maximum(lightness_term**2 + chroma_term**2 + hue_term**2 + cross, 0)))
