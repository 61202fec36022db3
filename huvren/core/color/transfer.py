"""The sRGB transfer function over arrays: plain NumPy for a few values, compiled for many.

The two agree to the last digits (a test compares them); only the time they take differs, and what has to be imported.
"""

import sys
from types import ModuleType

import numpy as np
from numpy.typing import ArrayLike

from huvren.core.color.arrays import Floats

FEW = 50_000
"""Up to here a call in NumPy is over sooner than the compiler is imported."""
KERNELS = "huvren.core.color.kernels"


def kernels_for(values: int) -> ModuleType | None:
    """The compiled kernels, where they are loaded already or so many values are worth it."""
    if values > FEW or KERNELS in sys.modules:
        from huvren.core.color import kernels

        return kernels
    return None


def decode_srgb_array(coded: ArrayLike) -> Floats:
    """sRGB coded → linear light, any shape, odd around zero (CSS Color 4 §10.2).

    Parameters
    ----------
    coded : ArrayLike
        Any shape, sRGB coded.

    Returns
    -------
    Floats
        The same shape, linear light.
    """
    values = np.asarray(coded, dtype=np.float64)
    if kernels := kernels_for(values.size):
        return np.asarray(kernels.decode_srgb_array(values))
    size = np.abs(values)
    return np.asarray(np.copysign(np.where(size <= 0.04045, size / 12.92, ((size + 0.055) / 1.055) ** 2.4), values))


def encode_srgb_array(linear: ArrayLike) -> Floats:
    """Linear light → sRGB coded, any shape, odd around zero (CSS Color 4 §10.2).

    Parameters
    ----------
    linear : ArrayLike
        Any shape, linear light.

    Returns
    -------
    Floats
        The same shape, sRGB coded.
    """
    values = np.asarray(linear, dtype=np.float64)
    if kernels := kernels_for(values.size):
        return np.asarray(kernels.encode_srgb_array(values))
    size = np.abs(values)
    return np.asarray(np.copysign(np.where(size <= 0.0031308, size * 12.92, 1.055 * size ** (1 / 2.4) - 0.055), values))
