"""The least change of a swatch that makes something true: what mends propose."""

from collections.abc import Callable

import numpy as np

from huvren.core.checks.subject import Subject
from huvren.core.color.arrays import Flags, Floats
from huvren.core.color.eight_bits import shown_shares
from huvren.core.color.gamut import in_srgb_gamut, within_srgb
from huvren.core.color.spaces import convert
from huvren.core.palette.operations.recolor import RecolorSwatch
from huvren.core.palette.values import Swatch

LIGHTNESS_STEP = 0.002
RADII = np.arange(0.004, 0.5, 0.004)
SHELLS = 16
DIRECTIONS = 62
"""Directions in OKLab that a color may be pushed in, spread evenly over a ball (Fibonacci's spiral)."""

Holds = Callable[[Floats], Flags]
"""(k, 3) sRGB at 8 bits → (k,) whether what is wanted holds with that color."""


def _ball() -> Floats:
    place = np.arange(DIRECTIONS) + 0.5
    polar, turn = np.arccos(1 - 2 * place / DIRECTIONS), np.pi * (1 + 5**0.5) * place
    return np.column_stack([np.cos(polar), np.sin(polar) * np.cos(turn), np.sin(polar) * np.sin(turn)])


BALL = _ball()


def nearest_lightness(oklch: Floats, holds: Holds) -> Floats | None:
    """(3,) OKLCh → (3,) sRGB at 8 bits of the nearest lightness at which it holds, hue kept, and chroma as far as the gamut allows;
    None for none.

    Parameters
    ----------
    oklch : Floats
        (3,) OKLCh, hue in degrees.
    holds : Holds
        Tells for (k, 3) sRGB whether what is wanted holds: (k,) bool.

    Returns
    -------
    Floats | None
        (3,) sRGB at 8 bits; None for none.
    """
    lightness = np.arange(0, 1 + LIGHTNESS_STEP / 2, LIGHTNESS_STEP)
    rows = within_srgb(np.column_stack([lightness, np.full_like(lightness, oklch[1]), np.full_like(lightness, oklch[2])]))
    shown = shown_shares(convert(rows, "oklch", "srgb"))
    good = holds(shown)
    return np.asarray(shown[np.argmin(np.where(good, np.abs(lightness - oklch[0]), np.inf))]) if good.any() else None


def least_push(oklab: Floats, holds: Holds) -> Floats | None:
    """(3,) OKLab → (3,) sRGB at 8 bits of the nearest color in any direction at which it holds; None for none within ΔE 50.

    Parameters
    ----------
    oklab : Floats
        (3,) OKLab.
    holds : Holds
        Tells for (k, 3) sRGB whether what is wanted holds: (k,) bool.

    Returns
    -------
    Floats | None
        (3,) sRGB at 8 bits; None for none within ΔE 50.
    """
    for radii in np.array_split(RADII, SHELLS):
        rows = oklab + (radii[:, None, None] * BALL[None]).reshape(-1, 3)
        srgb = convert(rows, "oklab", "srgb")
        good = in_srgb_gamut(srgb)
        good[good] = holds(shown_shares(srgb[good]))
        if good.any():
            # Nearer shells were looked at first, and rows stand by their radius.
            return np.asarray(shown_shares(srgb[int(np.argmax(good))]))
    return None


def recolored(swatch: Swatch, srgb: Floats) -> RecolorSwatch:
    """The very color that was tried, so that what held then holds afterward; alpha stays.

    Parameters
    ----------
    swatch : Swatch
        Whose color changes.
    srgb : Floats
        (3,) sRGB 0..1.

    Returns
    -------
    RecolorSwatch
        The operation.
    """
    return RecolorSwatch(id=swatch.id, space="srgb", coords=[float(channel) for channel in srgb])


def way(subject: Subject, place: int, srgb: Floats) -> str:
    """“lighter” or “darker”, from a swatch to a color.

    Parameters
    ----------
    subject : Subject
        The palette with what it is compared with.
    place : int
        Of the swatch.
    srgb : Floats
        (3,) sRGB 0..1.

    Returns
    -------
    str
        “lighter” or “darker”.
    """
    return "lighter" if convert(srgb, "srgb", "oklab")[0] > subject.oklab[place, 0] else "darker"


def movable(subject: Subject, *places: int) -> list[int]:
    """Those of the swatches that may be changed, the least used first."""
    free = [place for place in places if not subject.swatches[place].locked]
    return sorted(free, key=lambda place: (subject.usage or {}).get(subject.swatches[place].id, 0))
