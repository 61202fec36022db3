"""The one rounding to 8 bits, and the one way in which 8-bit channels are written as a code."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import ArrayLike

from huvren.core.color.arrays import Bytes, Floats

FULL = 255
"""An 8-bit channel of 1."""


def to_eight_bits(shares: ArrayLike) -> Bytes:
    """Channels as a screen shows them: rounded half up, as CSS says.

    Parameters
    ----------
    shares : array_like
        Any shape, 0..1; what lies outside is clipped.

    Returns
    -------
    Bytes
        The same shape, 0..255.
    """
    return np.floor(np.clip(shares, 0, 1) * float(FULL) + 0.5).astype(np.uint8)


def shown_shares(shares: ArrayLike) -> Floats:
    """Channels that an 8-bit screen shows instead of these.

    Parameters
    ----------
    shares : array_like
        Any shape, 0..1; what lies outside is clipped.

    Returns
    -------
    Floats
        The same shape, each a whole number of 255ths.
    """
    return np.asarray(to_eight_bits(shares) / float(FULL))


def byte_of(share: float) -> int:
    """One channel 0..1 as 0..255, rounded half up as `to_eight_bits` does, without an array."""
    return int(min(max(share, 0.0), 1.0) * FULL + 0.5)


def hex_of(channels: Sequence[int]) -> str:
    """Three or four 8-bit channels as `#rrggbb`, or `#rrggbbaa` where there is an alpha and it is not full."""
    red, green, blue, *alpha = channels
    code = f"#{red:02x}{green:02x}{blue:02x}"
    return code if not alpha or alpha[0] == FULL else f"{code}{alpha[0]:02x}"
