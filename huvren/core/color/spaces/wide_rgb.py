"""Further RGB spaces of CSS Color 4 (§10.5 to §10.7): A98, ProPhoto and Rec. 2020, with the matrices of §18.

Rec. 2020 is meant as displays show it, by a pure power of 2.4 (ITU-R BT.1886), as that section has it today.
"""

from collections.abc import Callable

import numpy as np

from huvren.core.color.arrays import Floats
from huvren.core.color.spaces.space import SPACES, Channel, ColorSpace

LINEAR_A98_TO_XYZ_D65 = np.array(
    [
        [573536 / 994567, 263643 / 1420810, 187206 / 994567],
        [591459 / 1989134, 6239551 / 9945670, 374412 / 4972835],
        [53769 / 1989134, 351524 / 4972835, 4929758 / 4972835],
    ]
)
LINEAR_PROPHOTO_TO_XYZ_D50 = np.array(
    [
        [0.79776664490064230, 0.13518129740053308, 0.03134773412839220],
        [0.28807482881940130, 0.71183523424187300, 0.00008993693872564],
        [0, 0, 0.82510460251046020],
    ]
)
LINEAR_REC2020_TO_XYZ_D65 = np.array(
    [
        [63426534 / 99577255, 20160776 / 139408157, 47086771 / 278816314],
        [26158966 / 99577255, 472592308 / 697040785, 8267143 / 139408157],
        [0, 19567812 / 697040785, 295819943 / 278816314],
    ]
)
_CHANNELS = (Channel("red", 0, 1, means="red"), Channel("green", 0, 1, means="green"), Channel("blue", 0, 1, means="blue"))
PROPHOTO_LINEAR_BELOW = 16 / 512


def _power(exponent: float) -> Callable[[Floats], Floats]:
    """A power that keeps the sign."""
    return lambda values: np.asarray(np.copysign(np.abs(values) ** exponent, values))


def _decode_prophoto(values: Floats) -> Floats:
    return np.asarray(np.where(np.abs(values) <= PROPHOTO_LINEAR_BELOW, values / 16, np.copysign(np.abs(values) ** 1.8, values)))


def _encode_prophoto(values: Floats) -> Floats:
    return np.asarray(np.where(np.abs(values) >= 1 / 512, np.copysign(np.abs(values) ** (1 / 1.8), values), values * 16))


def _register(
    space_id: str, label: str, base: str, primaries: Floats, decode: Callable[[Floats], Floats], encode: Callable[[Floats], Floats]
) -> None:
    back = np.linalg.inv(primaries)
    SPACES.register(
        ColorSpace(
            space_id, label, _CHANNELS, "D50" if base == "xyz-d50" else "D65", base, lambda values: decode(values) @ primaries.T,
            lambda xyz: encode(xyz @ back.T), css=space_id, gradient=space_id,
        )
    )  # fmt: skip


_register("a98-rgb", "A98 RGB", "xyz-d65", LINEAR_A98_TO_XYZ_D65, _power(563 / 256), _power(256 / 563))
_register("prophoto-rgb", "ProPhoto RGB", "xyz-d50", LINEAR_PROPHOTO_TO_XYZ_D50, _decode_prophoto, _encode_prophoto)
_register("rec2020", "Rec. 2020", "xyz-d65", LINEAR_REC2020_TO_XYZ_D65, _power(2.4), _power(1 / 2.4))
