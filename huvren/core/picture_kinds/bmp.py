"""BMP: an uncompressed or run-length coded bitmap, of the headers from 12 to 124 bytes. The last may hold a profile."""

from __future__ import annotations

import struct
from typing import TYPE_CHECKING

from huvren.core.picture_color import Encoding
from huvren.core.picture_kinds.kind import PICTURE_KINDS, PictureKind

if TYPE_CHECKING:
    from PIL import Image

HEADERS = (12, 40, 52, 56, 64, 108, 124)
FILE_HEADER = 14
EMBEDDED, CALIBRATED = b"DEBM", b"\0\0\0\0"
"""How the colors are meant, in the order of their bytes."""


def _begins(data: bytes) -> bool:
    return data[:2] == b"BM" and len(data) >= 26 and struct.unpack_from("<I", data, FILE_HEADER)[0] in HEADERS


def _states(data: bytes, image: Image.Image) -> tuple[Encoding | None, str]:
    (header,) = struct.unpack_from("<I", data, FILE_HEADER)
    if header < 108 or len(data) < FILE_HEADER + header:
        return None, ""
    meant = data[FILE_HEADER + 56 : FILE_HEADER + 60]
    if meant == EMBEDDED and header == 124:
        offset, size = struct.unpack_from("<II", data, FILE_HEADER + 112)
        image.info["icc_profile"] = data[FILE_HEADER + offset : FILE_HEADER + offset + size]
    elif meant == CALIBRATED and any(data[FILE_HEADER + 60 : FILE_HEADER + 108]):
        return None, "It states primaries and gammas of its own, which are not read here; its colors were taken as sRGB."
    return None, ""


PICTURE_KINDS.register(PictureKind("BMP", "BMP", (".bmp", ".dib"), "image/bmp", _begins, states=_states))
