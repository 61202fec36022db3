"""A paper display with sixteen grays, evenly spaced in lightness between its paper and its black."""

import numpy as np

from huvren.core.color.arrays import Floats
from huvren.core.color.spaces import convert
from huvren.core.lenses.lens import LENSES, Lens

BLACK, PAPER, GRAYS = 0.30, 0.86, 16
"""OKLab lightness of the display's black and of its paper, and how many grays it has."""


def _see(srgb: Floats, _: float) -> Floats:
    lightness = np.clip(convert(srgb, "srgb", "oklab")[:, 0], 0, 1)
    shown = BLACK + np.floor(lightness * (GRAYS - 1) + 0.5) / (GRAYS - 1) * (PAPER - BLACK)
    return convert(np.column_stack([shown, np.zeros((len(shown), 2))]), "oklab", "srgb")


LENSES.register(Lens("sixteen-gray", "a sixteen-gray paper display", "Sixteen grays on gray paper.", "paper", _see, is_estimate=True))
