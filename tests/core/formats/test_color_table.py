"""The color table that an indexed picture carries, against what Pillow wrote and against bytes made by hand."""

import contextlib
import io
import struct
import zlib

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from huvren.core.errors import BadFile
from huvren.core.formats import FORMATS
from huvren.core.formats.readings import read_palettes
from tests.pictures import painted, png

TABLE = FORMATS["color-table"]
COLORS = [(10, 20, 30), (200, 100, 50), (0, 0, 0), (255, 255, 255), (10, 20, 30)]


def read(data: bytes) -> list[tuple[int, int, int, int]]:
    assert TABLE.read is not None
    return [swatch.color.bytes for swatch in TABLE.read(data).palette.swatches]


def indexed(colors: list[tuple[int, int, int]], kind: str, **options: object) -> bytes:
    image = Image.fromarray(np.arange(12, dtype=np.uint8).reshape(3, 4) % len(colors), "P")
    image.putpalette([channel for color in colors for channel in color])
    buffer = io.BytesIO()
    image.save(buffer, kind, **options)
    return buffer.getvalue()


def chunk(name: bytes, body: bytes) -> bytes:
    return struct.pack(">I", len(body)) + name + body + struct.pack(">I", zlib.crc32(name + body))


def by_hand(depth: int, colors: list[tuple[int, int, int]], *between: bytes, kind: int = 3) -> bytes:
    """A PNG of 8 × 1 pixels, all of index 0."""
    head = struct.pack(">IIBBBBB", 8, 1, depth, kind, 0, 0, 0)
    pixels = zlib.compress(b"\0" + bytes(depth if kind == 3 else depth * 3))
    plte = chunk(b"PLTE", b"".join(map(bytes, colors))) if colors else b""
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + plte + b"".join(between) + chunk(b"IDAT", pixels) + chunk(b"IEND", b"")


@pytest.mark.parametrize("kind", ["PNG", "GIF"])
def test_entries_come_in_index_order_doubles_and_unused_ones_too(kind: str) -> None:
    found = read(indexed(COLORS, kind))
    assert [entry[:3] for entry in found[: len(COLORS)]] == COLORS
    assert all(entry[3] == 255 for entry in found)


@pytest.mark.parametrize("depth", [1, 2, 4, 8])
def test_tables_of_every_depth_are_read(depth: int) -> None:
    colors = [(n, 255 - n, n * 7 % 256) for n in range(2**depth)]
    assert [entry[:3] for entry in read(by_hand(depth, colors))] == colors
    short = colors[: max(1, len(colors) - 1)]
    assert [entry[:3] for entry in read(by_hand(depth, short))] == short, "a table may be shorter than its depth allows"


def test_alphas_are_those_of_the_file() -> None:
    data = by_hand(8, COLORS, chunk(b"tRNS", bytes([0, 128, 255])))
    assert [entry[3] for entry in read(data)] == [0, 128, 255, 255, 255], "those not listed are opaque"
    gif = indexed(COLORS, "GIF", transparency=2)
    assert [entry[3] for entry in read(gif)[:5]] == [255, 255, 0, 255, 255]
    assert [entry[3] for entry in read(indexed(COLORS, "PNG", transparency=1))][:3] == [255, 0, 255]


def test_chunks_before_the_pixels_do_not_matter() -> None:
    extra = (chunk(b"tEXt", b"Title\0Moth"), chunk(b"bKGD", b"\1"), chunk(b"tIME", struct.pack(">HBBBBB", 2026, 11, 26, 1, 2, 3)))
    assert read(by_hand(8, COLORS, *extra)) == read(by_hand(8, COLORS))


def test_only_indexed_pictures_are_thought_to_have_a_table() -> None:
    assert TABLE.sniff(by_hand(8, COLORS)) > 0.9
    assert TABLE.sniff(indexed(COLORS, "GIF")) > 0.9
    for data in (png(painted(8, 8)), b"\x89PNG", b"GIF89a", b"", b"hello", indexed(COLORS, "GIF")[:20]):
        assert TABLE.sniff(data) == 0
    suggested = by_hand(8, COLORS, kind=2)
    with pytest.raises(BadFile, match="holds no color table"):
        read(suggested)


