"""Dithers: ways to lay out the indices of a palette over a picture. One file each."""

from collections.abc import Callable
from dataclasses import dataclass

from huvren.core.color.arrays import Bytes, Floats, Integers
from huvren.core.reduction.histogram import Histogram
from huvren.core.registry import Registry


@dataclass(frozen=True)
class Target:
    """What a dither works with.

    rgba : (h, w, 4) uint8; histogram of that picture
    rgb, oklab : (k, 3) uint8 and float32, the opaque palette colors in index order
    nearest : (d,) int32, nearest palette index of each distinct color
    transparent : index for transparent pixels, or −1
    strength : 0..1
    """

    rgba: Bytes
    histogram: Histogram
    rgb: Bytes
    oklab: Floats
    nearest: Integers
    transparent: int
    strength: float


@dataclass(frozen=True)
class Dither:
    id: str
    label: str
    use: str
    has_strength: bool
    lay_out: Callable[[Target], Bytes]
    """Target → (h, w) uint8 index map."""


DITHERS: Registry[Dither] = Registry("dither")

from huvren.core.reduction.dithers import none, floyd_steinberg, ordered  # noqa: E402, F401, I001  (menu order)
