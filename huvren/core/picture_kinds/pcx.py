"""PCX: run-length coded rows, by color planes or with a table behind the pixels."""

from __future__ import annotations

from typing import TYPE_CHECKING

from huvren.core.picture_kinds.kind import PICTURE_KINDS, PictureKind

VERSIONS, DEPTHS = (0, 2, 3, 4, 5), (1, 2, 4, 8)
WITHOUT_TABLE = 3
SIXTEEN = [value for place in range(16) for value in (
    [170 * (place >> bit & 1) + 85 * (place >> 3) for bit in (2, 1, 0)] if place != 6 else (170, 85, 0)
)]  # fmt: skip

if TYPE_CHECKING:
    from PIL import Image
"""The 16 colors of color graphics adapters, which are meant where a file says that it has no table; 6 is brown."""


def _begins(data: bytes) -> bool:
    return len(data) > 128 and data[0] == 10 and data[1] in VERSIONS and data[2] == 1 and data[3] in DEPTHS


def _mend(data: bytes, image: Image.Image) -> tuple[Image.Image, str]:
    if image.mode != "P" or data[1] != WITHOUT_TABLE:
        return image, ""
    image.putpalette(SIXTEEN)
    return image, "It has no color table of its own; the usual 16 colors were taken."


PICTURE_KINDS.register(PictureKind("PCX", "PCX", (".pcx",), "image/x-pcx", _begins, mend=_mend))
