"""Clustered dot: thresholds that grow round dots at 45°, as printing screens do."""

import numpy as np

from huvren.core.color.arrays import Integers
from huvren.core.reduction.dithers.dither import DITHERS, Dither
from huvren.core.reduction.dithers.ordered import lay_out_with

SIZE = 8


def dots(size: int = SIZE) -> Integers:
    """(size, size) ranks of a screen with two dots a tile: the order of cos x + cos y, ties from the middle outward.

    Parameters
    ----------
    size : int
        Side of the tile, even.

    Returns
    -------
    Integers
        (size, size) ranks of a screen with two dots a tile.
    """
    turn = 2 * np.pi * (np.arange(size) + 0.5) / size
    spot = np.cos(turn)[:, None] * np.cos(turn)[None] + 1e-6 * np.cos(turn)[:, None] + 1e-7 * np.cos(turn)[None]
    ranks = np.empty(size * size, dtype=np.int64)
    ranks[np.argsort(-spot, axis=None, kind="stable")] = np.arange(size * size)
    return ranks.reshape(size, size)


DITHERS.register(
    Dither(
        "clustered-dot", "clustered dot", "Round dots that grow, as in print; coarse, and safe on paper.", True,
        lambda target: lay_out_with(target, dots()), is_mixing=True, matrix=dots,
    )
)  # fmt: skip
