"""Channel depth: colors that hardware with few levels a channel can show, such as 3-3-2 or 5-6-5 bits."""

from dataclasses import replace

import numpy as np

from huvren.core.color.arrays import Bytes
from huvren.core.reduction.choosers import perceptual
from huvren.core.reduction.choosers.chooser import CHOOSERS, Brief, Chooser


def snap(rgb: Bytes, levels: tuple[int, int, int]) -> Bytes:
    """(k, 3) uint8 → each channel at the nearest of its evenly spread levels.

    Parameters
    ----------
    rgb : Bytes
        (k, 3) uint8 sRGB.
    levels : tuple[int, int, int]
        Of red, green and blue.

    Returns
    -------
    Bytes
        Each channel at the nearest of its evenly spread levels.
    """
    snapped = np.empty_like(rgb)
    for channel, count in enumerate(levels):
        of_byte = np.rint(np.rint(np.arange(256) / 255 * (count - 1)) / (count - 1) * 255).astype(np.uint8)
        snapped[:, channel] = of_byte[rgb[:, channel]]
    return snapped


def distinct(rgb: Bytes) -> Bytes:
    """(n, 3) uint8 → its distinct rows in rising order of red, green, blue.

    Parameters
    ----------
    rgb : Bytes
        (k, 3) uint8 sRGB.

    Returns
    -------
    Bytes
        Its distinct rows in rising order of red, green, blue.
    """
    keys = np.unique(rgb.astype(np.uint32) @ np.array([1 << 16, 1 << 8, 1], dtype=np.uint32))
    return np.stack([keys >> 16, (keys >> 8) & 255, keys & 255], axis=-1).astype(np.uint8)


def choose(brief: Brief) -> Bytes:
    """All that the picture needs of the lattice where they fit, else the chosen colors snapped to it.

    Parameters
    ----------
    brief : Brief
        What is asked for: points, weights, count and what is present.

    Returns
    -------
    Bytes
        (k, 3) uint8, besides those present.
    """
    needed = distinct(snap(brief.histogram.rgb(), brief.depth))
    if len(needed) <= brief.count:
        return needed
    wanted = brief.count
    best = np.empty((0, 3), dtype=np.uint8)
    # Several chosen colors may fall on one place of the lattice: ask for more until enough stay apart.
    for ask in (wanted, wanted * 3 // 2, wanted * 2, wanted * 3):
        chosen = snap(perceptual.choose(replace(brief, count=min(ask, 256))), brief.depth)
        _, first = np.unique(chosen, axis=0, return_index=True)
        best = chosen[np.sort(first)]
        if len(best) >= wanted:
            break
    return best[:wanted]


CHOOSERS.register(
    Chooser(
        "channel-depth",
        "channel depth",
        "Only colors that hardware of few bits a channel can show.",
        choose,
        needs="depth",
        tunes="on-grid",
    )
)
