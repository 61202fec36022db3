"""`.aco` swatch table: version 1 (colors) followed by version 2 (the same colors with names), big-endian."""

import struct
from collections.abc import Sequence

from huvren.core.color.value import Color
from huvren.core.errors import BadFile
from huvren.core.formats.binary.packed import Cursor, utf16_units
from huvren.core.formats.format import FORMATS, Document, Format, Found, Keeps
from huvren.core.formats.holding import held_palette, in_depth, within_reach
from huvren.core.formats.swatch_list import SwatchList
from huvren.core.palette.values import Palette

RGB, HSB, CMYK, LAB, GRAY, WIDE_CMYK = 0, 1, 2, 7, 8, 9
WORD = 65535
MOST = 65535


def _signed(word: int) -> int:
    return word - 65536 if word > 32767 else word


def _color(cursor: Cursor) -> Color:
    at = cursor.offset
    words = cursor.numbers("5H", "a color")
    color = _meant(words)
    if color is None:
        raise BadFile(f"Byte {at}: {words[0]} is no known color space; 0, 1, 2, 7, 8 and 9 are.")
    return color


def _meant(words: Sequence[int]) -> Color | None:
    """The color that five words mean, or None for a space that is not known."""
    space, w, x, y, z = words
    if space == RGB:
        return Color("srgb", (w / WORD, x / WORD, y / WORD))
    if space == HSB:
        return Color("hsv", (w / WORD * 360, x / WORD, y / WORD))
    if space == CMYK:
        return Color("cmyk", tuple(1 - ink / WORD for ink in (w, x, y, z)))
    if space == LAB:
        return Color("lab", (w / 100, _signed(x) / 100, _signed(y) / 100))
    if space == GRAY:
        return Color("gray", (min(w, 10000) / 10000,))
    if space == WIDE_CMYK:
        return Color("cmyk", tuple(ink / 10000 for ink in (w, x, y, z)))
    return None


def sniff(data: bytes) -> float:
    """Sure where the sizes fit together; faint, so that a file cut short is told so, where the first color could be one."""
    if data[:2] not in (b"\0\1", b"\0\2"):
        return 0.0
    space = int.from_bytes(data[4:6], "big")
    if space not in (RGB, HSB, CMYK, LAB, GRAY, WIDE_CMYK):
        return 0.0
    end = 4 + 10 * int.from_bytes(data[2:4], "big")
    fits = data[:2] == b"\0\1" and (data[end : end + 2] in (b"", b"\0\2", b"\0\0"))
    return 0.9 if fits else 0.25


def read(data: bytes) -> Found:
    """Either version alone, or both, of which the one with names is taken."""
    cursor = Cursor(data, ">")
    version, count = cursor.numbers("HH", "the version and count")
    plain: list[Color] = []
    if version == 1:
        plain = [_color(cursor) for _ in range(count)]
        # Some programs fill the file up with zeros; a single one is the beginning of a table that was cut off.
        if cursor.left == 1 or any(cursor.data[cursor.offset :]):
            at = cursor.offset
            version, count = cursor.numbers("HH", "the version and count of the named table")
            if version != 2:
                raise BadFile(f"Byte {at}: after the first table version 2 was expected, not {version}.")
    elif version != 2:
        raise BadFile(f"Byte 0: {version} is no known version of an .aco swatch table; 1 and 2 are.")
    made = SwatchList()
    if version == 2:
        for _ in range(count):
            color = _color(cursor)
            units = cursor.number("I", "the length of a name")
            made.add(color, cursor.utf16(units, "a name"))
    else:
        for color in plain:
            made.add(color)
    return Found(made.palette(example="Its table is empty."))


def _word(value: float, scale: float, low: int = 0, high: int = WORD) -> int:
    return min(max(int(value * scale + (0.5 if value >= 0 else -0.5)), low), high) & 0xFFFF


def _words(color: Color) -> tuple[int, ...]:
    """A color as five words, each clipped to what it can hold."""
    c = color.coords
    if color.space == "hsv":
        return (HSB, _word(c[0] / 360 if 0 <= c[0] <= 360 else c[0] % 360 / 360, WORD), _word(c[1], WORD), _word(c[2], WORD), 0)
    if color.space == "cmyk":
        return (CMYK, *(WORD - _word(ink, WORD) for ink in c))
    if color.space == "lab":
        return (LAB, _word(c[0], 100, 0, 10000), *(_word(v, 100, -12800, 12700) for v in c[1:]), 0)
    if color.space == "gray":
        return (GRAY, _word(c[0], 10000, 0, 10000), 0, 0, 0)
    return (RGB, *(_word(v, WORD) for v in c), 0)


def _rounded(colors: Sequence[Color]) -> list[Color]:
    held = [within_reach(color, KEEPS.spaces) for color in colors]
    plain = iter(in_depth([color for color in held if color.space == "srgb"], 16))
    return [next(plain) if color.space == "srgb" else _meant(_words(color)) or color for color in held]


def hold(document: Document) -> Palette:
    """Colors rounded to 16 bits or hundredths; outside of sRGB as Lab, clipped to L 0..100 and a, b −128..127."""
    return held_palette(document.palette, KEEPS, _rounded)


def write(document: Document) -> bytes:
    """Both versions, the second with names."""
    swatches = document.palette.swatches
    if len(swatches) > MOST:
        raise BadFile(f"An .aco swatch table holds {MOST:,} colors; this palette has {len(swatches):,}. Select fewer.")
    colors = [struct.pack(">5H", *_words(swatch.color)) for swatch in swatches]
    named = []
    for swatch, color in zip(swatches, colors, strict=True):
        units = utf16_units(swatch.name)
        named.append(color + struct.pack(">I", len(units) // 2) + units)
    head = struct.pack(">H", len(swatches))
    return b"\0\1" + head + b"".join(colors) + b"\0\2" + head + b"".join(named)


KEEPS = Keeps(names=True, spaces=("srgb", "hsv", "cmyk", "lab", "gray"), depth_bits=16, most=MOST)
FORMATS.register(
    Format(
        "aco", (".aco",), "swatch table", "palette", "application/octet-stream", KEEPS,
        "Names, with RGB, HSB, CMYK, Lab and gray kept as they are; photo and painting programs read it.",
        sniff=sniff, read=read, hold=hold, write=write,
    )
)  # fmt: skip
