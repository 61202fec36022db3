"""A bright room: light from outside lies over the screen as a veil."""

from huvren.core.color.transfer import decode_srgb_array, encode_srgb_array
from huvren.core.lenses.lens import LENSES, Amount, Lens

LENSES.register(
    Lens(
        "glare", "a bright room", "The room's light lies over the screen; darks come up and run together.", "screen",
        lambda srgb, veil: encode_srgb_array((decode_srgb_array(srgb) + veil / 100) / (1 + veil / 100)), Amount("veil", 1, 10, 4),
    )
)  # fmt: skip
