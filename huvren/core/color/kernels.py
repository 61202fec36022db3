"""Compiled scalar conversions, shared by the array functions and by the reduction kernels.

Compiling, and even importing the compiler, takes time. So nothing imports this module to convert a few colors:
`transfer.py` and `gamut.py` do that in plain NumPy, and turn to the kernels for many.
"""

import numpy as np

from huvren.core.color.gamut_rule import CHROMA_STEP, IN_GAMUT_SLACK, JUST_NOTICEABLE
from huvren.core.color.matrices import LINEAR_SRGB_TO_LMS, LMS_TO_LINEAR_SRGB, LMS_TO_OKLAB, OKLAB_TO_LMS
from huvren.core.compiled import float64, njit, prange, vectorize

_A = LINEAR_SRGB_TO_LMS
_B = LMS_TO_OKLAB
_C = OKLAB_TO_LMS
_D = LMS_TO_LINEAR_SRGB
A00, A01, A02, A10, A11, A12, A20, A21, A22 = (float(v) for v in _A.ravel())
B00, B01, B02, B10, B11, B12, B20, B21, B22 = (float(v) for v in _B.ravel())
C00, C01, C02, C10, C11, C12, C20, C21, C22 = (float(v) for v in _C.ravel())
D00, D01, D02, D10, D11, D12, D20, D21, D22 = (float(v) for v in _D.ravel())


