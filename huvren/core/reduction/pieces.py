"""A piece of a picture that shows what a setting does: where light changes softly, since that is where dithers differ."""

import numpy as np

from huvren.core.color.arrays import Bytes
from huvren.core.reduction.histogram import oklab_of_rgb

WIDTH, HEIGHT = 60, 36
CELL = 4
STRIDE = 3
"""Cells that a piece is moved on by."""
QUIET = 0.01
"""Change from pixel to pixel, in OKLab, below which a piece counts as quite smooth."""


def telling_piece(rgba: Bytes, alpha_threshold: int = 128) -> tuple[slice, slice]:
    """Rows and columns of the (h, w, 4) uint8 picture with much change from cell to cell and little within: at most `WIDTH` ×
    `HEIGHT`.

    Clear pixels speak against a piece.

    Parameters
    ----------
    rgba : Bytes
        (h, w, 4) uint8.
    alpha_threshold : int
        Alpha below it counts as clear, 0..255.

    Returns
    -------
    tuple[slice, slice]
        Rows and columns.
    """
    height, width = rgba.shape[:2]
    high, wide = min(HEIGHT, height), min(WIDTH, width)
    rows, columns = height // CELL, width // CELL
    down, across = high // CELL, wide // CELL
    if down < 2 or across < 2:
        return slice(0, high), slice(0, wide)
    inner = rgba[: rows * CELL, : columns * CELL]
    oklab = oklab_of_rgb(inner[..., :3].reshape(-1, 3)).reshape(rows, CELL, columns, CELL, 3)
    means = oklab.mean(axis=(1, 3))
    rough = np.linalg.norm(oklab - means[:, None, :, None], axis=-1).mean(axis=(1, 3))
    clear = (inner[..., 3] < alpha_threshold).reshape(rows, CELL, columns, CELL).mean(axis=(1, 3))
    best, found = -1.0, (0, 0)
    for top in range(0, rows - down + 1, STRIDE):
        for left in range(0, columns - across + 1, STRIDE):
            part = slice(top, top + down), slice(left, left + across)
            spread = float(np.linalg.norm(means[part].reshape(-1, 3).std(axis=0)))
            score = spread / (QUIET + float(rough[part].mean())) * (1 - float(clear[part].mean()))
            if score > best:
                best, found = score, (top * CELL, left * CELL)
    return slice(found[0], found[0] + high), slice(found[1], found[1] + wide)
