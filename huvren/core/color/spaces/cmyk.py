"""CMYK by the plain device formula: no profile, so a proof of nothing, and labeled so."""

import numpy as np

from huvren.core.color.arrays import Floats
from huvren.core.color.spaces.space import SPACES, Channel, ColorSpace, Editing


def cmyk_to_srgb(cmyk: Floats) -> Floats:
    """(..., 4) ink shares 0..1 → (..., 3) sRGB: (1 − ink)(1 − black).

    Parameters
    ----------
    cmyk : Floats
        (..., 4) ink shares 0..1.

    Returns
    -------
    Floats
        (..., 3) sRGB: (1 − ink)(1 − black).
    """
    return (1 - cmyk[..., :3]) * (1 - cmyk[..., 3:])


def srgb_to_cmyk(srgb: Floats) -> Floats:
    """(..., 3) sRGB → (..., 4) ink shares with full black replacement.

    Parameters
    ----------
    srgb : Floats
        (..., 3) sRGB 0..1.

    Returns
    -------
    Floats
        (..., 4) ink shares with full black replacement.
    """
    black = 1 - srgb.max(axis=-1, keepdims=True)
    light = np.where(black == 1, 1.0, 1 - black)
    return np.concatenate([np.where(black == 1, 0.0, 1 - srgb / light), black], axis=-1)


SPACES.register(
    ColorSpace(
        "cmyk", "CMYK", tuple(Channel(name, 0, 1, 2) for name in "cmyk"), "D65", "srgb", cmyk_to_srgb, srgb_to_cmyk,
        note="device formula, no profile",
        editing=Editing(
            6, (("Cyan", 100, 0), ("Magenta", 100, 0), ("Yellow", 100, 0), ("Black", 100, 0)),
            "rgb(calc((1 - {0}) * (1 - {3}) * 255) calc((1 - {1}) * (1 - {3}) * 255) calc((1 - {2}) * (1 - {3}) * 255))",
        ),
    )
)  # fmt: skip
