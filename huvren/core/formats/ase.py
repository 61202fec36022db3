"""`.ase` swatch exchange: big-endian blocks of groups and colors, float32 channels, UTF-16 names."""

import struct

from huvren.core.color.value import Color
from huvren.core.errors import BadColor, BadFile
from huvren.core.formats import FORMATS, Document, Format, Found, Keeps, SwatchList, held_color, sections
from huvren.core.formats.binary import Cursor, utf16_units

SIGNATURE = b"ASEF"
GROUP_START, GROUP_END, COLOR = 0xC001, 0xC002, 0x0001
NORMAL = 2
_MODELS = {b"RGB ": ("srgb", 3), b"CMYK": ("cmyk", 4), b"LAB ": ("lab", 3), b"Gray": ("gray", 1)}
_TAGS = {space: tag for tag, (space, _) in _MODELS.items()}


def sniff(data: bytes) -> float:
    return 1.0 if data.startswith(SIGNATURE) else 0.0


def _color(cursor: Cursor) -> tuple[Color, str]:
    name = cursor.utf16(cursor.number("H", "the length of a name"), "a name")
    at = cursor.offset
    tag = cursor.take(4, "a color model")
    if tag not in _MODELS:
        raise BadFile(f"Byte {at}: {tag!r} is no color model; RGB, CMYK, LAB and Gray are known.")
    space, count = _MODELS[tag]
    values = cursor.floats(count, "the channels of a color")
    cursor.number("H", "the kind of a color")
    # Lightness is written 0..1; some programs write 0..100.
    if space == "lab" and -0.001 <= values[0] <= 1.001:
        values = (values[0] * 100, *values[1:])
    try:
        return Color(space, values), name
    except BadColor as error:
        raise BadFile(f"Byte {at}: {error}") from error


def read(data: bytes) -> Found:
    """Groups do not nest; a block of an unknown kind is skipped with a note."""
    cursor = Cursor(data, ">")
    if cursor.take(4, "the fixed beginning") != SIGNATURE:
        raise BadFile("Byte 0: the fixed beginning of an .ase swatch exchange is missing.")
    cursor.numbers("HH", "the version")
    count = cursor.number("I", "the number of blocks")
    made, skipped = SwatchList(), 0
    for _ in range(count):
        kind, length = cursor.numbers("HI", "a block's kind and length")
        end = cursor.offset + length
        if length > cursor.left:
            cursor.take(length, "a block")
        if kind == GROUP_START:
            made.open_group(cursor.utf16(cursor.number("H", "the length of a group's name"), "a group's name"))
        elif kind == GROUP_END:
            made.open_group(None)
        elif kind == COLOR:
            made.add(*_color(cursor))
        else:
            skipped += 1
        if cursor.offset > end:
            raise BadFile(f"Byte {cursor.offset}: a block is longer than the {length} bytes it claims.")
        cursor.offset = end
    notes = (f"{skipped} blocks of an unknown kind were left out.",) if skipped else ()
    return Found(made.palette(example="It has no color block."), (*notes, *made.said()))


def _named(text: str) -> bytes:
    units = utf16_units(text)
    return struct.pack(">H", len(units) // 2) + units


def write(document: Document) -> bytes:
    """Each color in its own space where the format has it, else in sRGB."""
    blocks: list[bytes] = []

    def block(kind: int, body: bytes = b"") -> None:
        blocks.append(struct.pack(">HI", kind, len(body)) + body)

    for group, run in sections(document.palette):
        if group:
            block(GROUP_START, _named(group))
        for _, swatch in run:
            color = held_color(swatch.color, KEEPS)
            values = list(color.coords)
            if color.space == "lab":
                values[0] /= 100
            block(COLOR, _named(swatch.name) + _TAGS[color.space] + struct.pack(f">{len(values)}fH", *values, NORMAL))
        if group:
            block(GROUP_END)
    return SIGNATURE + struct.pack(">HHI", 1, 0, len(blocks)) + b"".join(blocks)


KEEPS = Keeps(names=True, groups=True, spaces=("srgb", "cmyk", "lab", "gray"), depth_bits=None)
FORMATS.register(
    Format(
        "ase", (".ase",), "swatch exchange", "palette", "application/octet-stream", KEEPS,
        "Names and groups, with RGB, CMYK, Lab and gray kept as they are; layout and print programs read it.",
        sniff=sniff, read=read, write=write,
    )
)  # fmt: skip
