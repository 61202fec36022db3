"""Channel depth: colors that hardware with few levels a channel can show, such as 3-3-2 or 5-6-5 bits."""

from dataclasses import replace

import numpy as np

from huvren.core.color.arrays import Bytes
from huvren.core.reduction.choosers import CHOOSERS, Brief, Chooser, perceptual


def snap(rgb: Bytes, levels: tuple[int, int, int]) -> Bytes:
    """(k, 3) uint8 → each channel at the nearest of its evenly spread levels."""
    steps = np.array(levels) - 1
    return np.asarray(np.rint(np.rint(rgb / 255 * steps) / steps * 255), dtype=np.uint8)


def choose(brief: Brief) -> Bytes:
    """All that the picture needs of the lattice where they fit, else the chosen colors snapped to it."""
    needed = np.unique(snap(brief.histogram.rgb(), brief.depth), axis=0)
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
    Chooser("channel-depth", "channel depth", "Only colors that hardware of few bits a channel can show.", choose, needs="depth")
)
