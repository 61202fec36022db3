"""A screen turned warm for the evening, whose white is that of a lamp, so that blues lose most of their light."""

import numpy as np

from huvren.core.color.transfer import decode_srgb_array, encode_srgb_array
from huvren.core.lenses.lens import LENSES, Amount, Lens

FULLY_WARM = np.array([1.0, 0.57, 0.21])
"""Linear shares of the three primaries in a white of about 3400 K, the eye left as it was."""

LENSES.register(
    Lens(
        "evening", "a warm evening screen", "White turned to lamplight: blues darken, yellows vanish into white.", "screen",
        lambda srgb, warmth: encode_srgb_array(decode_srgb_array(srgb) * (1 + warmth / 100 * (FULLY_WARM - 1))),
        Amount("warmth", 0, 100, 60), is_estimate=True,
    )
)  # fmt: skip
