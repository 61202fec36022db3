"""Fast array conversions for the spaces that pictures and planes pass through in bulk."""

from collections.abc import Callable

import numpy as np
from numpy.typing import ArrayLike

from huvren.core.color import kernels
from huvren.core.color.arrays import Floats


def _through(kernel: Callable[[Floats, Floats], None], colors: ArrayLike) -> Floats:
    array = np.ascontiguousarray(colors, dtype=np.float64)
    if array.shape[-1:] != (3,):
        raise ValueError(f"Expected colors with 3 coordinates on the last axis, got shape {array.shape}.")
    flat = array.reshape(-1, 3)
    result = np.empty_like(flat)
    kernel(flat, result)
    return result.reshape(array.shape)


def srgb_to_oklab(srgb: ArrayLike) -> Floats:
    """sRGB : (..., 3), 0..1 → OKLab : (..., 3) float64. Reference: Ottosson 2020, CSS Color 4 §18."""
    return _through(kernels.srgb_rows_to_oklab, srgb)


def oklab_to_srgb(oklab: ArrayLike) -> Floats:
    """OKLab : (..., 3) → sRGB : (..., 3) float64, not limited to 0..1."""
    return _through(kernels.oklab_rows_to_srgb, oklab)


def srgb_to_oklch(srgb: ArrayLike) -> Floats:
    """sRGB : (..., 3), 0..1 → OKLCh : (..., 3) float64 with hue in degrees 0..360."""
    return _through(kernels.srgb_rows_to_oklch, srgb)


def oklch_to_srgb(oklch: ArrayLike) -> Floats:
    """OKLCh : (..., 3), hue in degrees → sRGB : (..., 3) float64, not limited to 0..1."""
    return _through(kernels.oklch_rows_to_srgb, oklch)
