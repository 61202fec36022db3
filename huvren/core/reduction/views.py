"""Pictures of a picture: where the result differs, and how light everything is."""

from functools import cache

import numpy as np

from huvren.core.color.arrays import Bytes, Floats
from huvren.core.color.convert import oklab_to_srgb
from huvren.core.color.difference import DELTA_SCALE
from huvren.core.color.eight_bits import to_eight_bits
from huvren.core.reduction.afar import gaps_from_afar
from huvren.core.reduction.histogram import oklab_of_rgb

WHITE_AT = 20.0
"""ΔEOK×100 that an error map shows as white; larger differences are white too."""
ROWS_AT_ONCE = 256


AFAR_WHITE_AT = 5.0
"""ΔEOK×100 that a map of what is seen from afar shows as white: it is looked at more closely than single pixels are."""


def afar_map(rgba: Bytes, indices: Bytes, rgb: Bytes, alpha_threshold: int, sigma: float) -> Bytes:
    """(h, w) uint8: the difference seen from afar, black for none, white from ΔE 5 on; see `gaps_from_afar`.

    Parameters
    ----------
    rgba : Bytes
        (h, w, 4) uint8.
    indices : Bytes
        (h, w) uint8 index map.
    rgb : Bytes
        (k, 3) uint8 sRGB.
    alpha_threshold : int
        Alpha below it counts as clear, 0..255.
    sigma : float
        Of the blur, in pixels.

    Returns
    -------
    Bytes
        (h, w) uint8.
    """
    gaps = gaps_from_afar(rgba, indices, rgb, alpha_threshold, sigma)
    return to_eight_bits(gaps * (DELTA_SCALE / AFAR_WHITE_AT))


def error_map(rgba: Bytes, indices: Bytes, oklab: Floats, transparent: int) -> Bytes:
    """(h, w) uint8: the difference of each pixel from its palette color, black for none, white from ΔE 20 on.

    Clear pixels are black.

    Parameters
    ----------
    rgba : Bytes
        (h, w, 4) uint8.
    indices : Bytes
        (h, w) uint8 index map.
    oklab : Floats
        (k, 3) OKLab of the palette.
    transparent : int
        The index of clear pixels, or −1.

    Returns
    -------
    Bytes
        (h, w) uint8.
    """
    table = np.zeros((256, 3), dtype=np.float32)
    table[: len(oklab)] = oklab
    result = np.empty(indices.shape, dtype=np.uint8)
    for start in range(0, len(indices), ROWS_AT_ONCE):
        rows = slice(start, start + ROWS_AT_ONCE)
        own = oklab_of_rgb(rgba[rows, :, :3].reshape(-1, 3)).reshape(*indices[rows].shape, 3)
        delta = np.linalg.norm(own - table[indices[rows]], axis=-1) * DELTA_SCALE
        delta[indices[rows] == transparent] = 0
        result[rows] = to_eight_bits(delta / WHITE_AT)
    return result


TILE_WHITE_AT = 5.0
"""Mean ΔEOK×100 of a tile that its map shows as white."""


def tile_map(losses: Floats) -> Bytes:
    """(rows, columns) mean ΔEOK×100 that a limit cost each tile → uint8, black for none, white from ΔE 5 on.

    A tile that lost anything at all is never black.

    Parameters
    ----------
    losses : Floats
        (rows, columns) mean ΔEOK×100 that a limit cost each tile.

    Returns
    -------
    Bytes
        Uint8, black for none, white from ΔE 5 on.
    """
    shades = to_eight_bits(losses / TILE_WHITE_AT)
    return np.where(losses > 0, np.maximum(shades, 64), 0).astype(np.uint8)


def gray_levels(lightness: Floats) -> Bytes:
    """OKLab L 0..1 → 8-bit sRGB gray of that lightness.

    Parameters
    ----------
    lightness : Floats
        (n,) OKLab lightness 0..1.

    Returns
    -------
    Bytes
        8-bit sRGB gray of that lightness.
    """
    lightness = np.clip(lightness, 0, 1)
    neutral = np.zeros((*lightness.shape, 3))
    neutral[..., 0] = lightness
    return to_eight_bits(oklab_to_srgb(neutral)[..., 0])


@cache
def _levels() -> Bytes:
    """(4096,) gray levels of even steps of lightness. Made when first asked for: a process that runs kernels cannot be copied."""
    return gray_levels(np.linspace(0, 1, 4096))


def in_gray(rgba: Bytes) -> Bytes:
    """(h, w, 4) uint8 → (h, w, 4) uint8 in which each color is the gray of its OKLab lightness; alpha stays.

    Parameters
    ----------
    rgba : Bytes
        (h, w, 4) uint8.

    Returns
    -------
    Bytes
        (h, w, 4) uint8 in which each color is the gray of its OKLab lightness; alpha stays.
    """
    result = rgba.copy()
    for start in range(0, len(rgba), ROWS_AT_ONCE):
        rows = slice(start, start + ROWS_AT_ONCE)
        lightness = oklab_of_rgb(rgba[rows, :, :3].reshape(-1, 3))[:, 0]
        gray = _levels()[np.rint(np.clip(lightness, 0, 1) * 4095).astype(np.int64)]
        result[rows, :, :3] = gray.reshape(*rgba[rows].shape[:2], 1)
    return result
