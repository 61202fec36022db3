"""Gamut mapping into sRGB: chroma reduction in OKLCh with local clip (CSS Color 4 §13.2), and plain clip."""

import numpy as np
from numpy.typing import ArrayLike

from huvren.core.color.arrays import Flags, Floats
from huvren.core.color.kernels import IN_GAMUT_SLACK, oklch_rows_into_gamut
from huvren.core.color.spaces import convert


def in_srgb_gamut(srgb: Floats) -> Flags:
    """(..., 3) sRGB → (...) bool, true where every channel lies in 0..1 within the rounding of a conversion."""
    return np.asarray(((srgb >= -IN_GAMUT_SLACK) & (srgb <= 1 + IN_GAMUT_SLACK)).all(axis=-1))


def clip_to_srgb(srgb: Floats) -> Floats:
    """(..., 3) sRGB → each channel limited to 0..1. Changes hue; offered as “plain clip”."""
    return np.clip(srgb, 0.0, 1.0)


def map_to_srgb(oklch: ArrayLike) -> Floats:
    """(..., 3) OKLCh → (..., 3) sRGB inside 0..1, hue and lightness held, chroma reduced as far as needed."""
    array = np.ascontiguousarray(oklch, dtype=np.float64)
    rows = array.reshape(-1, 3)
    srgb = np.empty_like(rows)
    oklch_rows_into_gamut(rows, srgb)
    return srgb.reshape(array.shape)


def displayed(coords: ArrayLike, space: str) -> tuple[Floats, Flags]:
    """(n, c) coordinates in `space` → (n, 3) sRGB 0..1 as shown, and (n,) bool, true where no mapping was needed."""
    srgb = convert(coords, space, "srgb")
    inside = in_srgb_gamut(srgb)
    outside = ~inside
    if outside.any():
        srgb[outside] = map_to_srgb(convert(np.asarray(coords, dtype=np.float64)[outside], space, "oklch"))
    return clip_to_srgb(srgb), inside
