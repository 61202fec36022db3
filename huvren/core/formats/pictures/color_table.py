"""The color tables that an indexed picture carries, in index order. No pixel of a PNG or GIF is decoded; what is clear is kept.

PNG: ISO/IEC 15948 §11.2.3 and §11.3.2.1. GIF 89a §18 to §23: a frame may have a table of its own, which then holds for it alone.
"""

import struct
from dataclasses import dataclass

from huvren.core.color.value import Color
from huvren.core.errors import BadFile, HuvrenError
from huvren.core.formats.format import FORMATS, Format, Found, Keeps, is_picture
from huvren.core.formats.swatch_list import SwatchList

PNG = b"\x89PNG\r\n\x1a\n"
GIF = (b"GIF87a", b"GIF89a")
INDEXED = 3
OPAQUE = 255
HAS_TABLE, SIZE = 0x80, 0x07
EXTENSION, IMAGE, TRAILER, CONTROL = 0x21, 0x2C, 0x3B, 0xF9
MOST_TABLES = 64
MOST_FRAMES = 50_000
MOST_BLOCKS = 400_000
"""Pieces that a file is followed through; a picture of 80 MB has a third of that."""


@dataclass(frozen=True)
class Table:
    """RGB triples; clear : alphas 0..255 by index; frame : the first that it holds for, 0 for the picture's own."""

    colors: tuple[tuple[int, int, int], ...]
    """8-bit sRGB."""
    alphas: tuple[int, ...]
    """0..255, one for each color that has one."""
    frame: int


def _triples(raw: bytes) -> tuple[tuple[int, int, int], ...]:
    return tuple(zip(raw[0::3], raw[1::3], raw[2::3], strict=True))


def _png_table(data: bytes) -> tuple[list[Table], bool]:
    """Its table, and whether the file goes on to its end."""
    colors: tuple[tuple[int, int, int], ...] = ()
    alphas = b""
    at, left = len(PNG), MOST_BLOCKS
    while at + 8 <= len(data) and left:
        left -= 1
        length, kind = struct.unpack(">I4s", data[at : at + 8])
        body = data[at + 8 : at + 8 + length]
        if kind in (b"PLTE", b"tRNS") and len(body) < length:
            raise BadFile(f"Byte {at}: the color table is cut short.")
        if kind == b"IHDR" and (len(body) < 13 or body[9] != INDEXED):
            return [], True
        if kind == b"PLTE":
            if length % 3 or not 3 <= length <= 768:
                raise BadFile(f"Byte {at}: a color table of {length} bytes is none.")
            colors = _triples(body)
        elif kind == b"tRNS":
            alphas = body
        elif kind == b"IEND":
            break
        at += 12 + length
    is_whole = data[at + 4 : at + 8] == b"IEND"
    if not colors:
        return [], is_whole
    full = (*alphas[: len(colors)], *[255] * (len(colors) - len(alphas)))
    return [Table(colors, full, 0)], is_whole


