"""Spacings: how the steps of a ramp lie along its path."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Protocol

import numpy as np

from huvren.core.color.arrays import Floats, Integers
from huvren.core.color.measures import Measure
from huvren.core.color.spaces import ColorSpace, convert
from huvren.core.ramp.gamuts import GamutRule
from huvren.core.registry import Registry

SAMPLES = 2048
FEWEST_IN_AN_INTERVAL = 8
NO_LENGTH = 1e-9
NO_LIGHTNESS = 1e-3


class Path(Protocol):
    """What spacings ask of a ramp."""

    @property
    def positions(self) -> Sequence[float]:
        """Where each stop stands, 0..1, none before its forerunner."""

    @property
    def space(self) -> ColorSpace:
        """What its colors are given in."""

    @property
    def gamut(self) -> GamutRule:
        """How its colors are shown."""

    @property
    def measure(self) -> Measure:
        """By which its steps are even."""

    @property
    def measured(self) -> tuple[Floats, Floats, Floats]:
        """What `measured` gives for it."""

    def colors_on(self, interval: Integers, share: Floats) -> tuple[Floats, Floats]:
        """(n,) intervals and (n,) shares 0..1 of them → (n, channels) coordinates in `space`, and (n,) alpha.

        Parameters
        ----------
        interval : Integers
            (n,) places of the stop before.
        share : Floats
            (n,) 0..1 of the interval.

        Returns
        -------
        tuple[Floats, Floats]
            (n, channels) coordinates in `space`, and (n,) alpha.
        """

    def eased(self, shares: Floats) -> Floats:
        """(n,) shares 0..1 → (n,) places on the path, as midpoints and easings have it.

        Parameters
        ----------
        shares : Floats
            (n,) 0..1 of the finished ramp.

        Returns
        -------
        Floats
            (n,) places on the path, as midpoints and easings have it.
        """


@dataclass(frozen=True)
class Spacing:
    """How steps lie along a ramp. `path` takes (n,) shares 0..1 of the finished ramp and gives (n,) places on its path.

    hears_easing : whether midpoints and easings matter; where steps are even they cannot.
    """

    id: str
    """By which it is named in documents, addresses and commands."""
    label: str
    """As menus call it."""
    use: str
    """What it is for, in one sentence."""
    path: Callable[[Path, Floats], Floats]
    """Shares 0..1 of the finished ramp → places on its path."""
    hears_easing: bool = True


SPACINGS: Registry[Spacing] = Registry("spacing")


def looks(srgb: Floats, alpha: Floats) -> Floats:
    """(n, 3) sRGB and (n,) alpha → (n, 4) whose distances are those that are seen: what is half clear shows half of its
    differences, and becoming clear is a difference as well.

    Parameters
    ----------
    srgb : Floats
        (n, 3) sRGB 0..1.
    alpha : Floats
        (n,) 0..1.

    Returns
    -------
    Floats
        (n, 4) whose distances are those that are seen: what is half clear shows half of its differences, and becoming clear is a
        difference as well.
    """
    return np.column_stack([convert(srgb, "srgb", "oklab") * alpha[:, None], alpha])


def measured(ramp: Path) -> tuple[Floats, Floats, Floats]:
    """Along the path, without the jumps of hard edges: (m,) places, (m,) difference passed since the start, and (m,) |ΔL| passed.

    Measured on the colors as they are shown. A jump takes no part, as no step can lie within it.

    Parameters
    ----------
    ramp : Path
        Any ramp.

    Returns
    -------
    tuple[Floats, Floats, Floats]
        (m,) places, (m,) difference by the ramp's measure passed since the start, and (m,) |ΔL| of OKLab passed.
    """
    positions = np.array(ramp.positions)
    widths = np.diff(positions)
    if not (widths > 0).any():
        return np.array([0.0, 1.0]), np.zeros(2), np.zeros(2)
    held = np.flatnonzero(widths > 0)
    counts = np.maximum(FEWEST_IN_AN_INTERVAL, np.rint(SAMPLES * widths[held] / widths.sum()).astype(int))
    points = counts + 1
    interval, within = np.repeat(held, points), np.arange(points.sum()) - np.repeat(np.cumsum(points) - points, points)
    share = within / np.repeat(counts, points)
    coords, alpha = ramp.colors_on(interval, share)
    srgb, _ = ramp.gamut.show(np.nan_to_num(coords), ramp.space.id)
    alpha = np.nan_to_num(alpha, nan=1.0)
    is_jump = np.diff(interval) != 0
    lengths = np.where(is_jump, 0, ramp.measure.steps(srgb, alpha))
    lightness = np.where(is_jump, 0, np.abs(np.diff(looks(srgb, alpha)[:, 0])))
    places = positions[interval] + share * widths[interval]
    return places, np.concatenate([[0.0], np.cumsum(lengths)]), np.concatenate([[0.0], np.cumsum(lightness)])


def _along(places: Floats, passed: Floats, shares: Floats) -> Floats:
    """Where each share of all that is passed lies; the last place of a stretch that passes nothing, but 0 and 1 stay the ends."""
    wanted = shares * passed[-1]
    after = np.clip(np.searchsorted(passed, wanted, side="left"), 1, len(passed) - 1)
    rise = passed[after] - passed[after - 1]
    part = np.where(rise > 0, (wanted - passed[after - 1]) / np.where(rise > 0, rise, 1.0), 0.0)
    found = places[after - 1] + np.clip(part, 0, 1) * (places[after] - places[after - 1])
    return np.asarray(np.where(shares <= 0, places[0], np.where(shares >= 1, places[-1], found)))


def _by_position(ramp: Path, shares: Floats) -> Floats:
    return ramp.eased(shares)


def _even(ramp: Path, shares: Floats) -> Floats:
    places, passed, _ = ramp.measured
    return _along(places, passed, shares) if passed[-1] > NO_LENGTH else shares


def _even_lightness(ramp: Path, shares: Floats) -> Floats:
    places, passed, lightness = ramp.measured
    if lightness[-1] > NO_LIGHTNESS:
        return _along(places, lightness, shares)
    return _along(places, passed, shares) if passed[-1] > NO_LENGTH else shares


BY_POSITION = SPACINGS.register(
    Spacing("position", "by position", "As the stops stand, with their midpoints and easings.", _by_position)
)
EVEN = SPACINGS.register(
    Spacing("even", "evenly", "The same difference from step to step, wherever the stops stand.", _even, hears_easing=False)
)
EVEN_LIGHTNESS = SPACINGS.register(
    Spacing("lightness", "by even lightness", "The same rise in lightness from step to step.", _even_lightness, hears_easing=False)
)
