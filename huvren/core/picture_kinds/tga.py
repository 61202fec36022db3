"""TGA: no mark stands at its beginning, so its header is taken for one only where every field of it makes sense."""

from __future__ import annotations

import struct
from typing import TYPE_CHECKING

from huvren.core.picture_kinds.kind import PICTURE_KINDS, PictureKind

if TYPE_CHECKING:
    from PIL import Image

HEADER = 18
DEPTHS = {1: (8,), 2: (16, 24, 32), 3: (8, 16), 9: (8,), 10: (16, 24, 32), 11: (8, 16)}
"""Bits of a pixel by the kind of picture: table, color, gray; from 9 on run-length coded."""
ENTRIES = (15, 16, 24, 32)
LONGEST_RUN = 128


def _begins(data: bytes) -> bool:
    if len(data) <= HEADER:
        return False
    said, has_table, kind, _, entries, entry, _, _, width, height, depth, flags = struct.unpack_from("<BBBHHBHHHHBB", data)
    if has_table not in (0, 1) or depth not in DEPTHS.get(kind, ()) or not (width and height) or flags & 0xC0:
        return False
    if (kind & 7 == 1) != (has_table == 1) or (has_table and (entry not in ENTRIES or not 0 < entries <= 256)):
        return False
    pixels, size = width * height, depth // 8
    least = pixels * size if kind < 9 else -(-pixels // LONGEST_RUN) * (size + 1)
    return bool(len(data) >= HEADER + said + (entries * ((entry + 7) // 8) if has_table else 0) + least)


def _mend(data: bytes, image: Image.Image) -> tuple[Image.Image, str]:
    depth, bits = data[16], data[17] & 15
    if image.mode == "RGBA" and (bits == 0 or depth == 16):
        # Bits of a pixel that are no alpha.
        return image.convert("RGB"), "" if bits == 0 else "One bit of each pixel is for overlays and was left out."
    return image, ""


PICTURE_KINDS.register(PictureKind("TGA", "TGA", (".tga",), "image/x-tga", _begins, mend=_mend))
