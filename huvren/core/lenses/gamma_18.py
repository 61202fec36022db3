"""A display of gamma 1.8 that is sent sRGB as it is."""

from huvren.core.color.transfer import encode_srgb_array
from huvren.core.lenses.lens import LENSES, Lens

LENSES.register(
    Lens(
        "gamma-1.8",
        "display gamma 1.8",
        "A screen of gamma 1.8 without color management: everything lighter.",
        "screen",
        lambda srgb, _: encode_srgb_array(srgb**1.8),
    )
)
