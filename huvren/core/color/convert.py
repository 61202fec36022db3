"""Fast array conversions for the spaces that pictures and planes pass through in bulk."""

from collections.abc import Callable
from types import ModuleType

import numpy as np
from numpy.typing import ArrayLike

from huvren.core.color.arrays import Floats
from huvren.core.color.spaces import convert
from huvren.core.color.transfer import kernels_for

Kernel = Callable[[Floats, Floats], None]
"""Takes (n, 3) coordinates and fills another (n, 3)."""


def _through(kernel_of: Callable[[ModuleType], Kernel], colors: ArrayLike, source: str, target: str) -> Floats:
    array = np.ascontiguousarray(colors, dtype=np.float64)
    if array.shape[-1:] != (3,):
        raise ValueError(f"Expected colors with 3 coordinates on the last axis, got shape {array.shape}.")
    kernels = kernels_for(array.size)
    if kernels is None:
        return convert(array, source, target)
    flat = array.reshape(-1, 3)
    result = np.empty_like(flat)
    kernel_of(kernels)(flat, result)
    return result.reshape(array.shape)


def srgb_to_oklab(srgb: ArrayLike) -> Floats:
    """sRGB : (..., 3), 0..1 → OKLab : (..., 3) float64.

    Reference: Ottosson 2020, CSS Color 4 §18.

    Parameters
    ----------
    srgb : ArrayLike
        (..., 3) sRGB 0..1.

    Returns
    -------
    Floats
        (..., 3) float64 OKLab.
    """
    return _through(lambda kernels: kernels.srgb_rows_to_oklab, srgb, "srgb", "oklab")


def oklab_to_srgb(oklab: ArrayLike) -> Floats:
    """OKLab : (..., 3) → sRGB : (..., 3) float64, not limited to 0..1.

    Parameters
    ----------
    oklab : ArrayLike
        (..., 3) OKLab.

    Returns
    -------
    Floats
        (..., 3) float64 sRGB, not limited to 0..1.
    """
    return _through(lambda kernels: kernels.oklab_rows_to_srgb, oklab, "oklab", "srgb")


def srgb_to_oklch(srgb: ArrayLike) -> Floats:
    """sRGB : (..., 3), 0..1 → OKLCh : (..., 3) float64 with hue in degrees 0..360.

    Parameters
    ----------
    srgb : ArrayLike
        (..., 3) sRGB 0..1.

    Returns
    -------
    Floats
        (..., 3) float64 OKLCh with hue in degrees 0..360.
    """
    return _through(lambda kernels: kernels.srgb_rows_to_oklch, srgb, "srgb", "oklch")


def oklch_to_srgb(oklch: ArrayLike) -> Floats:
    """OKLCh : (..., 3), hue in degrees → sRGB : (..., 3) float64, not limited to 0..1.

    Parameters
    ----------
    oklch : ArrayLike
        (..., 3) OKLCh, hue in degrees.

    Returns
    -------
    Floats
        (..., 3) float64 sRGB, not limited to 0..1.
    """
    return _through(lambda kernels: kernels.oklch_rows_to_srgb, oklch, "oklch", "srgb")


def to_srgb(colors: ArrayLike, space: str) -> Floats:
    """(..., n) coordinates in any space → (..., 3) sRGB, not limited to 0..1; in bulk where there is a kernel for it.

    Parameters
    ----------
    colors : ArrayLike
        (..., channels) coordinates in `space`.
    space : str
        Id of a space.

    Returns
    -------
    Floats
        (..., 3) sRGB, not limited to 0..1.
    """
    fast = {"oklab": oklab_to_srgb, "oklch": oklch_to_srgb}.get(space)
    return fast(colors) if fast else convert(colors, space, "srgb")
