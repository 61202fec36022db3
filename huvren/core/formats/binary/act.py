"""`.act` color table: 256 RGB triples, and at the end an optional count and transparent index, big-endian."""

import struct

from huvren.core.color.value import Color
from huvren.core.errors import BadFile
from huvren.core.formats.format import FORMATS, Document, Format, Found, Keeps, is_probably_text
from huvren.core.formats.swatch_list import SwatchList

COLORS = 256
TABLE = COLORS * 3
TAIL = 4
NONE = 0xFFFF


def sniff(data: bytes) -> float:
    """By a tail that makes sense. A table without one is any 768 bytes: its ending tells it apart."""
    if len(data) != TABLE + TAIL or is_probably_text(data):
        return 0.0
    count, clear = struct.unpack(">HH", data[TABLE:])
    return 0.3 if 1 <= count <= COLORS and (clear == NONE or clear < COLORS) else 0.0


def read(data: bytes) -> Found:
    """The first `count` colors where the file says how many it means, else all 256."""
    if len(data) not in (TABLE, TABLE + TAIL):
        raise BadFile(f"Byte {len(data)}: the file ends here; an .act color table has {TABLE} or {TABLE + TAIL} bytes.")
    count, clear = struct.unpack(">HH", data[TABLE:]) if len(data) > TABLE else (COLORS, NONE)
    if not 1 <= count <= COLORS:
        raise BadFile(f"Byte {TABLE}: the count is {count}; 1 to {COLORS} was expected.")
    made = SwatchList()
    for place in range(count):
        red, green, blue = data[place * 3 : place * 3 + 3]
        made.add(Color.from_bytes(red, green, blue, 0 if place == clear else 255))
    notes: list[str] = []
    if len(data) == TABLE:
        last = data[TABLE - 3 :]
        same = 0
        while same < COLORS and data[TABLE - 3 * (same + 1) : TABLE - 3 * same] == last:
            same += 1
        if same > 1:
            notes.append(f"The table always has {COLORS} places; the last {same} are all the same and may be filling.")
    return Found(made.palette(), tuple(notes))


def write(document: Document) -> bytes:
    """The colors, then black up to 256, the count, and the index of the clear swatch. Raises `BadFile` above 256."""
    swatches = document.palette.swatches
    if len(swatches) > COLORS:
        raise BadFile(f"An .act color table holds {COLORS} colors; this palette has {len(swatches):,}.")
    table = b"".join(bytes(swatch.color.bytes[:3]) for swatch in swatches).ljust(TABLE, b"\0")
    clear = next((place for place, swatch in enumerate(swatches) if swatch.color.alpha == 0), NONE)
    return table + struct.pack(">HH", len(swatches), clear)


FORMATS.register(
    Format(
        "act", (".act",), "color table", "palette", "application/octet-stream", Keeps(alpha="one clear", places="index", most=COLORS),
        "256 places in order, for indexed pictures; one may be transparent.", is_unmarked=True, sniff=sniff, read=read, write=write,
    )
)  # fmt: skip
