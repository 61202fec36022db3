"""`.pal` as RIFF: a `data` chunk with version 0x0300, a count, and rows of red, green, blue and flags, little-endian."""

import struct

from huvren.core.color.value import Color
from huvren.core.errors import BadFile
from huvren.core.formats.binary.packed import Cursor
from huvren.core.formats.format import FORMATS, Document, Format, Found, Keeps
from huvren.core.formats.swatch_list import SwatchList

VERSION = 0x0300
MOST = 65535


def sniff(data: bytes) -> float:
    return 1.0 if data[:4] == b"RIFF" and (data[8:12] == b"PAL " or len(data) < 12) else 0.0


def read(data: bytes) -> Found:
    """Chunks other than the palette's are skipped."""
    cursor = Cursor(data, "<")
    if cursor.take(4, "the fixed beginning") != b"RIFF":
        raise BadFile("Byte 0: “RIFF” was expected.")
    size = cursor.number("I", "the size")
    if size > cursor.left:
        raise BadFile(f"Byte 4: the file claims {size:,} bytes more, but {cursor.left:,} follow. It is cut short.")
    if cursor.take(4, "the kind") != b"PAL ":
        raise BadFile("Byte 8: this RIFF file holds something else than a palette.")
    while True:
        at = cursor.offset
        name = cursor.take(4, "a chunk's name")
        length = cursor.number("I", "a chunk's length")
        if name == b"data":
            break
        cursor.take(length + length % 2, f"the chunk at byte {at}")
    version, count = cursor.numbers("HH", "the palette's version and count")
    if version != VERSION:
        raise BadFile(f"Byte {cursor.offset - 4}: version {version:#06x} was found, {VERSION:#06x} expected.")
    if length < 4 + 4 * count:
        raise BadFile(f"Byte {cursor.offset - 2}: {count:,} colors need {4 + 4 * count:,} bytes; the chunk has {length:,}.")
    made = SwatchList()
    for _ in range(count):
        red, green, blue, _ = cursor.take(4, "a color")
        made.add(Color.from_bytes(red, green, blue))
    return Found(made.palette(example="Its count is 0."))


def write(document: Document) -> bytes:
    """Flags are written as 0."""
    swatches = document.palette.swatches
    if len(swatches) > MOST:
        raise BadFile(f"A RIFF .pal holds {MOST:,} colors; this palette has {len(swatches):,}.")
    body = struct.pack("<HH", VERSION, len(swatches)) + b"".join(bytes((*s.color.bytes[:3], 0)) for s in swatches)
    data = b"PAL data" + struct.pack("<I", len(body)) + body
    return b"RIFF" + struct.pack("<I", len(data)) + data


FORMATS.register(
    Format(
        "pal-riff", (".pal",), "RIFF color table", "palette", "application/octet-stream", Keeps(places="index", most=MOST),
        "Order alone, in binary chunks; desktop and animation programs read it.", sniff=sniff, read=read, write=write,
    )
)  # fmt: skip