class _Gif:
    """A GIF taken apart block by block; what the pixels are is skipped."""

    def __init__(self, data: bytes) -> None:
        self.data, self.at = data, 6
        self.tables: list[Table] = []
        self.frames = 0
        self.blocks = 0
        self.more = 0
        self.is_whole = True

    def take(self, count: int) -> bytes:
        if self.at + count > len(self.data):
            raise BadFile(f"Byte {self.at}: the picture is cut short.")
        self.at += count
        return self.data[self.at - count : self.at]

    def skip_blocks(self) -> bytes:
        """Over sub-blocks to their end; the first one is returned."""
        first = b""
        data, at, end = self.data, self.at, len(self.data)
        while True:
            self.blocks += 1
            if at >= end or self.blocks > MOST_BLOCKS:
                raise BadFile(f"Byte {at}: the picture is cut short, or in too many blocks.")
            size = data[at]
            if size == 0:
                self.at = at + 1
                return first
            first = first or data[at + 1 : at + 1 + size]
            at += 1 + size

    def table(self, flags: int) -> tuple[tuple[int, int, int], ...]:
        return _triples(self.take(3 * 2 ** ((flags & SIZE) + 1))) if flags & HAS_TABLE else ()

    def run(self) -> list[Table]:
        screen = self.take(7)
        everywhere = self.table(screen[4])
        clear: int | None = None
        found: dict[tuple[tuple[int, int, int], ...], Table] = {}
        everywhere_clear: int | None = None
        try:
            while (kind := self.take(1)[0]) != TRAILER and self.frames < MOST_FRAMES:
                if kind == EXTENSION:
                    label = self.take(1)[0]
                    first = self.skip_blocks()
                    if label == CONTROL and len(first) >= 4:
                        clear = first[3] if first[0] & 1 else None
                elif kind == IMAGE:
                    self.frames += 1
                    own = self.table(self.take(9)[8])
                    self.take(1)
                    self.skip_blocks()
                    if own and own not in found:
                        if len(found) < MOST_TABLES:
                            found[own] = Table(own, _alphas(len(own), clear), self.frames)
                        else:
                            self.more += 1
                    elif not own and clear is not None:
                        everywhere_clear = clear
                    clear = None
                else:
                    raise BadFile(f"Byte {self.at - 1}: {kind:#04x} begins no block.")
        except BadFile:
            # Tables that were read are whole, whatever the pixels behind them are; without one the picture is told to be damaged.
            if not everywhere and not found:
                raise
            self.is_whole = False
        tables = [Table(everywhere, _alphas(len(everywhere), everywhere_clear), 0)] if everywhere else []
        return tables + [table for table in found.values() if table.colors != everywhere]


def _alphas(count: int, clear: int | None) -> tuple[int, ...]:
    return tuple(0 if place == clear else 255 for place in range(count))


def _decoded_table(data: bytes) -> list[Table]:
    """The table of a picture of another kind, by its decoder: none where pixels are clear, which the table does not say."""
    from huvren.core.pictures import read_small

    picture = read_small(data)
    if not picture.own_palette or picture.rgba[..., 3].min() < OPAQUE:
        return []
    return [Table(picture.own_palette, (OPAQUE,) * len(picture.own_palette), 0)]


def sniff(data: bytes) -> float:
    if data.startswith(PNG):
        return 0.95 if data[25:26] == bytes([INDEXED]) else 0.0
    if not is_picture(data) or (data.startswith(GIF) and len(data) < 13):
        return 0.0
    try:
        return 0.95 if (_Gif(data).run() if data.startswith(GIF) else _decoded_table(data)) else 0.0
    except HuvrenError:
        return 0.0


def read(data: bytes) -> Found:
    """Every entry of every table, used or not. Tables of later frames are groups of their own."""
    more, is_whole = 0, True
    tables: list[Table] = []
    if data.startswith(GIF):
        gif = _Gif(data)
        tables, more, is_whole = gif.run(), gif.more, gif.is_whole
    elif data.startswith(PNG):
        tables, is_whole = _png_table(data)
    else:
        tables = _decoded_table(data)
    if not tables:
        raise BadFile("The picture holds no color table." if is_whole else "The picture is cut short before its color table.")
    made = SwatchList()
    for table in tables:
        if len(tables) > 1:
            made.open_group(f"Frame {table.frame}" if table.frame else "All frames")
        for (red, green, blue), alpha in zip(table.colors, table.alphas, strict=True):
            made.add(Color.from_bytes(red, green, blue, alpha))
    one = len(tables) == 1
    notes = [
        "Its color table, in the order of its indices." if one else f"Its {len(tables)} color tables: frames have some of their own."
    ]
    if more:
        notes.append(f"{more:,} more tables of later frames were left out; {MOST_TABLES} are the most that are read.")
    if not is_whole:
        notes.append("The picture behind the table is damaged or cut short.")
    return Found(made.palette(), tuple(notes))


FORMATS.register(
    Format(
        "color-table", (".png", ".gif", ".bmp", ".tif", ".pcx", ".tga"), "picture's color table", "picture", "image/png",
        Keeps(alpha="all", groups=True, most=256),
        "The table of an indexed picture, in index order.", sniff=sniff, read=read,
    )
)  # fmt: skip
