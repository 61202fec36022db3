"""A screen with 5-6-5 bits a channel: each channel at its nearest step."""

import numpy as np

from huvren.core.lenses.lens import LENSES, Lens

STEPS = np.array((31, 63, 31))

LENSES.register(
    Lens(
        "565", "5-6-5 bits a channel", "Each channel at the nearest step such a screen has.", "screen",
        lambda srgb, _: np.floor(srgb * STEPS + 0.5) / STEPS,
    )
)  # fmt: skip
