"""Contrast of text and ground: WCAG 2.2, relative luminance and contrast ratio."""

from numpy.typing import ArrayLike

from huvren.core.color.spaces import convert


def relative_luminance(srgb: ArrayLike) -> float:
    """(3,) sRGB 0..1 → luminance Y, 0 for black and 1 for white.

    Parameters
    ----------
    srgb : ArrayLike
        (3,) sRGB 0..1.

    Returns
    -------
    float
        Luminance Y, 0 for black and 1 for white.
    """
    return float(convert(srgb, "srgb", "xyz-d65")[1])


def contrast_ratio(first: ArrayLike, second: ArrayLike) -> float:
    """Two (3,) sRGB colors → ratio 1..21, whichever is lighter.

    Parameters
    ----------
    first : ArrayLike
        (3,) sRGB 0..1.
    second : ArrayLike
        (3,) sRGB 0..1.

    Returns
    -------
    float
        Ratio 1..21, whichever is lighter.
    """
    darker, lighter = sorted((relative_luminance(first), relative_luminance(second)))
    return (lighter + 0.05) / (darker + 0.05)
