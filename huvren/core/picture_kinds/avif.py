"""AVIF (AV1 Image File Format): of its `nclx` colors those are read that no embedded profile stands for."""

from __future__ import annotations

import struct
from typing import TYPE_CHECKING

from huvren.core.picture_color import Encoding, encoding_by_numbers
from huvren.core.picture_kinds.boxes import boxes, inside
from huvren.core.picture_kinds.kind import PICTURE_KINDS, PictureKind

if TYPE_CHECKING:
    from PIL import Image

BRANDS = (b"avif", b"avis")
COLORS = (b"meta", b"iprp", b"ipco", b"colr")
UNSAID = 2
"""The number by which ITU-T H.273 says that nothing is said."""


def _begins(data: bytes) -> bool:
    first = next(boxes(data[:4096]), None)
    if first is None or first[0] != b"ftyp":
        return False
    _, begin, end = first
    brands = [data[at : at + 4] for at in (begin, *range(begin + 8, end, 4))]
    return any(brand in BRANDS for brand in brands)


def _states(data: bytes, image: Image.Image) -> tuple[Encoding | None, str]:
    if image.info.get("icc_profile"):
        return None, ""
    for begin, end in inside(data, COLORS, {b"meta": 4}):
        if data[begin : begin + 4] == b"nclx" and end - begin >= 11:
            primaries, transfer = struct.unpack_from(">HH", data, begin + 4)
            # The decoder has made full-range RGB of them.
            return encoding_by_numbers(1 if primaries == UNSAID else primaries, 13 if transfer == UNSAID else transfer)
    return None, ""


PICTURE_KINDS.register(
    PictureKind("AVIF", "AVIF", (".avif",), "image/avif", _begins, is_lossy=True, states=_states, most_pixels=50_000_000)
)
