"""What a dither is, and the registry of dithers."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from huvren.core.color.arrays import Bytes, Flags, Floats, Integers
from huvren.core.reduction.histogram import Histogram
from huvren.core.registry import Registry

WorkingSpace = Literal["linear", "oklab"]


@dataclass(frozen=True)
class Target:
    """What a dither works with.

    rgba : (h, w, 4) uint8; histogram of that picture
    rgb, oklab : (k, 3) uint8 and float32, the opaque palette colors in index order
    nearest : (d,) int32, nearest palette index of each distinct color
    transparent : index for transparent pixels, or −1
    strength : 0..1
    flat : (d,) bool, colors that are not dithered, or None where all are
    working : what is mixed and passed on: linear light, where a fine pattern adds up, or OKLab
    serpentine : whether error diffusion goes to and fro
    pair_limit : the largest ΔEOK (not ×100) between two colors that are mixed; infinite for none
    """

    rgba: Bytes
    histogram: Histogram
    """Its distinct colors and their pixels."""
    rgb: Bytes
    oklab: Floats
    nearest: Integers
    transparent: int
    strength: float
    flat: Flags | None = None
    working: WorkingSpace = "linear"
    serpentine: bool = True
    pair_limit: float = float("inf")


@dataclass(frozen=True)
class Dither:
    """A way to lay out. `is_diffusion` where error is passed on, `is_mixing` where each color is mixed of two.

    matrix : ranks 0 .. n−1 of its thresholds, for one that mixes by a matrix.
    """

    id: str
    """By which it is named in documents, addresses and commands."""
    label: str
    """As menus call it."""
    use: str
    """What it is for, in one sentence."""
    has_strength: bool
    """Whether it has a strength."""
    lay_out: Callable[[Target], Bytes]
    """Target → (h, w) uint8 index map."""
    is_diffusion: bool = False
    """Whether error goes on to neighbors."""
    is_mixing: bool = False
    """Whether it lays out mixtures of colors."""
    matrix: Callable[[], Integers] | None = None


DITHERS: Registry[Dither] = Registry("dither")
