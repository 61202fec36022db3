"""Forms of our own to try light on: a folded sheet, a bell, a stem with leaves, a moth's wing. Heights, from which light follows."""

from functools import cache

import numpy as np

from huvren.core.color.arrays import Flags, Floats

SIZE = 132
AMBIENT, LIGHT_UP = 0.16, 0.55
"""Light that comes from everywhere, and how high the lamp stands over the sheet."""


def _grid() -> tuple[Floats, Floats]:
    """(y, x) from −1 to 1, y downward."""
    y, x = np.mgrid[-1 : 1 : SIZE * 1j, -1 : 1 : SIZE * 1j]
    return y, x


def _folded_sheet() -> tuple[Floats, Flags]:
    y, x = _grid()
    slant = x + 0.18 * y
    # Three soft folds, the last one pressed nearly flat.
    height = 0.17 * np.cos(slant * 6.2) * (1 - 0.45 * np.clip(slant, 0, 1)) + 0.12 * y * slant
    inside = (np.abs(y + 0.10 * x) < 0.74) & (np.abs(x - 0.06 * y) < 0.90)
    return height, inside


def _bell() -> tuple[Floats, Flags]:
    y, x = _grid()
    flare = 0.30 + 0.16 * (y + 0.8) + 0.34 * np.clip((y - 0.05) / 0.7, 0, 1) ** 2.6
    shoulder = np.sqrt(np.clip((y + 0.78) / 0.34, 0, 1))
    half = flare * np.where(y < -0.44, shoulder, 1)
    inside = (np.abs(x) < half) & (y > -0.78) & (y < 0.72)
    clapper = x**2 + (y - 0.78) ** 2 < 0.012
    round_ = np.sqrt(np.clip(half**2 - x**2, 0, None))
    return np.where(clapper, np.sqrt(np.clip(0.012 - x**2 - (y - 0.78) ** 2, 0, None)), round_), inside | clapper


def _stem() -> tuple[Floats, Flags]:
    y, x = _grid()
    middle = 0.12 * np.sin(y * 2.2)
    height, inside = np.sqrt(np.clip(0.0042 - (x - middle) ** 2, 0, None)), np.abs(x - middle) < 0.062
    for at, side, lean in ((-0.45, 1, -0.5), (-0.12, -1, -0.35), (0.25, 1, -0.15)):
        foot = 0.12 * np.sin(at * 2.2)
        along = side * (x - foot) * np.cos(lean) + (y - at) * np.sin(lean)
        across = -side * (x - foot) * np.sin(lean) + (y - at) * np.cos(lean)
        share = np.clip(along / 0.72, 0, 1)
        width = 0.24 * np.sin(np.pi * share) ** 0.8 * (1 - 0.35 * share)
        leaf = (along > 0) & (along < 0.72) & (np.abs(across) < width)
        rise = 0.16 * np.sin(np.pi * share) + 0.22 * np.abs(across) * np.where(across > 0, 1, 0.5)
        height, inside = np.where(leaf, rise, height), inside | leaf
    return height, inside


def _wing() -> tuple[Floats, Flags]:
    y, x = _grid()
    turn, far = np.arctan2(y + 0.62, x + 0.82), np.hypot(y + 0.62, x + 0.82)
    reach = 1.72 - 0.50 * np.clip((turn - 0.25) / 1.1, 0, 1) ** 1.5 + 0.045 * np.sin(turn * 17)
    inside = (far < reach) & (turn > 0.02) & (turn < 1.42)
    veins = 0.055 * np.cos(turn * 19) * np.clip(far, 0, 1)
    return 0.34 * np.sin(np.clip(far / 1.7, 0, 1) * np.pi * 0.8) + veins, inside


FORMS = {"sheet": _folded_sheet, "bell": _bell, "stem": _stem, "wing": _wing}


@cache
def normals(form: str) -> tuple[Floats, Flags]:
    """(SIZE, SIZE, 3) unit normals of a form, and (SIZE, SIZE) where it is.

    Parameters
    ----------
    form : str
        One of `FORMS`.

    Returns
    -------
    tuple[Floats, Flags]
        (SIZE, SIZE, 3) unit normals and (SIZE, SIZE) bool.
    """
    height, inside = FORMS[form]()
    down, across = np.gradient(height, 2 / (SIZE - 1))
    upright = np.stack([-across, -down, np.ones_like(height)], axis=-1)
    return upright / np.linalg.norm(upright, axis=-1, keepdims=True), inside


def lit(form: str, degrees: float) -> tuple[Floats, Flags]:
    """(SIZE, SIZE) light 0..1 on a form, by Lambert's cosine, and where it is. degrees : where the lamp stands, 0 right, 90 above.

    Parameters
    ----------
    form : str
        One of `FORMS`.
    degrees : float
        Where the lamp stands: 0 right, 90 above.

    Returns
    -------
    tuple[Floats, Flags]
        (SIZE, SIZE) light and (SIZE, SIZE) bool.
    """
    upright, inside = normals(form)
    turn = np.radians(degrees)
    lamp = np.array([np.cos(turn), -np.sin(turn), LIGHT_UP])
    cosine = np.clip(upright @ (lamp / np.linalg.norm(lamp)), 0, 1)
    return np.asarray(AMBIENT + (1 - AMBIENT) * cosine), inside
