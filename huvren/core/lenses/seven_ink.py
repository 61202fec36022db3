"""A paper display with seven inks of an invented set: every color becomes the nearest of them."""

import numpy as np

from huvren.core.color.arrays import Floats
from huvren.core.color.spaces import convert
from huvren.core.lenses.lens import LENSES, Lens

INKS = np.array([
    (38, 36, 44), (214, 214, 206), (46, 110, 74), (52, 66, 134), (156, 58, 50), (214, 190, 70), (190, 112, 56),
]) / 255  # fmt: skip
"""Black, paper, green, blue, red, yellow and orange, as dull as such displays are."""
IDEAL = np.array([(0, 0, 0), (1, 1, 1), (0, 0.6, 0.3), (0.1, 0.2, 0.8), (0.85, 0.1, 0.1), (1, 0.9, 0), (1, 0.5, 0)])
"""What each ink stands for: a color goes to the ink whose ideal it is nearest to."""


def _see(srgb: Floats, _: float) -> Floats:
    here, ideal = convert(srgb, "srgb", "oklab"), convert(IDEAL, "srgb", "oklab")
    nearest = np.linalg.norm(here[:, None] - ideal[None], axis=2).argmin(axis=1)
    return np.asarray(INKS[nearest])


LENSES.register(
    Lens(
        "seven-ink",
        "a seven-ink paper display",
        "Every color becomes the nearest of seven dull inks.",
        "paper",
        _see,
        is_estimate=True,
    )
)
