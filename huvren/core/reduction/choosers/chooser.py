"""What chooses colors, and the registry of choosers."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from huvren.core.color.arrays import Bytes, Floats
from huvren.core.color.eight_bits import to_eight_bits
from huvren.core.color.gamut import displayed
from huvren.core.reduction.histogram import Histogram, Points
from huvren.core.registry import Registry


@dataclass(frozen=True)
class Brief:
    """What a chooser works from.

    histogram of the picture; points : its colors with the weights that count now, light ones left out
    count : colors to add; present : (m, 3) OKLab of colors that are there already
    listed : (n, 3) uint8, the colors of a list; depth : levels of each channel
    """

    histogram: Histogram
    """Its distinct colors and their pixels."""
    points: Points
    count: int
    present: Floats
    listed: Bytes
    depth: tuple[int, int, int]


@dataclass(frozen=True)
class Chooser:
    """A way to choose. `needs` names that without which it cannot work: a “list”, a “depth”, a “palette” whose colors are
    all kept, or nothing; `sets_count` where it ignores the count."""

    id: str
    """By which it is named in documents, addresses and commands."""
    label: str
    """As menus call it."""
    use: str
    """What it is for, in one sentence."""
    choose: Callable[[Brief], Bytes]
    """Brief → (≤ count, 3) uint8 sRGB, likeliest doubles of present colors left to the caller to drop."""
    needs: str = ""
    """What of the recipe it goes by."""
    sets_count: bool = False
    """Whether it says how many colors there are."""
    counts_all: bool = False
    """Whether it goes by how many colors the picture has: a smaller copy, whose colors are means, would say something else."""
    evens_out: bool = False
    """Its colors have the least mean difference it could find, so that a longer search may find better ones."""
    tunes: Literal["", "moved", "on-grid", "in-list"] = ""
    """How its colors may be tuned to a dither: moved anywhere, from place to place of a depth's grid, for others of the list,
    or not at all, where they promise to be the picture's own."""


CHOOSERS: Registry[Chooser] = Registry("chooser")


def oklab_to_bytes(oklab: Floats) -> Bytes:
    """(k, 3) OKLab centers → (k, 3) uint8 sRGB, chroma reduced where a mean falls outside the gamut.

    Parameters
    ----------
    oklab : Floats
        (k, 3) OKLab.

    Returns
    -------
    Bytes
        (k, 3) uint8 sRGB, chroma reduced where a mean falls outside the gamut.
    """
    return to_eight_bits(displayed(oklab, "oklab")[0])
