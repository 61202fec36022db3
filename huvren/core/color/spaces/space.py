"""What a color space is, the registry of spaces and the way between any two."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import ArrayLike

from huvren.core.color.arrays import Flags, Floats
from huvren.core.progress import look_up
from huvren.core.registry import Registry

Conversion = Callable[[Floats], Floats]


Meaning = Literal["", "red", "green", "blue", "lightness", "colorfulness", "hue", "a", "b"]


@dataclass(frozen=True)
class Channel:
    """One coordinate: its usual range (values beyond are allowed) and the digits worth printing.

    means : what it stands for, so that a component missing in one space is missing in the analogous one of another
    (CSS Color 4 §12.2); a hue and the strength that gives it power are known by it too.
    """

    name: str
    """A letter or a word."""
    low: float
    """The least."""
    high: float
    """The most."""
    digits: int = 3
    """Decimals that are shown."""
    means: Meaning = ""

    @property
    def is_hue(self) -> bool:
        return self.means == "hue"


@dataclass(frozen=True)
class Between:
    """What to expect of a ramp through a space: said in menus, in this order. label : where the space's own does not do."""

    order: int
    """Place in the menu of ramps."""
    use: str
    """What it is for, in one sentence."""
    label: str = ""


@dataclass(frozen=True)
class Editing:
    """How the editor offers a space.

    order : among the others; scales : for each channel its label, what a coordinate is multiplied by where it is written, and its
    decimals then; css : a CSS color that looks like the coordinates, with {0}, {1} … in their places, for the tracks of sliders: a
    browser works it out while a control moves.
    """

    order: int
    scales: tuple[tuple[str, float, int], ...]
    css: str


POWERLESS_SHARE = 1e-5
"""A hue is powerless where its strength is at most this share of its usual range (CSS Color 4 §9.4: 4e-6 of 0.4)."""


@dataclass(frozen=True)
class ColorSpace:
    """A color space. `to_base` and `from_base` take and give (..., channels) float arrays.

    css : its id within color(); function : the CSS function whose plain numbers are its coordinates; gradient : its name in
    a CSS gradient; between : what a ramp through it is good for, or None where none is offered.
    powerless : (n, channels) → (n,) bool, where its hue has no power; usually found from the strength alone.
    editing : how the editor offers it, or None where it does not.
    """

    id: str
    """By which it is named in documents, addresses and commands."""
    label: str
    """As menus call it."""
    channels: tuple[Channel, ...]
    """In the order of its coordinates."""
    white: Literal["D65", "D50"]
    """That its coordinates are relative to."""
    base: str | None
    """The space that it is defined by; None for the root."""
    to_base: Conversion
    """Coordinates of this space → of its base."""
    from_base: Conversion
    """Coordinates of its base → of this space."""
    css: str | None = None
    note: str = ""
    """What one should know before choosing it."""
    function: str | None = None
    gradient: str | None = None
    between: Between | None = None
    powerless: Callable[[Floats], Flags] | None = None
    editing: Editing | None = None

    def __post_init__(self) -> None:
        if self.editing and len(self.editing.scales) != len(self.channels):
            raise TypeError(f"The editor needs a scale for each channel of {self.id}.")

    def channel_of(self, means: Meaning) -> int | None:
        """The index of the channel with this meaning."""
        return next((place for place, channel in enumerate(self.channels) if channel.means == means), None)

    @cached_property
    def hue(self) -> int | None:
        return self.channel_of("hue")

    @cached_property
    def strength(self) -> int | None:
        """The channel that gives the hue its power."""
        return self.channel_of("colorfulness")

    def hue_is_powerless(self, coords: Floats) -> Flags:
        """(n, channels) → (n,) bool; all false in a space without a hue.

        Parameters
        ----------
        coords : Floats
            (n, channels) coordinates in this space.

        Returns
        -------
        Flags
            (n,) bool; all false in a space without a hue.
        """
        if self.powerless is not None:
            return self.powerless(coords)
        if self.hue is None or self.strength is None:
            return np.zeros(len(coords), dtype=bool)
        return np.asarray(np.abs(coords[:, self.strength]) <= POWERLESS_SHARE * self.channels[self.strength].high)


SPACES: Registry[ColorSpace] = Registry("color space")


def edited_spaces() -> list[ColorSpace]:
    """The spaces that the editor offers, in its order."""
    return sorted((space for space in SPACES if space.editing), key=lambda space: space.editing.order if space.editing else 0)


def _chain(space_id: str) -> list[str]:
    chain = [space_id]
    while (base := SPACES[chain[-1]].base) is not None:
        chain.append(base)
    return chain


def convert(colors: ArrayLike, source: str, target: str) -> Floats:
    """Convert (..., n) coordinates in space `source` into (..., m) coordinates in space `target`.

    Parameters
    ----------
    colors : ArrayLike
        (..., n) coordinates in `source`.
    source : str
        Id of a space.
    target : str
        Id of a space.

    Returns
    -------
    Floats
        (..., m) float64.

    Raises
    ------
    Unknown
        For a space that is not registered.
    ValueError
        For a wrong number of coordinates.
    """
    look_up()
    values: Floats = np.asarray(colors, dtype=np.float64)
    if values.shape[-1:] != (len(SPACES[source].channels),):
        raise ValueError(f"{SPACES[source].label} has {len(SPACES[source].channels)} coordinates, got shape {values.shape}.")
    if source == target:
        return values.copy()
    up, down = _chain(source), _chain(target)
    shared = next(space for space in up if space in down)
    for step in up[: up.index(shared)]:
        values = SPACES[step].to_base(values)
    for step in reversed(down[: down.index(shared)]):
        values = SPACES[step].from_base(values)
    return values


def matrix(rows: Floats) -> Conversion:
    """A conversion that multiplies by a fixed 3×3 matrix.

    Parameters
    ----------
    rows : Floats
        (3, 3), multiplied from the left.

    Returns
    -------
    Conversion
        Takes (..., 3) and gives (..., 3).
    """
    transposed = np.ascontiguousarray(rows.T)
    return lambda colors: colors @ transposed


def to_polar(rectangular: Floats) -> Floats:
    """(L, a, b) → (L, C, h) with hue in degrees 0..360.

    Parameters
    ----------
    rectangular : Floats
        (..., 3): L, a, b.

    Returns
    -------
    Floats
        (..., 3): L, C, hue in degrees.
    """
    lightness, a, b = np.moveaxis(rectangular, -1, 0)
    return np.stack([lightness, np.hypot(a, b), np.degrees(np.arctan2(b, a)) % 360.0], axis=-1)


def to_rectangular(polar: Floats) -> Floats:
    """(L, C, h in degrees) → (L, a, b).

    Parameters
    ----------
    polar : Floats
        (..., 3): L, C, hue in degrees.

    Returns
    -------
    Floats
        (..., 3): L, a, b.
    """
    lightness, chroma, hue = np.moveaxis(polar, -1, 0)
    angle = np.radians(hue)
    return np.stack([lightness, chroma * np.cos(angle), chroma * np.sin(angle)], axis=-1)
