"""Ink on paper, plainly: paper is no pure white, full ink no pure black, and dots grow as they are printed.

An estimate without any printer's profile: Murray and Davies 1936 for the tone of each channel, with a dot gain that is highest at
the half tone and falls to nothing at both ends as a parabola.
"""

import numpy as np

from huvren.core.color.arrays import Floats
from huvren.core.color.transfer import decode_srgb_array, encode_srgb_array
from huvren.core.lenses.lens import LENSES, Amount, Lens

PAPER = np.array([0.86, 0.83, 0.76])
"""What the paper throws back of each linear channel."""
FULL_INK = np.array([0.028, 0.026, 0.030])


def _see(srgb: Floats, gain: float) -> Floats:
    covered = 1 - decode_srgb_array(srgb)
    printed = np.clip(covered + 4 * gain / 100 * covered * (1 - covered), 0, 1)
    return encode_srgb_array(PAPER * (1 - printed) + FULL_INK * printed)


LENSES.register(
    Lens(
        "ink-on-paper",
        "ink on paper (an estimate)",
        "Paper white, full ink and dots that grow; no printer's profile.",
        "paper",
        _see,
        Amount("dot gain at the half tone", 0, 30, 15),
        is_estimate=True,
    )
)
