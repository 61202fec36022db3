"""`Color`: one color as it was given, in its own space, with its derived sRGB form."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

import numpy as np

from huvren.core.color.arrays import Flags, Floats
from huvren.core.color.eight_bits import byte_of, hex_of
from huvren.core.color.gamut import clip_to_srgb, displayed, in_srgb_gamut, map_to_srgb
from huvren.core.color.spaces import SPACES, convert
from huvren.core.errors import BadColor

MOST = 1e6
_SHARES = tuple(value / 255 for value in range(256))
ALPHA = -1
"""Stands for alpha among the places of missing components."""


@dataclass(frozen=True)
class Color:
    """A color held as space id + coordinates + alpha (0..1), so that nothing is flattened on the way in.

    missing : the places of components given as `none` (CSS Color 4 §4.4), −1 for alpha. Their number is 0, which is what a
    screen or a format takes; interpolation, notation and documents know that they are missing.
    """

    space: str
    """Id of the space of its coordinates."""
    coords: tuple[float, ...]
    """As many as the space has channels."""
    alpha: float = 1.0
    """0..1."""
    missing: tuple[int, ...] = ()

    def __post_init__(self) -> None:
        wanted = len(SPACES[self.space].channels)
        if len(self.coords) != wanted:
            raise BadColor(f"{SPACES[self.space].label} has {wanted} coordinates, {len(self.coords)} were given.")
        # A sum is finite only where every part is; far cheaper than asking each.
        if not math.isfinite(sum(self.coords) + self.alpha) or max(map(abs, self.coords)) >= MOST:
            raise BadColor(f"The coordinates {self.coords} are not all ordinary numbers.")
        if not 0 <= self.alpha <= 1:
            raise BadColor(f"An alpha of {self.alpha:g} is outside 0 to 1.")
        if self.missing and any(self.coords[place] if place >= 0 else self.alpha for place in self.missing):
            raise BadColor("A missing component has no number.")

    @classmethod
    def of(cls, space: str, coords: Sequence[float | None], alpha: float | None = 1.0) -> "Color":
        """A color whose missing components are None or NaN."""
        gone = [place for place, value in enumerate(coords) if value is None or value != value]
        if alpha is None or alpha != alpha:
            gone.append(ALPHA)
        numbers = tuple(0.0 if place in gone else float(value or 0.0) for place, value in enumerate(coords))
        return cls(space, numbers, 0.0 if ALPHA in gone else float(alpha or 0.0), tuple(gone))

    def components(self) -> tuple[float | None, ...]:
        """The coordinates, None for a missing one."""
        return tuple(None if place in self.missing else value for place, value in enumerate(self.coords))

    def document(self) -> dict[str, Any]:
        """As it is stored and sent: space, coordinates and alpha, None for what is missing. `Color.of` gives it back."""
        return {"space": self.space, "coords": list(self.components()), "alpha": None if ALPHA in self.missing else self.alpha}

    @classmethod
    def from_bytes(cls, red: int, green: int, blue: int, alpha: int = 255) -> "Color":
        """8-bit sRGB channels, 0..255. Raises `IndexError` above that."""
        # Files bring tens of thousands at once; what comes from the table needs no further check.
        color = cls.__new__(cls)
        color.__dict__.update(
            space="srgb", coords=(_SHARES[red], _SHARES[green], _SHARES[blue]), alpha=_SHARES[alpha], missing=()
        )  # fmt: skip
        return color

    def to(self, space: str) -> tuple[float, ...]:
        """Coordinates in another space, not gamut mapped."""
        return tuple(float(v) for v in convert(self.coords, self.space, space))

    @cached_property
    def in_srgb(self) -> bool:
        """Whether the color lies in the sRGB gamut."""
        if self.space == "srgb" and min(self.coords) >= 0 and max(self.coords) <= 1:
            return True
        return bool(in_srgb_gamut(np.array(self.to("srgb"))))

    @cached_property
    def srgb(self) -> tuple[float, float, float]:
        """sRGB 0..1, chroma reduced where the color lies outside the gamut."""
        if self.space == "srgb" and self.in_srgb:
            red, green, blue = (min(max(channel, 0.0), 1.0) for channel in self.coords)
        elif self.in_srgb:
            red, green, blue = clip_to_srgb(np.array(self.to("srgb")))
        else:
            red, green, blue = map_to_srgb(np.array(self.to("oklch")))
        return float(red), float(green), float(blue)

    @cached_property
    def bytes(self) -> tuple[int, int, int, int]:
        """8-bit sRGB with alpha, rounded half up."""
        red, green, blue, alpha = map(byte_of, (*self.srgb, self.alpha))
        return red, green, blue, alpha

    @cached_property
    def oklab(self) -> tuple[float, float, float]:
        """OKLab of the 8-bit sRGB form: what a screen shows and what pictures are compared with."""
        lightness, a, b = convert(np.array(self.bytes[:3]) / 255, "srgb", "oklab")
        return float(lightness), float(a), float(b)

    @property
    def hex(self) -> str:
        """`#rrggbb`, or `#rrggbbaa` where alpha is not full."""
        return hex_of(self.bytes)

    def with_alpha(self, alpha: float) -> "Color":
        return replace(self, alpha=alpha, missing=tuple(place for place in self.missing if place != ALPHA))


TRANSPARENT = Color("srgb", (0.0, 0.0, 0.0), 0.0)


def srgb_of(colors: Sequence[Color]) -> tuple[Floats, Flags]:
    """(n, 3) sRGB 0..1 inside the gamut, and (n,) bool, true where no mapping was needed.

    Parameters
    ----------
    colors : Sequence[Color]
        n colors in any space.

    Returns
    -------
    tuple[Floats, Flags]
        (n, 3) sRGB 0..1 and (n,) bool.
    """
    srgb = np.empty((len(colors), 3))
    inside = np.ones(len(colors), dtype=bool)
    by_space: dict[str, list[int]] = {}
    for place, color in enumerate(colors):
        by_space.setdefault(color.space, []).append(place)
    for space, places in by_space.items():
        srgb[places], inside[places] = displayed([colors[place].coords for place in places], space)
    return srgb, inside