@njit(inline="always")
def cube_root(value):
    """Cube root of any float64, to its last digits: an exponent guess and three Halley steps.

    Kahan 1991, “Computing a real cube root”. Unlike the library's it can be compiled for several values at once.
    """
    size = abs(value)
    guess = np.int64(np.float64(size).view(np.int64) // 3 + np.int64(3071306043645493248)).view(np.float64)
    for _ in range(3):
        cubed = guess * guess * guess
        guess = guess * (cubed + 2 * size) / (2 * cubed + size + 1e-300)
    return np.copysign(0.0 if size == 0 else guess, value)


@njit(inline="always")
def _fifth_root(size):
    """Fifth root of a float64 > 0, in the same way."""
    guess = np.int64(np.float64(size).view(np.int64) // 5 + np.int64(3685567252374591897)).view(np.float64)
    for _ in range(3):
        square = guess * guess
        fifth = square * square * guess
        guess = guess * (2 * fifth + 3 * size) / (3 * fifth + 2 * size)
    return guess


@njit(inline="always")
def decode_srgb(value):
    """sRGB transfer function to linear light, odd around zero (CSS Color 4). A power of 2.4 is x² times two fifth roots."""
    size = abs(value)
    base = (size + 0.055) / 1.055
    root = _fifth_root(base)
    return np.copysign(size / 12.92 if size <= 0.04045 else base * base * root * root, value)


@njit(inline="always")
def encode_srgb(value):
    """Linear light to the sRGB transfer function, odd around zero. A power of 1/2.4 is that of a twelfth root by five."""
    size = abs(value)
    root = cube_root(np.sqrt(np.sqrt(size)))
    square = root * root
    return np.copysign(size * 12.92 if size <= 0.0031308 else 1.055 * (square * square * root) - 0.055, value)


@njit(inline="always")
def linear_to_oklab(red, green, blue):
    """One linear sRGB color to OKLab."""
    long = cube_root(A00 * red + A01 * green + A02 * blue)
    medium = cube_root(A10 * red + A11 * green + A12 * blue)
    short = cube_root(A20 * red + A21 * green + A22 * blue)
    return (
        B00 * long + B01 * medium + B02 * short,
        B10 * long + B11 * medium + B12 * short,
        B20 * long + B21 * medium + B22 * short,
    )


@njit(inline="always")
def oklab_to_linear(lightness, a, b):
    """One OKLab color to linear sRGB, unbounded."""
    long = C00 * lightness + C01 * a + C02 * b
    medium = C10 * lightness + C11 * a + C12 * b
    short = C20 * lightness + C21 * a + C22 * b
    long, medium, short = long * long * long, medium * medium * medium, short * short * short
    return (
        D00 * long + D01 * medium + D02 * short,
        D10 * long + D11 * medium + D12 * short,
        D20 * long + D21 * medium + D22 * short,
    )


@njit(inline="always")
def cube_root32(value):
    """Cube root of a float32 ≥ 0 to about one part in ten million: an exponent guess and two Halley steps.

    Kahan 1991, “Computing a real cube root”; several times faster than the library's, which the pixel loops need.
    """
    guess = np.int32(np.float32(value).view(np.int32) // np.int32(3) + np.int32(709921077)).view(np.float32)
    two = np.float32(2)
    for _ in range(2):
        cubed = guess * guess * guess
        guess = guess * (cubed + two * value) / (two * cubed + value + np.float32(1e-38))
    return guess


@njit(inline="always")
def rough_cube_root32(value):
    """The same with one step, to about three parts in a hundred thousand: to compare distances by, where a division less counts."""
    third, offset = np.float32(1 / 3), np.float32(709921077)
    guess = np.int32(np.float32(np.float32(value).view(np.int32)) * third + offset).view(np.float32)
    cubed, two = guess * guess * guess, np.float32(2)
    return guess * (cubed + two * value) / (two * cubed + value + np.float32(1e-38))


_A32, _B32 = LINEAR_SRGB_TO_LMS.astype(np.float32), LMS_TO_OKLAB.astype(np.float32)
P00, P01, P02, P10, P11, P12, P20, P21, P22 = tuple(_A32.ravel())
Q00, Q01, Q02, Q10, Q11, Q12, Q20, Q21, Q22 = tuple(_B32.ravel())


@njit(inline="always")
def _linear_to_lms32(red, green, blue):
    """One linear sRGB color, float32 channels, to what the three kinds of cones answer to, as OKLab has it."""
    return (
        P00 * red + P01 * green + P02 * blue,
        P10 * red + P11 * green + P12 * blue,
        P20 * red + P21 * green + P22 * blue,
    )


@njit(inline="always")
def _roots_to_oklab32(long, medium, short):
    return (
        Q00 * long + Q01 * medium + Q02 * short,
        Q10 * long + Q11 * medium + Q12 * short,
        Q20 * long + Q21 * medium + Q22 * short,
    )


@njit(inline="always")
def linear_to_oklab32(red, green, blue):
    """One linear sRGB color, float32 channels ≥ 0, to float32 OKLab, within 1e-6 of the exact one."""
    long, medium, short = _linear_to_lms32(red, green, blue)
    return _roots_to_oklab32(cube_root32(long), cube_root32(medium), cube_root32(short))


@njit(inline="always")
def linear_to_rough_oklab32(red, green, blue):
    """One linear sRGB color, float32 channels ≥ 0, to float32 OKLab, within 1e-4 of the exact one."""
    long, medium, short = _linear_to_lms32(red, green, blue)
    return _roots_to_oklab32(rough_cube_root32(long), rough_cube_root32(medium), rough_cube_root32(short))


decode_srgb_array = vectorize([float64(float64)], cache=True)(decode_srgb.py_func)
encode_srgb_array = vectorize([float64(float64)], cache=True)(encode_srgb.py_func)


BLOCK = 256
"""Rows worked on at once, channel by channel: such simple loops are compiled for several values at a time."""


@njit(cache=True, error_model="numpy")
def _srgb_block_to_oklab(srgb, lightness, a, b):
    """(m, 3) sRGB into three channels of OKLab, m ≤ BLOCK."""
    rows = srgb.shape[0]
    for row in range(rows):
        lightness[row], a[row], b[row] = srgb[row, 0], srgb[row, 1], srgb[row, 2]
    for channel in (lightness, a, b):
        for row in range(rows):
            channel[row] = decode_srgb(channel[row])
    for row in range(rows):
        red, green, blue = lightness[row], a[row], b[row]
        lightness[row] = A00 * red + A01 * green + A02 * blue
        a[row] = A10 * red + A11 * green + A12 * blue
        b[row] = A20 * red + A21 * green + A22 * blue
    for channel in (lightness, a, b):
        for row in range(rows):
            channel[row] = cube_root(channel[row])
    for row in range(rows):
        long, medium, short = lightness[row], a[row], b[row]
        lightness[row] = B00 * long + B01 * medium + B02 * short
        a[row] = B10 * long + B11 * medium + B12 * short
        b[row] = B20 * long + B21 * medium + B22 * short


@njit(cache=True, error_model="numpy")
def _oklab_block_to_srgb(lightness, a, b, srgb):
    """Three channels of OKLab, used up, into (m, 3) sRGB, m ≤ BLOCK."""
    rows = srgb.shape[0]
    for row in range(rows):
        lightness[row], a[row], b[row] = oklab_to_linear(lightness[row], a[row], b[row])
    for channel in (lightness, a, b):
        for row in range(rows):
            channel[row] = encode_srgb(channel[row])
    for row in range(rows):
        srgb[row, 0], srgb[row, 1], srgb[row, 2] = lightness[row], a[row], b[row]


@njit(parallel=True, cache=True, error_model="numpy")
def srgb_rows_to_oklab(srgb, oklab):
    """(n, 3) float sRGB 0..1 into (n, 3) OKLab."""
    for block in prange((srgb.shape[0] + BLOCK - 1) // BLOCK):
        part = oklab[block * BLOCK : (block + 1) * BLOCK]
        lightness, a, b = np.empty(BLOCK), np.empty(BLOCK), np.empty(BLOCK)
        _srgb_block_to_oklab(srgb[block * BLOCK : (block + 1) * BLOCK], lightness, a, b)
        for row in range(part.shape[0]):
            part[row, 0], part[row, 1], part[row, 2] = lightness[row], a[row], b[row]


@njit(parallel=True, cache=True, error_model="numpy")
def oklab_rows_to_srgb(oklab, srgb):
    """(n, 3) OKLab into (n, 3) sRGB, unbounded."""
    for block in prange((oklab.shape[0] + BLOCK - 1) // BLOCK):
        part = oklab[block * BLOCK : (block + 1) * BLOCK]
        lightness, a, b = np.empty(BLOCK), np.empty(BLOCK), np.empty(BLOCK)
        for row in range(part.shape[0]):
            lightness[row], a[row], b[row] = part[row, 0], part[row, 1], part[row, 2]
        _oklab_block_to_srgb(lightness, a, b, srgb[block * BLOCK : (block + 1) * BLOCK])


@njit(parallel=True, cache=True, error_model="numpy")
def srgb_rows_to_oklch(srgb, oklch):
    """(n, 3) float sRGB 0..1 into (n, 3) OKLCh, hue in degrees 0..360."""
    for block in prange((srgb.shape[0] + BLOCK - 1) // BLOCK):
        part = oklch[block * BLOCK : (block + 1) * BLOCK]
        lightness, a, b = np.empty(BLOCK), np.empty(BLOCK), np.empty(BLOCK)
        _srgb_block_to_oklab(srgb[block * BLOCK : (block + 1) * BLOCK], lightness, a, b)
        for row in range(part.shape[0]):
            part[row, 0] = lightness[row]
            part[row, 1] = np.sqrt(a[row] * a[row] + b[row] * b[row])
            part[row, 2] = np.degrees(np.arctan2(b[row], a[row])) % 360.0


@njit(parallel=True, cache=True, error_model="numpy")
def oklch_rows_to_srgb(oklch, srgb):
    """(n, 3) OKLCh with hue in degrees into (n, 3) sRGB, unbounded."""
    for block in prange((oklch.shape[0] + BLOCK - 1) // BLOCK):
        part = oklch[block * BLOCK : (block + 1) * BLOCK]
        lightness, a, b = np.empty(BLOCK), np.empty(BLOCK), np.empty(BLOCK)
        for row in range(part.shape[0]):
            angle = np.radians(part[row, 2])
            lightness[row], a[row], b[row] = part[row, 0], part[row, 1] * np.cos(angle), part[row, 1] * np.sin(angle)
        _oklab_block_to_srgb(lightness, a, b, srgb[block * BLOCK : (block + 1) * BLOCK])


@njit(inline="always")
def _clip(value):
    return min(max(value, 0.0), 1.0)


@njit(inline="always")
def _is_displayable(red, green, blue):
    low = min(red, green, blue)
    return low >= -IN_GAMUT_SLACK and max(red, green, blue) <= 1 + IN_GAMUT_SLACK


@njit(cache=True)
def _clipped(lightness, chroma, cosine, sine):
    """sRGB of an OKLCh color, whether it is displayable, its clipped form and how far the clip is away in OKLab."""
    a, b = chroma * cosine, chroma * sine
    red, green, blue = oklab_to_linear(lightness, a, b)
    red, green, blue = encode_srgb(red), encode_srgb(green), encode_srgb(blue)
    inside = _is_displayable(red, green, blue)
    red, green, blue = _clip(red), _clip(green), _clip(blue)
    back, back_a, back_b = linear_to_oklab(decode_srgb(red), decode_srgb(green), decode_srgb(blue))
    return inside, red, green, blue, np.sqrt((back - lightness) ** 2 + (back_a - a) ** 2 + (back_b - b) ** 2)


@njit(cache=True)
def oklch_rows_into_gamut(oklch, srgb):
    """(n, 3) OKLCh into (n, 3) sRGB within 0..1: chroma reduction with local clip, CSS Color 4 §13.2.2."""
    for row in range(oklch.shape[0]):
        lightness = oklch[row, 0]
        if lightness >= 1 or lightness <= 0:
            srgb[row] = 1.0 if lightness >= 1 else 0.0
            continue
        angle = np.radians(oklch[row, 2])
        cosine, sine = np.cos(angle), np.sin(angle)
        low, high = 0.0, oklch[row, 1]
        inside, red, green, blue, distance = _clipped(lightness, high, cosine, sine)
        low_inside = True
        while not inside and distance >= JUST_NOTICEABLE and high - low > CHROMA_STEP:
            middle = (low + high) / 2
            candidate_inside, red, green, blue, distance = _clipped(lightness, middle, cosine, sine)
            if low_inside and candidate_inside:
                low = middle
                distance = JUST_NOTICEABLE
            elif distance < JUST_NOTICEABLE:
                if JUST_NOTICEABLE - distance < CHROMA_STEP:
                    break
                low_inside = False
                low = middle
                distance = JUST_NOTICEABLE
            else:
                high = middle
        srgb[row, 0] = red
        srgb[row, 1] = green
        srgb[row, 2] = blue
