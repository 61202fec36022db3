"""ICO: a list of icons, each a PNG or a bitmap with a mask. The largest is taken, by the size that its own header says."""

from __future__ import annotations

import io
import struct
from typing import TYPE_CHECKING

from huvren.core.picture_color import Encoding, encoding_of_png
from huvren.core.picture_kinds.kind import PICTURE_KINDS, PictureKind, begins_with

if TYPE_CHECKING:
    from PIL import Image

PNG = b"\x89PNG\r\n\x1a\n"
ENTRY, LIST = 16, 6
MOST_ICONS = 256


def _icons(data: bytes) -> list[tuple[int, int, int, int]]:
    """Width, height, depth and place in the list of every icon. Raises `ValueError` for a list without one."""
    found = []
    for place in range(min(int.from_bytes(data[4:6], "little"), MOST_ICONS)):
        entry = data[LIST + ENTRY * place : LIST + ENTRY * (place + 1)]
        if len(entry) < ENTRY:
            break
        depth, size, offset = struct.unpack_from("<HII", entry, 6)
        head = data[offset : offset + 24]
        if head[:8] == PNG and len(head) == 24:
            width, height = struct.unpack_from(">II", head, 16)
        elif len(head) == 24:
            # The mask below the bitmap counts in its height.
            width, height = struct.unpack_from("<ii", head, 4)
            height = abs(height) // 2
        else:
            continue
        if width > 0 and height > 0 and size:
            found.append((width, height, depth, place))
    if not found:
        raise ValueError("There is no icon in the list.")
    return found


def _best(data: bytes) -> tuple[int, int, int, int]:
    return max(_icons(data), key=lambda icon: (icon[0] * icon[1], icon[2]))


def _claims(data: bytes) -> tuple[int, int]:
    return _best(data)[:2]


def _open(data: bytes) -> Image.Image:
    from PIL import Image

    place, count = _best(data)[3], len(_icons(data))
    entry = data[LIST + ENTRY * place : LIST + ENTRY * (place + 1)]
    size, offset = struct.unpack_from("<II", entry, 8)
    icon = data[offset : offset + size]
    if icon.startswith(PNG):
        drawn = Image.open(io.BytesIO(icon), formats=("PNG",))
        drawn.info["icons"] = count
        return drawn
    # A list of this icon alone: the library would look at the sizes of the list, which stop at 256.
    width, height = struct.unpack_from("<ii", icon, 4)
    alone = bytes([min(width, 255), min(abs(height) // 2, 255)]) + entry[2:12] + struct.pack("<I", LIST + ENTRY)
    found = Image.open(io.BytesIO(b"\0\0\x01\0\x01\0" + alone + icon), formats=("ICO",))
    # It keeps the size of the list where the icon has another.
    made = found.crop((0, 0, *found.im.size))
    made.info["icons"] = count
    return made


def _more(image: Image.Image) -> str:
    count = image.info.get("icons", 1)
    return f"It holds {count} icons; the largest was taken." if count > 1 else ""


def _states(data: bytes, image: Image.Image) -> tuple[Encoding | None, str]:
    place = _best(data)[3]
    _, offset = struct.unpack_from("<II", data, LIST + ENTRY * place + 8)
    return encoding_of_png(data[offset:])


PICTURE_KINDS.register(
    PictureKind(
        "ICO", "ICO", (".ico",), "image/x-icon", begins_with(b"\0\0\x01\0"), open=_open, claims=_claims, more=_more, states=_states,
    )
)  # fmt: skip
