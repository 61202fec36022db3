"""The matrices between linear sRGB, XYZ and OKLab's cone responses.

CSS Color 4, section 18 (sample code), which carries Ottosson's revision of 2021-01-25 at full precision. The product with
the sRGB primaries gives the direct linear sRGB form.
"""

from fractions import Fraction

import numpy as np

from huvren.core.color.arrays import Floats


def _rational(rows: list[list[tuple[int, int]]]) -> Floats:
    return np.array([[float(Fraction(n, d)) for n, d in row] for row in rows])


LINEAR_SRGB_TO_XYZ_D65 = _rational(
    [
        [(506752, 1228815), (87881, 245763), (12673, 70218)],
        [(87098, 409605), (175762, 245763), (12673, 175545)],
        [(7918, 409605), (87881, 737289), (1001167, 1053270)],
    ]
)
XYZ_D65_TO_LINEAR_SRGB = np.linalg.inv(LINEAR_SRGB_TO_XYZ_D65)
XYZ_D65_TO_LMS = np.array(
    [
        [0.8190224379967030, 0.3619062600528904, -0.1288737815209879],
        [0.0329836539323885, 0.9292868615863434, 0.0361446663506424],
        [0.0481771893596242, 0.2642395317527308, 0.6335478284694309],
    ]
)
LMS_TO_OKLAB = np.array(
    [
        [0.2104542683093140, 0.7936177747023054, -0.0040720430116193],
        [1.9779985324311684, -2.4285922420485799, 0.4505937096174110],
        [0.0259040424655478, 0.7827717124575296, -0.8086757549230774],
    ]
)
LINEAR_SRGB_TO_LMS = XYZ_D65_TO_LMS @ LINEAR_SRGB_TO_XYZ_D65
LMS_TO_LINEAR_SRGB = np.linalg.inv(LINEAR_SRGB_TO_LMS)
OKLAB_TO_LMS = np.linalg.inv(LMS_TO_OKLAB)