@pytest.mark.parametrize("kind", ["PNG", "GIF"])
def test_a_picture_cut_anywhere_gives_its_whole_table_with_a_word_or_is_refused(kind: str) -> None:
    data = indexed(COLORS, kind)
    assert TABLE.read
    whole = TABLE.read(data)
    assert whole.notes == ("Its color table, in the order of its indices.",)
    for cut in range(len(data) - 5):
        found = None
        with contextlib.suppress(BadFile):
            found = TABLE.read(data[:cut])
        if found is None:
            continue
        assert [s.color for s in found.palette.swatches] == [s.color for s in whole.palette.swatches]
        assert found.notes[-1] == "The picture behind the table is damaged or cut short."


def frames(*tables: list[tuple[int, int, int]], clear: int | None = None, everywhere: bool = True) -> bytes:
    """A GIF of one pixel a frame, by hand: the first table is the picture's own, the others belong to one frame each."""
    pixel = b"\x02\x02\x44\x01\x00"
    own, *others = [b"".join(map(bytes, colors)) for colors in tables]
    made = b"GIF89a" + struct.pack("<HHBBB", 1, 1, 0x80 if everywhere else 0, 0, 0) + (own if everywhere else b"")
    for table in [b"", *others] if everywhere else [own, *others]:
        if clear is not None:
            made += b"\x21\xf9\x04\x01\0\0" + bytes([clear]) + b"\0"
        made += b"\x2c" + struct.pack("<HHHHB", 0, 0, 1, 1, 0x80 if table else 0) + table + pixel
    return made + b";"


def test_tables_of_later_frames_are_groups() -> None:
    one, two, three = [(1, 2, 3), (4, 5, 6)], [(7, 8, 9), (10, 11, 12)], [(1, 2, 3), (4, 5, 6)]
    assert TABLE.read
    found = TABLE.read(frames(one, two, three))
    names = [found.palette.group_name(swatch.group) for swatch in found.palette.swatches]
    assert names == ["All frames", "All frames", "Frame 2", "Frame 2"], "a table that says the same again is no other"
    assert [s.color.bytes[:3] for s in found.palette.swatches] == one + two
    assert found.notes == ("Its 2 color tables: frames have some of their own.",)
    alone = TABLE.read(frames(one, everywhere=False))
    assert [s.color.bytes[:3] for s in alone.palette.swatches] == one
    assert [s.color.bytes[3] for s in TABLE.read(frames(one, clear=1)).palette.swatches] == [255, 0]
    many = TABLE.read(frames(one, *[[(n, 0, 0), (n, 1, 0)] for n in range(100)]))
    assert len(many.palette.groups) == 65
    assert many.notes[-1] == "36 more tables of later frames were left out; 64 are the most that are read."
    assert Image.open(io.BytesIO(frames(one, two))).n_frames == 2  # type: ignore[attr-defined]


def test_a_table_is_read_without_its_pixels() -> None:
    head = struct.pack(">IIBBBBB", 10_000, 10_000, 1, 3, 0, 0, 0)
    huge = b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"PLTE", bytes(range(6)))
    pixels = chunk(b"IDAT", zlib.compress(bytes(1251) * 10_000, 9)) + chunk(b"IEND", b"")
    assert read(huge + pixels) == [(0, 1, 2, 255), (3, 4, 5, 255)]
    screen = b"GIF89a" + struct.pack("<HHBBB", 9_999, 9_999, 0x80, 0, 0) + bytes(range(6))
    assert read(screen + b"\x2c" + struct.pack("<HHHHB", 0, 0, 9_999, 9_999, 0) + b"\x02\x01\x00;")[0] == (0, 1, 2, 255)


def test_both_readings_of_an_indexed_picture_are_offered() -> None:
    data = indexed(COLORS, "PNG")
    labels = {reading.format.id if reading.format else "": reading.found for reading in read_palettes(data, "plate.png")}
    assert len(labels["color-table"].palette.swatches) == 5
    assert len(labels["own-colors"].palette.swatches) == 4, "doubles are one color"
    assert labels["color-table"].notes == ("Its color table, in the order of its indices.",)
    assert labels["color-table"].palette.name == "plate"


@settings(max_examples=40, deadline=None)
@given(st.lists(st.tuples(*[st.integers(0, 255)] * 3), min_size=1, max_size=256), st.data())
def test_any_table_comes_back_as_it_was(colors: list[tuple[int, int, int]], data: st.DataObject) -> None:
    alphas = data.draw(st.lists(st.integers(0, 255), max_size=len(colors)))
    file = by_hand(8, colors, *([chunk(b"tRNS", bytes(alphas))] if alphas else []))
    found = read(file)
    assert [entry[:3] for entry in found] == colors
    assert [entry[3] for entry in found] == alphas + [255] * (len(colors) - len(alphas))
