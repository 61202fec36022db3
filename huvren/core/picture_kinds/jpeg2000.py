"""JPEG 2000 (ISO/IEC 15444-1), in its file format or as a bare code stream."""

from __future__ import annotations

from typing import TYPE_CHECKING

from huvren.core.picture_color import Encoding
from huvren.core.picture_kinds.boxes import inside
from huvren.core.picture_kinds.kind import PICTURE_KINDS, PictureKind, begins_with

if TYPE_CHECKING:
    from PIL import Image

HEADER = b"jp2h"
STREAM = b"\xff\x4f\xff\x51"
WITH_PROFILE = (2, 3)
"""The ways of a color box that hold an ICC profile: the restricted one, and any."""


def _depth(data: bytes) -> int:
    """Bits of the deepest channel, by the code stream's own header."""
    at = data.find(STREAM)
    count = int.from_bytes(data[at + 40 : at + 42])
    return max(((each & 0x7F) + 1 for each in data[at + 42 : at + 42 + 3 * count : 3]), default=8)


def _states(data: bytes, image: Image.Image) -> tuple[Encoding | None, str]:
    for begin, end in inside(data, (HEADER, b"colr")):
        if end > begin + 3 and data[begin] in WITH_PROFILE:
            image.info["icc_profile"] = data[begin + 3 : end]
            break
    return None, ""


def _mend(data: bytes, image: Image.Image) -> tuple[Image.Image, str]:
    depth = _depth(data)
    if depth > 8 and not image.mode.startswith("I"):
        return image, f"The upper 8 of {depth} bits a channel were taken."
    return image, ""


PICTURE_KINDS.register(
    PictureKind(
        "JPEG2000", "JPEG 2000", (".jp2", ".j2k", ".jpx", ".jpf", ".j2c"), "image/jp2",
        begins_with(STREAM, b"\0\0\0\x0cjP  \r\n\x87\n"), states=_states, mend=_mend, is_lossy=True, most_pixels=30_000_000,
    )
)  # fmt: skip
