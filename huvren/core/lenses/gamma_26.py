"""A display of gamma 2.6 that is sent sRGB as it is."""

from huvren.core.color.transfer import encode_srgb_array
from huvren.core.lenses.lens import LENSES, Lens

LENSES.register(
    Lens(
        "gamma-2.6",
        "display gamma 2.6",
        "A screen of gamma 2.6 without color management: everything darker.",
        "screen",
        lambda srgb, _: encode_srgb_array(srgb**2.6),
    )
)
