"""Gamut mapping into sRGB: chroma reduction in OKLCh with local clip (CSS Color 4 §13.2), and plain clip."""

import numpy as np
from numpy.typing import ArrayLike

from huvren.core.color.arrays import Flags, Floats
from huvren.core.color.gamut_rule import CHROMA_STEP, IN_GAMUT_SLACK, JUST_NOTICEABLE
from huvren.core.color.spaces import convert
from huvren.core.color.transfer import FEW, kernels_for


def in_srgb_gamut(srgb: Floats) -> Flags:
    """(..., 3) sRGB → (...) bool, true where every channel lies in 0..1 within the rounding of a conversion.

    Parameters
    ----------
    srgb : Floats
        (..., 3) sRGB 0..1.

    Returns
    -------
    Flags
        (...) bool.
    """
    return np.asarray(((srgb >= -IN_GAMUT_SLACK) & (srgb <= 1 + IN_GAMUT_SLACK)).all(axis=-1))


def clip_to_srgb(srgb: Floats) -> Floats:
    """(..., 3) sRGB → each channel limited to 0..1.

    Changes hue; offered as “plain clip”.

    Parameters
    ----------
    srgb : Floats
        (..., 3) sRGB 0..1.

    Returns
    -------
    Floats
        (..., 3) 0..1.
    """
    return np.clip(srgb, 0.0, 1.0)


FEW_ROWS = 4096
"""Up to here all rows are reduced together in NumPy, unless the kernels are loaded anyway."""


def _clipped(oklch: Floats) -> tuple[Flags, Floats, Floats]:
    """(n, 3) OKLCh → (n,) whether displayable, (n, 3) clipped sRGB, (n,) how far the clip is away in OKLab."""
    oklab = convert(oklch, "oklch", "oklab")
    srgb = convert(oklab, "oklab", "srgb")
    clipped = clip_to_srgb(srgb)
    return in_srgb_gamut(srgb), clipped, np.linalg.norm(convert(clipped, "srgb", "oklab") - oklab, axis=1)


def _reduce_chroma(oklch: Floats) -> Floats:
    """What `kernels.oklch_rows_into_gamut` does, for all rows at once: (n, 3) OKLCh → (n, 3) sRGB within 0..1."""
    inside, srgb, distance = _clipped(oklch)
    low, high = np.zeros(len(oklch)), oklch[:, 1].copy()
    low_inside = np.ones(len(oklch), dtype=bool)
    searching = ~inside & (distance >= JUST_NOTICEABLE)
    while (rows := np.flatnonzero(searching & (high - low > CHROMA_STEP))).size:
        middle = (low[rows] + high[rows]) / 2
        tried = oklch[rows]
        tried[:, 1] = middle
        inside, srgb[rows], distance = _clipped(tried)
        simply = low_inside[rows] & inside
        near = ~simply & (distance < JUST_NOTICEABLE)
        enough = near & (JUST_NOTICEABLE - distance < CHROMA_STEP)
        searching[rows[enough]] = False
        low_inside[rows[near & ~enough]] = False
        low[rows] = np.where(simply | (near & ~enough), middle, low[rows])
        high[rows] = np.where(simply | near, high[rows], middle)
    srgb[oklch[:, 0] >= 1] = 1.0
    srgb[oklch[:, 0] <= 0] = 0.0
    return srgb


def map_to_srgb(oklch: ArrayLike) -> Floats:
    """(..., 3) OKLCh → (..., 3) sRGB inside 0..1, hue and lightness held, chroma reduced as far as needed.

    Parameters
    ----------
    oklch : ArrayLike
        (..., 3) OKLCh, hue in degrees.

    Returns
    -------
    Floats
        (..., 3) sRGB inside 0..1, hue and lightness held, chroma reduced as far as needed.
    """
    array = np.ascontiguousarray(oklch, dtype=np.float64)
    rows = array.reshape(-1, 3)
    if kernels := kernels_for(0 if len(rows) <= FEW_ROWS else array.size + FEW):
        srgb: Floats = np.empty_like(rows)
        kernels.oklch_rows_into_gamut(rows, srgb)
    else:
        srgb = _reduce_chroma(rows)
    return srgb.reshape(array.shape)


def displayed(coords: ArrayLike, space: str) -> tuple[Floats, Flags]:
    """(n, c) coordinates in `space` → (n, 3) sRGB 0..1 as shown, and (n,) bool, true where no mapping was needed.

    Parameters
    ----------
    coords : ArrayLike
        (n, channels) coordinates in `space`.
    space : str
        Id of a space.

    Returns
    -------
    tuple[Floats, Flags]
        (n, 3) sRGB 0..1 as shown, and (n,) bool, true where no mapping was needed.
    """
    srgb = convert(coords, space, "srgb")
    inside = in_srgb_gamut(srgb)
    outside = ~inside
    if outside.any():
        srgb[outside] = map_to_srgb(convert(np.asarray(coords, dtype=np.float64)[outside], space, "oklch"))
    return clip_to_srgb(srgb), inside


HALVINGS = 24


def within_srgb(oklch: Floats) -> Floats:
    """(n, 3) OKLCh → the same with as much of its chroma as sRGB shows at that very lightness and hue, nothing clipped.

    Unlike `map_to_srgb` it gives up what a just noticeable clip could keep; lightness and hue stay exact.

    Parameters
    ----------
    oklch : Floats
        (n, 3) OKLCh, hue in degrees.

    Returns
    -------
    Floats
        (n, 3) OKLCh.
    """
    rows = np.array(oklch, dtype=np.float64).reshape(-1, 3)
    rows[:, 0] = np.clip(rows[:, 0], 0, 1)
    wanted, low, high = rows[:, 1].copy(), np.zeros(len(rows)), rows[:, 1].copy()
    inside = in_srgb_gamut(convert(rows, "oklch", "srgb"))
    for _ in range(HALVINGS):
        rows[:, 1] = (low + high) / 2
        held = in_srgb_gamut(convert(rows, "oklch", "srgb"))
        low, high = np.where(held, rows[:, 1], low), np.where(held, high, rows[:, 1])
    rows[:, 1] = np.where(inside, wanted, low)
    return rows
