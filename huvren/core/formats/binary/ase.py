"""`.ase` swatch exchange: big-endian blocks of groups and colors, float32 channels, UTF-16 names."""

import struct
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from huvren.core.color.value import Color
from huvren.core.errors import BadColor, BadFile
from huvren.core.formats.binary.packed import Cursor, utf16_units
from huvren.core.formats.format import FORMATS, Document, Format, Found, Keeps, sections
from huvren.core.formats.holding import held_palette, within_reach
from huvren.core.formats.reading_limits import ReadingLimits
from huvren.core.formats.swatch_list import SwatchList
from huvren.core.palette.values import LONGEST_NAME, Palette, Swatch

SIGNATURE = b"ASEF"
GROUP_START, GROUP_END, COLOR = 0xC001, 0xC002, 0x0001
NORMAL = 2
MOST_NESTED = 16
KINDS = {"global": 0, "spot": 1}
"""What a swatch is besides normal, by the tag that it gets and is written by."""
_MODELS = {b"RGB ": ("srgb", 3), b"CMYK": ("cmyk", 4), b"LAB ": ("lab", 3), b"Gray": ("gray", 1)}
_TAGS = {space: tag for tag, (space, _) in _MODELS.items()}


def sniff(data: bytes) -> float:
    return 1.0 if data.startswith(SIGNATURE) else 0.0


def _color(cursor: Cursor) -> tuple[Color, str, tuple[str, ...]]:
    name = cursor.utf16(cursor.number("H", "the length of a name"), "a name")
    at = cursor.offset
    tag = cursor.take(4, "a color model")
    if tag not in _MODELS:
        raise BadFile(f"Byte {at}: {tag!r} is no color model; RGB, CMYK, LAB and Gray are known.")
    space, count = _MODELS[tag]
    values = cursor.floats(count, "the channels of a color")
    kind = cursor.number("H", "the kind of a color")
    # Lightness is written 0..1; some programs write 0..100.
    if space == "lab" and -0.001 <= values[0] <= 1.001:
        values = (values[0] * 100, *values[1:])
    try:
        return Color(space, values), name, tuple(tag for tag, number in KINDS.items() if number == kind)
    except BadColor as error:
        raise BadFile(f"Byte {at}: {error}") from error


def read(data: bytes) -> Found:
    """Groups within groups are joined by name, “Outer / Inner”; a block of an unknown kind is skipped with a note."""
    cursor = Cursor(data, ">")
    if cursor.take(4, "the fixed beginning") != SIGNATURE:
        raise BadFile("Byte 0: the fixed beginning of an .ase swatch exchange is missing.")
    cursor.numbers("HH", "the version")
    count = cursor.number("I", "the number of blocks")
    made, skipped = SwatchList(), 0
    opened: list[str] = []
    for _ in range(count):
        kind, length = cursor.numbers("HI", "a block's kind and length")
        end = cursor.offset + length
        if length > cursor.left:
            cursor.take(length, "a block")
        if kind == GROUP_START:
            opened.append(cursor.utf16(cursor.number("H", "the length of a group's name"), "a group's name")[:LONGEST_NAME])
            if len(opened) > MOST_NESTED:
                raise BadFile(f"Byte {cursor.offset}: groups stand more than {MOST_NESTED} deep in each other.")
            made.open_group(" / ".join(opened))
        elif kind == GROUP_END:
            if opened:
                opened.pop()
            made.open_group(" / ".join(opened) or None)
        elif kind == COLOR:
            made.add(*_color(cursor))
        else:
            skipped += 1
        if cursor.offset > end:
            raise BadFile(f"Byte {cursor.offset}: a block is longer than the {length} bytes it claims.")
        cursor.offset = end
    notes = (f"{skipped} blocks of an unknown kind were left out.",) if skipped else ()
    return Found(made.palette(example="It has no color block."), (*notes, *made.doubled_names()))


def _rounded(colors: Sequence[Color]) -> list[Color]:
    """Colors as 32-bit floating point, lightness as 0 to 1."""
    made = [within_reach(color, KEEPS.spaces) for color in colors]
    for space in _TAGS:
        places = [place for place, color in enumerate(made) if color.space == space]
        if not places:
            continue
        scale = np.array([100.0, 1, 1]) if space == "lab" else 1.0
        before = np.array([made[place].coords for place in places])
        if space == "lab":
            before[:, 0] = np.clip(before[:, 0], 0, 100)
        after = (before / scale).astype(np.float32).astype(np.float64) * scale
        for place, row in zip(places, after.tolist(), strict=True):
            if tuple(row) != made[place].coords or made[place].missing:
                made[place] = Color(space, tuple(row))
    return made


def _is_of_one_kind(swatch: Swatch) -> Swatch:
    """A color is global or spot, not both."""
    return swatch if len(swatch.tags) < 2 else replace(swatch, tags=swatch.tags[:1])


def hold(document: Document) -> Palette:
    """Colors as 32-bit floating point; outside of sRGB as Lab with L 0..100. Of the tags `global` and `spot`, one."""
    held = held_palette(document.palette, KEEPS, _rounded)
    return replace(held, swatches=tuple(_is_of_one_kind(swatch) for swatch in held.swatches))


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
            color, kind = swatch.color, next((KINDS[tag] for tag in swatch.tags if tag in KINDS), NORMAL)
            values = list(color.coords)
            if color.space == "lab":
                values[0] /= 100
            block(COLOR, _named(swatch.name) + _TAGS[color.space] + struct.pack(f">{len(values)}fH", *values, kind))
        if group:
            block(GROUP_END)
    return SIGNATURE + struct.pack(">HHI", 1, 0, len(blocks)) + b"".join(blocks)


KEEPS = Keeps(names=True, groups=True, tags=frozenset(KINDS), spaces=("srgb", "cmyk", "lab", "gray"), depth_bits=None)
FORMATS.register(
    Format(
        "ase", (".ase",), "swatch exchange", "palette", "application/octet-stream", KEEPS,
        "Names and groups, with RGB, CMYK, Lab and gray kept as they are; layout and print programs read it.",
        limits=ReadingLimits(8_000_000), sniff=sniff, read=read, hold=hold, write=write,
    )
)  # fmt: skip
