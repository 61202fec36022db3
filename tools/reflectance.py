"""Makes `huvren/core/color/reflectance_to_linear_srgb.npy`: `python -m tools.reflectance`.

(3, 36) float64: what a reflectance at 380, 390 … 730 nm under D65 gives in linear sRGB, from the CIE 1931 2° observer
and the CIE's D65 (both as colour-science has them). Each row is scaled so that a perfect white gives exactly 1, 1, 1.
"""

import warnings
from pathlib import Path

import numpy as np

from huvren.core.color.matrices import XYZ_D65_TO_LINEAR_SRGB

TARGET = Path(__file__).resolve().parent.parent / "huvren" / "core" / "color" / "reflectance_to_linear_srgb.npy"
WAVELENGTHS = np.arange(380, 731, 10)


def make_matrix() -> np.ndarray:
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        import colour
    observer = colour.MSDS_CMFS["CIE 1931 2 Degree Standard Observer"]
    light = colour.SDS_ILLUMINANTS["D65"]
    weights = np.array([observer[wavelength] * light[wavelength] for wavelength in WAVELENGTHS]).T
    matrix = XYZ_D65_TO_LINEAR_SRGB @ (weights / weights[1].sum())
    return np.asarray(matrix / matrix.sum(axis=1, keepdims=True))


if __name__ == "__main__":
    np.save(TARGET, make_matrix())
