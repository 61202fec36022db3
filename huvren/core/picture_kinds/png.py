"""PNG (PNG, third edition): the upper halves of 16 bits are the library's, the lower ones and what it states of colors ours."""

from __future__ import annotations

import io
from typing import TYPE_CHECKING

from huvren.core.picture_color import Encoding, encoding_of_png
from huvren.core.picture_kinds.kind import PICTURE_KINDS, PictureKind, begins_with, halves_by_layout


def _states(data: bytes, image: Image.Image) -> tuple[Encoding | None, str]:
    return encoding_of_png(data)


_of_colors = halves_by_layout("PNG", {"RGB;16B": "RGB;16L", "RGBA;16B": "RGBA;16L"})


def _low_halves(data: bytes, image: Image.Image) -> Image.Image | None:
    from PIL import Image
    from PIL.ImageFile import ImageFile

    if isinstance(image, ImageFile) and image.tile and image.tile[0].args == "LA;16B":
        # No layout takes the lower halves of gray with alpha: all four bytes of a pixel are read as bands.
        whole = Image.open(io.BytesIO(data), formats=("PNG",))
        whole.tile = [tile._replace(args="RGBA") for tile in whole.tile]
        _, gray, _, alpha = whole.split()
        return Image.merge("RGBA", (gray, gray, gray, alpha))
    return _of_colors(data, image)


PICTURE_KINDS.register(
    PictureKind(
        "PNG", "PNG", (".png",), "image/png", begins_with(b"\x89PNG\r\n\x1a\n"), is_shown=True, states=_states, low_halves=_low_halves
    )
)  # fmt: skip

if TYPE_CHECKING:
    from PIL import Image
