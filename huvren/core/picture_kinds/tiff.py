"""TIFF (revision 6.0, and its form of 64 bits) with 1 to 16 bits a channel: RGB, gray, indexed, CMYK and Lab."""

from __future__ import annotations

import io
from typing import TYPE_CHECKING

import numpy as np

from huvren.core.picture_kinds.kind import PICTURE_KINDS, PictureKind, begins_with, halves_by_layout

if TYPE_CHECKING:
    from PIL import Image

PHOTOMETRIC, BITS = 262, 258
WHITE_IS_ZERO = 0
LAYOUTS = {
    "RGB;16L": "RGB;16B", "RGB;16B": "RGB;16L", "RGB;16N": "RGB;16B",
    "RGBA;16L": "RGBA;16B", "RGBA;16B": "RGBA;16L", "RGBA;16N": "RGBA;16B",
}  # fmt: skip
"""What is compressed is decoded to the machine's own order of bytes: the lower one first, as on all that this runs on."""


def _opened(data: bytes) -> Image.Image:
    """The library knows gray of 16 bits whose zero is white with the lower byte first alone: it is told of the other."""
    from PIL import Image, TiffImagePlugin

    TiffImagePlugin.OPEN_INFO.setdefault((b"MM", WHITE_IS_ZERO, (1,), 1, (16,), ()), ("I;16B", "I;16B"))
    return Image.open(io.BytesIO(data), formats=("TIFF",))


def _bits(image: Image.Image) -> int:
    return int(max(image.tag_v2.get(BITS, (1,))))  # type: ignore[attr-defined]


def _refuses(image: Image.Image) -> str:
    if image.mode in ("F", "I"):
        return "its channels are signed, fractions or whole numbers of 32 bits. Save it with 8 or 16 bits a channel"
    if image.mode.startswith("I;16") and _bits(image) != 16:
        return f"its channels have {_bits(image)} bits. Save it with 8 or 16 bits a channel"
    return ""


def _more(image: Image.Image) -> str:
    # To count the pages would be to walk through all of them.
    return "It has further pages; the first one was taken." if getattr(image, "is_animated", False) else ""


def _mend(data: bytes, image: Image.Image) -> tuple[Image.Image, str]:
    from PIL import Image, ImageCms

    if image.mode.startswith("I;16") and image.tag_v2.get(PHOTOMETRIC) == WHITE_IS_ZERO:  # type: ignore[attr-defined]
        inverse = Image.fromarray(65_535 - np.asarray(image).astype(np.uint16))
        inverse.info = image.info
        return inverse, ""
    if image.mode == "LAB":
        image.info.pop("icc_profile", None)
        made = ImageCms.profileToProfile(image, ImageCms.createProfile("LAB"), ImageCms.createProfile("sRGB"), outputMode="RGB")
        assert made is not None
        return made, "Converted from CIE Lab to sRGB."
    if _bits(image) == 16 and image.mode in ("RGBA", "CMYK", "RGB"):
        # Only where its lower halves were not read: see `read_picture`.
        return image, "The upper 8 of 16 bits a channel were taken."
    return image, ""


PICTURE_KINDS.register(
    PictureKind(
        "TIFF", "TIFF", (".tif", ".tiff"), "image/tiff", begins_with(b"II*\0", b"MM\0*", b"II+\0", b"MM\0+"), open=_opened,
        refuses=_refuses, more=_more, low_halves=halves_by_layout("TIFF", LAYOUTS), mend=_mend, is_turned=True,
    )
)  # fmt: skip
