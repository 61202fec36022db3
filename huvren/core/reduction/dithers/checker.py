"""Checker: a color is shown as it is, or as two palette colors in a checkerboard, whichever is nearer."""

import numpy as np

from huvren.core.reduction.dithers.dither import DITHERS, Dither
from huvren.core.reduction.dithers.ordered import lay_out_with

BOARD = np.array([[0, 2], [3, 1]])
"""Half of the places lie below one half, in a checkerboard."""

DITHERS.register(
    Dither(
        "checker", "checker", "One-to-one mixtures only: doubles the tones of a short palette and stays clean.", False,
        lambda target: lay_out_with(target, BOARD, halves=True), is_mixing=True, matrix=lambda: BOARD,
    )
)  # fmt: skip
