"""A screen with 4-4-4 bits a channel: each channel at its nearest step."""

import numpy as np

from huvren.core.lenses.lens import LENSES, Lens

STEPS = np.array((15, 15, 15))

LENSES.register(
    Lens(
        "444", "4-4-4 bits a channel", "Each channel at the nearest step such a screen has.", "screen",
        lambda srgb, _: np.floor(srgb * STEPS + 0.5) / STEPS,
    )
)  # fmt: skip
