"""sRGB (IEC 61966-2-1) and linear-light sRGB."""

from huvren.core.color.matrices import LINEAR_SRGB_TO_XYZ_D65, XYZ_D65_TO_LINEAR_SRGB
from huvren.core.color.spaces.space import SPACES, Between, Channel, ColorSpace, Editing, matrix
from huvren.core.color.transfer import decode_srgb_array, encode_srgb_array

_CHANNELS = (Channel("red", 0, 1, means="red"), Channel("green", 0, 1, means="green"), Channel("blue", 0, 1, means="blue"))

SPACES.register(
    ColorSpace(
        "srgb-linear", "Linear sRGB", _CHANNELS, "D65", "xyz-d65",
        matrix(LINEAR_SRGB_TO_XYZ_D65), matrix(XYZ_D65_TO_LINEAR_SRGB), css="srgb-linear",
        gradient="srgb-linear", between=Between(5, "as lamps mix, quick out of the dark", "Linear light"),
    )
)  # fmt: skip
SPACES.register(
    ColorSpace(
        "srgb", "sRGB", _CHANNELS, "D65", "srgb-linear", decode_srgb_array, encode_srgb_array, css="srgb",
        gradient="srgb", between=Between(6, "as screens count, often muddy"),
        editing=Editing(
            1, (("Red", 255, 0), ("Green", 255, 0), ("Blue", 255, 0)),
            "rgb(calc({0} * 255) calc({1} * 255) calc({2} * 255))",
        ),
    )
)  # fmt: skip
