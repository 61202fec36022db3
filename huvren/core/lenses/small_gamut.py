"""A panel of pale primaries, as cheap laptops and old projectors have: strong colors come out washed."""

import numpy as np

from huvren.core.color.transfer import decode_srgb_array, encode_srgb_array
from huvren.core.lenses.lens import LENSES, Lens

TO_PANEL = np.array([[0.76, 0.19, 0.05], [0.10, 0.82, 0.08], [0.04, 0.14, 0.82]])
"""What the panel's primaries give for sent linear sRGB, as linear sRGB: about half of its area in CIE 1931 x, y. White stays."""

LENSES.register(
    Lens(
        "small-gamut", "a small-gamut panel", "Pale primaries: strong colors come out washed.", "screen",
        lambda srgb, _: encode_srgb_array(decode_srgb_array(srgb) @ TO_PANEL.T), is_estimate=True,
    )
)  # fmt: skip
