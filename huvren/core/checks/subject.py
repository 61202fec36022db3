"""What a check looks at: the swatches as arrays, and what is known of the pictures that they paint."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np

from huvren.core.color.arrays import Bytes, Floats, Integers
from huvren.core.color.difference import DELTA_SCALE
from huvren.core.color.spaces import convert
from huvren.core.color.transfer import decode_srgb_array
from huvren.core.palette.values import Palette, Swatch, Usage

MOST_EXAMINED = 512
"""Checks that compare every swatch with every other look at so many."""
MOST_SAMPLES = 4096
LONGEST_SAID = 26
CLEAR = 0.5 / 255
"""Alphas below this are wholly clear at 8 bits."""


@dataclass(frozen=True)
class Sample:
    """Colors of a linked picture as it came: (m, 3) OKLab and (m,) how many pixels each stands for."""

    oklab: Floats
    """(n, 3) OKLab."""
    weights: Floats
    """(n,) pixels that each stands for."""


@dataclass(frozen=True)
class Plate:
    """A linked picture, small: (h, w) uint8 indices, and the swatch id that each stands for."""

    indices: Bytes
    """(h, w) uint8."""
    table: tuple[str | None, ...]
    """Swatch id of each index, None for a clear one."""


@dataclass(frozen=True)
class Subject:
    """A palette under examination. All arrays are of `swatches`: those that are not wholly clear, as a screen shows them.

    usage : pixels that each swatch paints, None where no picture is linked; touching : border pixels that two swatches share in
    the pictures, by the pair of ids, the lesser first; samples : the pictures' own colors; plate : one of them, to be
    drawn; others : palettes that a limit names, by id, None for one that is gone.
    """

    palette: Palette
    """What is examined."""
    usage: Usage | None = None
    touching: Mapping[tuple[str, str], int] | None = None
    samples: Sample | None = None
    plate: Plate | None = None
    others: Mapping[str, Palette | None] = field(default_factory=dict)
    most: int = MOST_EXAMINED
    """Swatches that are compared with each other."""

    def of(self, palette: Palette, successors: Mapping[str, str]) -> "Subject":
        """The same pictures with another palette; who took over from a swatch paints and touches what that one did."""

        def heir(swatch_id: str) -> str:
            return successors.get(swatch_id, swatch_id)

        usage: dict[str, int] = {}
        for swatch_id, count in (self.usage or {}).items():
            usage[heir(swatch_id)] = usage.get(heir(swatch_id), 0) + count
        touching: dict[tuple[str, str], int] = {}
        for pair, count in (self.touching or {}).items():
            first, second = sorted(heir(swatch_id) for swatch_id in pair)
            if first != second:
                touching[first, second] = touching.get((first, second), 0) + count
        return replace(
            self,
            palette=palette,
            usage=None if self.usage is None else usage,
            touching=None if self.touching is None else touching,
        )

    @cached_property
    def all(self) -> tuple[Swatch, ...]:
        """Every swatch that is not wholly clear."""
        return tuple(swatch for swatch in self.palette.swatches if swatch.color.alpha >= CLEAR)

    @cached_property
    def swatches(self) -> tuple[Swatch, ...]:
        """Those that are looked at: all, or the first `most`."""
        return self.all[: self.most]

    @property
    def left_out(self) -> str:
        """A sentence about what is not looked at, empty where nothing is."""
        return f" Only the first {self.most} of {len(self.all):,} swatches were compared." if len(self.all) > self.most else ""

    @cached_property
    def place_of(self) -> dict[str, int]:
        return {swatch.id: place for place, swatch in enumerate(self.swatches)}

    @cached_property
    def srgb(self) -> Floats:
        """(n, 3) sRGB 0..1 at 8 bits."""
        return bytes_of(self.swatches) / 255

    @cached_property
    def linear(self) -> Floats:
        """(n, 3) linear light."""
        return decode_srgb_array(self.srgb)

    @cached_property
    def oklab(self) -> Floats:
        """(n, 3) OKLab of the 8-bit form."""
        return convert(self.srgb, "srgb", "oklab")

    @cached_property
    def oklch(self) -> Floats:
        """(n, 3) OKLCh of the 8-bit form."""
        return convert(self.oklab, "oklab", "oklch")

    @cached_property
    def luminance(self) -> Floats:
        """(n,) relative luminance, WCAG 2.2."""
        return luminance(self.srgb)

    @cached_property
    def gaps(self) -> Floats:
        """(n, n) ΔEOK×100."""
        return gaps(self.oklab)

    @cached_property
    def pairs(self) -> tuple[Integers, Integers]:
        """Places of every two swatches, the lower first."""
        return np.triu_indices(len(self.swatches), k=1)

    @cached_property
    def borders(self) -> Floats:
        """(n, n) share of all borders in the pictures that each two swatches have with each other; zeros without a picture."""
        shares = np.zeros((len(self.swatches), len(self.swatches)))
        for (first, second), count in (self.touching or {}).items():
            if first in self.place_of and second in self.place_of:
                shares[self.place_of[first], self.place_of[second]] = shares[self.place_of[second], self.place_of[first]] = count
        total = sum((self.touching or {}).values())
        return shares / total if total else shares

    def ids(self, places: Sequence[int]) -> tuple[str, ...]:
        return tuple(self.swatches[place].id for place in places)

    def name(self, place: int) -> str:
        return quoted_name(self.swatches[place])

    def hex(self, place: int) -> str:
        return self.swatches[place].color.hex[:7]

    def coverage(self, place: int) -> float:
        """Share of the pictures' pixels, or an equal share where no picture is linked."""
        total = sum((self.usage or {}).values())
        return (self.usage or {}).get(self.swatches[place].id, 0) / total if total else 1 / max(len(self.swatches), 1)


def quoted_name(swatch: Swatch) -> str:
    """Its name in quotes, or its code."""
    name = swatch.name if len(swatch.name) <= LONGEST_SAID else swatch.name[: LONGEST_SAID - 1] + "…"
    return f"“{name}”" if name else swatch.color.hex


def bytes_of(swatches: Sequence[Swatch]) -> Floats:
    """(n, 3) 8-bit sRGB as numbers.

    Parameters
    ----------
    swatches : Sequence[Swatch]
        n swatches.

    Returns
    -------
    Floats
        (n, 3) 0..255.
    """
    return np.array([swatch.color.bytes[:3] for swatch in swatches], dtype=np.float64).reshape(-1, 3)


def luminance(srgb: Floats) -> Floats:
    """(..., 3) sRGB → (...) relative luminance, WCAG 2.2.

    Parameters
    ----------
    srgb : Floats
        (..., 3) sRGB 0..1.

    Returns
    -------
    Floats
        (...) relative luminance, WCAG 2.2.
    """
    return np.asarray(convert(srgb, "srgb", "xyz-d65")[..., 1])


def gaps(oklab: Floats, others: Floats | None = None) -> Floats:
    """(n, 3) and (m, 3) OKLab, or the same ones → (n, m) ΔEOK×100.

    Parameters
    ----------
    oklab : Floats
        (n, 3) OKLab.
    others : Floats | None
        (m, 3) OKLab; None for the same ones.

    Returns
    -------
    Floats
        (n, m) ΔEOK×100.
    """
    second = oklab if others is None else others
    squares = np.zeros((len(oklab), len(second)))
    for channel in range(3):
        squares += (oklab[:, None, channel] - second[None, :, channel]) ** 2
    return np.sqrt(squares) * DELTA_SCALE
