"""Palette files in and out: round trips over every registered pair, hand-built bytes, independent readers, broken files."""

import contextlib
import csv
import io
import json
import struct
from importlib import resources
from typing import Any

import jsonschema
import matplotlib as mpl
import numpy as np
import pytest
from PIL import Image
from PIL.GimpPaletteFile import GimpPaletteFile

from huvren.core.color.notation import parse_color
from huvren.core.color.value import Color
from huvren.core.errors import BadFile, BadInput, HuvrenError, TooLarge
from huvren.core.formats import FORMATS, SURE_ENOUGH, Document, Format
from huvren.core.formats.readings import read_palette, read_palettes
from huvren.core.palette.values import Group, Palette, Swatch
from huvren.demo.library import typed_palettes
from tests.pictures import opaque, painted, png

PRESS = next(palette for palette in typed_palettes() if palette.name.startswith("Press"))
INDICES = np.random.default_rng(1).integers(0, len(PRESS.swatches), (12, 17)).astype(np.uint8)
MODELS = Palette(
    "Models",
    tuple(
        Swatch(color, f"M{place}")
        for place, color in enumerate(
            [
                Color("srgb", (1.0, 0.5, 0.0)), Color("cmyk", (0.25, 0.5, 0.75, 0.0)), Color("lab", (62.5, -20.25, 30.5)),
                Color("gray", (0.5,)), Color("hsv", (210.0, 0.5, 0.75)), Color("display-p3", (0.0, 1.0, 0.0)),
            ]
        )
    ),
)  # fmt: skip
WRITERS = [entry for entry in FORMATS if entry.write and "palette" in entry.contents]
RETURNING = [entry for entry in WRITERS if entry.read or entry.needs_picture]
"""Formats that come back as what they were: read by their own reader, or by that of a picture's color table."""


def written(entry: Format, palette: Palette = PRESS, **options: str) -> bytes:
    assert entry.write
    return entry.written(Document(palette, (INDICES % max(len(palette.swatches), 1),) if entry.needs_picture else (), options))


def group_names(palette: Palette) -> list[str]:
    return [palette.group_name(swatch.group) for swatch in palette.swatches]


@pytest.mark.parametrize("entry", RETURNING, ids=lambda entry: entry.id)
def test_round_trip_keeps_what_the_format_declares(entry: Format) -> None:
    data = written(entry)
    found_format, found = read_palette(data)
    assert found_format.id == (entry.id if entry.read else "color-table")
    back, keeps = found.palette, entry.keeps
    assert [s.color.hex for s in back.swatches] == [s.color.hex for s in PRESS.swatches]
    assert ([s.name for s in back.swatches] == [s.name for s in PRESS.swatches]) == keeps.names
    assert (back.name == PRESS.name) == keeps.title
    assert (group_names(back) == group_names(PRESS)) == keeps.groups
    assert ([s.id for s in back.swatches] == [s.id for s in PRESS.swatches]) == keeps.ids
    assert ([s.locked for s in back.swatches] == [s.locked for s in PRESS.swatches]) == keeps.holds("swatch.locked")
    assert written(entry) == data


@pytest.mark.parametrize("second", [e for e in RETURNING if e.read], ids=lambda entry: entry.id)
@pytest.mark.parametrize("first", [e for e in RETURNING if e.read], ids=lambda entry: entry.id)
def test_every_pair_keeps_what_both_declare(first: Format, second: Format) -> None:
    between = read_palette(written(first))[1].palette
    back = read_palette(written(second, between))[1].palette
    assert [s.color.hex for s in back.swatches] == [s.color.hex for s in PRESS.swatches]
    if first.keeps.names and second.keeps.names:
        assert [s.name for s in back.swatches] == [s.name for s in PRESS.swatches]
    if first.keeps.groups and second.keeps.groups:
        assert group_names(back) == group_names(PRESS)
    if first.keeps.ids and second.keeps.ids:
        assert [s.id for s in back.swatches] == [s.id for s in PRESS.swatches]


@pytest.mark.parametrize("entry", [e for e in RETURNING if e.keeps.alpha != "none"], ids=lambda entry: entry.id)
def test_alpha_survives_where_declared(entry: Format) -> None:
    palette = Palette("A", tuple(Swatch(parse_color(c), c) for c in ("#11223300", "#ff000080", "#00ff00")))
    back = read_palette(written(entry, palette))[1].palette
    some = ["#11223300", "#ff000080", "#00ff00"] if entry.keeps.alpha == "all" else ["#11223300", "#ff0000", "#00ff00"]
    assert [s.color.hex for s in back.swatches] == some


@pytest.mark.parametrize("entry", [e for e in RETURNING if len(e.keeps.spaces) > 1], ids=lambda entry: entry.id)
def test_values_keep_their_space(entry: Format) -> None:
    back = read_palette(written(entry, MODELS))[1].palette
    for before, after in zip(MODELS.swatches, back.swatches, strict=True):
        if before.color.space in entry.keeps.spaces:
            assert after.color.space == before.color.space
            assert after.color.coords == pytest.approx(before.color.coords, abs=6e-3)
    wide = back.swatches[-1].color
    assert not wide.in_srgb, "a color outside sRGB is written as Lab where it cannot stay as it is"
    assert wide.to("oklab") == pytest.approx(MODELS.swatches[-1].color.to("oklab"), abs=1e-3)


def test_pillow_reads_the_text_palette() -> None:
    reader = GimpPaletteFile(io.BytesIO(written(FORMATS["gpl"])))
    raw, mode = reader.getpalette()
    assert mode == "RGB"
    assert list(raw[: 3 * len(PRESS.swatches)]) == [channel for s in PRESS.swatches for channel in s.color.bytes[:3]]


def test_pillow_reads_the_indexed_picture_in_strip_order() -> None:
    image = Image.open(io.BytesIO(written(FORMATS["indexed-png"])))
    assert image.mode == "P"
    assert np.array_equal(np.asarray(image), INDICES)
    raw = image.getpalette() or []
    assert raw[: 3 * len(PRESS.swatches)] == [channel for s in PRESS.swatches for channel in s.color.bytes[:3]]


def test_charts_take_the_colors(tmp_path: Any) -> None:
    sheet = tmp_path / "press.mplstyle"
    sheet.write_bytes(written(FORMATS["chart-style"]))
    params = mpl.rc_params_from_file(sheet, fail_on_error=True, use_default_template=False)
    assert params["axes.prop_cycle"].by_key()["color"] == [s.color.hex for s in PRESS.swatches]
    schema = json.loads((resources.files("altair.vegalite") / "v6" / "schema" / "vega-lite-schema.json").read_text())
    checker = jsonschema.Draft7Validator({"$ref": "#/definitions/Config", "definitions": schema["definitions"]})
    for use, name in (("categories", "category"), ("ramp", "heatmap")):
        config = json.loads(written(FORMATS["chart-config"], use=use))["config"]
        checker.validate(config)
        assert config["range"][name] == [s.color.hex for s in PRESS.swatches]


def test_spreadsheets_read_the_table() -> None:
    rows = list(csv.DictReader(io.StringIO(written(FORMATS["csv"]).decode())))
    assert [row["hex"] for row in rows] == [s.color.hex for s in PRESS.swatches]
    assert rows[0] | {"id": ""} == rows[0] | {"id": "", "name": "Lamp black", "group": "Blacks", "locked": "yes", "index": "0"}


def test_map_table_slices_meet_and_cover_everything() -> None:
    for form, count in (("steps", len(PRESS.swatches)), ("continuous", len(PRESS.swatches) - 1)):
        lines = written(FORMATS["cpt"], form=form).decode().splitlines()
        slices = [line.split("\t")[:4] for line in lines if line[0].isdigit()]
        assert len(slices) == count
        assert (float(slices[0][0]), float(slices[-1][2])) == (0, 1)
        assert all(one[2] == other[0] for one, other in zip(slices[:-1], slices[1:], strict=True))
        assert [line.split("\t")[0] for line in lines[-3:]] == ["B", "F", "N"]


RED_BLUE = Palette("Two", (Swatch(parse_color("#ff0000"), "Re"), Swatch(parse_color("#0000ff"), "B")))
NAMED_RED = b"\0\0" + b"\xff\xff\0\0\0\0\0\0"
NAMED_BLUE = b"\0\0" + b"\0\0\0\0\xff\xff\0\0"
RE, B = b"\0R\0e\0\0", b"\0B\0\0"


def _ase_color(name: bytes, *channels: float) -> bytes:
    body = struct.pack(">H", len(name) // 2) + name + b"RGB " + struct.pack(">3f", *channels) + b"\0\2"
    return b"\0\1" + struct.pack(">I", len(body)) + body


@pytest.mark.parametrize(
    ("format_id", "layout"),
    [
        ("hex", b"ff0000\n0000ff\n"),
        ("pal-text", b"JASC-PAL\r\n0100\r\n2\r\n255 0 0\r\n0 0 255\r\n"),
        ("pal-riff", b"RIFF\x18\0\0\0PAL data\x0c\0\0\0\0\3\2\0\xff\0\0\0\0\0\xff\0"),
        ("act", b"\xff\0\0\0\0\xff" + bytes(762) + b"\0\2\xff\xff"),
        ("aco", b"\0\1\0\2" + NAMED_RED + NAMED_BLUE + b"\0\2\0\2" + NAMED_RED + b"\0\0\0\3" + RE + NAMED_BLUE + b"\0\0\0\2" + B),
        ("ase", b"ASEF\0\1\0\0\0\0\0\2" + _ase_color(RE, 1, 0, 0) + _ase_color(B, 0, 0, 1)),
        ("gpl", b"GIMP Palette\nName: Two\nColumns: 0\n#\n255   0   0\tRe\n  0   0 255\tB\n"),
    ],
)  # fmt: skip
def test_bytes_follow_the_layout(format_id: str, layout: bytes) -> None:
    assert written(FORMATS[format_id], RED_BLUE) == layout
    assert [s.color.hex for s in read_palette(layout)[1].palette.swatches] == ["#ff0000", "#0000ff"]


def test_old_and_odd_forms_are_read() -> None:
    first_version = b"\0\1\0\3" + NAMED_RED + struct.pack(">5H", 2, 0, 65535, 65535, 65535) + struct.pack(">5H", 9, 10000, 0, 0, 0)
    colors = [s.color for s in read_palette(first_version)[1].palette.swatches]
    assert [(c.space, c.coords) for c in colors[1:]] == [("cmyk", (1, 0, 0, 0)), ("cmyk", (1, 0, 0, 0))]
    lab = struct.pack(">HH5H", 1, 1, 7, 5000, 65536 - 1000, 2000, 0)
    assert read_palette(lab)[1].palette.swatches[0].color == Color("lab", (50, -10, 20))
    plain_table = bytes(range(256)) * 3
    assert len(read_palette(plain_table, "a.act")[1].palette.swatches) == 256
    head = b"GIMP Palette"
    data = b"\xef\xbb\xbf" + head + b"\r\nName: Caf\xc3\xa9\r\nColumns: 8\r\n#\r\n# a remark\r\n 255\t0 0   Red one \r\n\r\n0 0 255"
    palette = read_palette(data)[1].palette
    assert (palette.name, palette.columns) == ("Café", 8)
    assert [s.color.hex for s in palette.swatches] == ["#ff0000", "#0000ff"]
    assert palette.swatches[0].name == "Red one"
    assert "blue" in palette.swatches[1].name
    assert read_palette(head + b"\nName: Caf\xe9\n1 2 3 x\n")[1].palette.name == "Café"
    foreign = read_palette("label;r;g;b\nDämmer;1;2;3\n".encode("latin-1"))[1].palette
    assert (foreign.swatches[0].name, foreign.swatches[0].color.hex) == ("Dämmer", "#010203")
    scss = read_palette(b"$dusk: oklch(0.4 0.1 270); // Dusk blue\n@lamp-oil: #fc3;\n$gap: 4px;\n")[1]
    assert [(s.name, s.color.space) for s in scss.palette.swatches] == [("Dusk blue", "oklch"), ("Lamp oil", "srgb")]
    assert "1 variable that holds no color was left out: $gap." in scss.notes


def test_names_for_style_sheets_are_unique_and_the_old_ones_stay() -> None:
    twice = Palette(
        "T", (Swatch(parse_color("#111"), "Eye spot"), Swatch(parse_color("#222"), "Eye-spot"), Swatch(parse_color("#333"), "9 */ ü"))
    )
    text = written(FORMATS["css"], twice, notation="rgb").decode()
    assert text.splitlines()[1:4] == [
        "  --eye-spot: rgb(17 17 17); /* Eye spot */", "  --eye-spot-2: rgb(34 34 34); /* Eye-spot */",
        "  --color-9: rgb(51 51 51); /* 9 * / ü */",
    ]  # fmt: skip
    with pytest.raises(BadFile, match=r"“cmyk” is no choice for written as\. Choose one of: hex, rgb, hsl, oklch\."):
        written(FORMATS["css"], notation="cmyk")


def test_text_is_scanned_for_every_notation_with_labels() -> None:
    text = (
        "Night blue: #262b5c, then Lamp (0xffd478)\n"
        "wing 138 106 82 of the fore wing\n"
        "glow = 0.5, 0.25, 1.0;\n"
        "oklch(0.7 0.1 200) rgb(1 2 3)\n"
        "painted in tomato\n"
        "issue 123456, 10 20, part 3, #12, 300 400 500, the blue one: a1b2c3\n"
    )
    found = read_palette(text.encode(), "notes.txt")
    rows = [(s.name, s.color.hex) for s in found[1].palette.swatches]
    assert rows == [
        ("Night blue", "#262b5c"), ("Lamp", "#ffd478"), ("wing", "#8a6a52"), ("glow", "#8040ff"), ("Teal", rows[4][1]),
        (rows[5][0], "#010203"), ("painted", "#ff6347"), (rows[7][0], "#a1b2c3"),
    ]  # fmt: skip
    assert [find >= SURE_ENOUGH for find in found[1].sure] == [True, True, False, False, True, True, False, True]
    assert found[1].palette.name == "notes"
    assert found[1].notes[0] == "Found by scanning the text: 8 colors, 3 of them doubtful and not ticked."


def test_grids_are_found_and_told() -> None:
    cells = np.random.default_rng(5).integers(0, 256, (3, 5, 3)).astype(np.uint8)
    grid = opaque(np.repeat(np.repeat(cells, 6, axis=0), 4, axis=1))
    grid[12:, 12:] = 0
    reading = read_palettes(png(grid))[0]
    assert reading.format.id == "strip-png"
    assert reading.found.notes == ("Read as a grid of 5 × 3 cells of 4 × 6 pixels, 2 clear ones at the end left out.",)
    assert [s.color.bytes[:3] for s in reading.found.palette.swatches] == [tuple(c) for c in cells.reshape(-1, 3)[:13].tolist()]
    twins = Palette("T", tuple(Swatch(parse_color(c)) for c in ("#111", "#111", "#222", "#222", "#222")))
    assert len(read_palette(written(FORMATS["strip-png"], twins))[1].palette.swatches) == 5
    with pytest.raises(BadFile, match="has too many colors of its own to be a palette"):
        read_palettes(png(painted(64, 64)), "photo.png")


def test_a_picture_is_read_by_its_table_and_by_its_own_colors() -> None:
    data = written(FORMATS["indexed-png"], PRESS)
    readings = {reading.format.id: reading.found.palette for reading in read_palettes(data, "p.png")}
    used = [PRESS.swatches[index].color.hex for index in dict.fromkeys(INDICES.ravel().tolist())]
    assert [s.color.hex for s in readings["own-colors"].swatches] == used
    assert len(readings["color-table"].swatches) == len(PRESS.swatches)


@pytest.mark.parametrize("entry", [e for e in RETURNING if e.read and not e.is_text], ids=lambda entry: entry.id)
def test_a_binary_file_cut_at_any_offset_is_refused_with_the_offset(entry: Format) -> None:
    palette = Palette("Few", PRESS.swatches[3:5], PRESS.groups[1:2])
    data = written(entry, palette)
    whole_without_names = 4 + 10 * len(palette.swatches)
    lengths = range(len(data)) if len(data) < 400 else (*range(0, len(data), 37), 767, 769, 771)
    for length in lengths:
        if (entry.id, length) in (("aco", whole_without_names), ("act", 768)):
            continue  # a whole file of the older form
        if entry.media_type == "image/png" and length > len(data) - 40:
            # All pixels may be there already; then it must be the whole strip.
            with contextlib.suppress(BadFile):
                assert len(read_palette(data[:length])[1].palette.swatches) == len(palette.swatches)
            continue
        with pytest.raises(BadFile) as caught:
            read_palettes(data[:length], f"cut{entry.endings[0]}")
        message = str(caught.value)
        said = ("cut short", "not a picture") if entry.media_type == "image/png" else ("Byte ", "Line 1")
        assert any(words in message for words in (*said, "no bytes")), (length, message)


@pytest.mark.parametrize("entry", [e for e in RETURNING if e.is_text], ids=lambda entry: entry.id)
def test_a_text_file_cut_anywhere_is_read_or_refused_in_words(entry: Format) -> None:
    data = written(entry)
    for length in range(0, len(data), max(1, len(data) // 60)):
        with contextlib.suppress(HuvrenError):
            assert read_palette(data[:length])[1].palette.swatches


MANY = b"\n".join([b"%06x" % n for n in range(1_000_000)])


@pytest.mark.parametrize(
    ("name", "data", "words"),
    [
        ("a.gpl", b"", "“a.gpl” is empty: it has no bytes"),
        ("a.txt", b"hello there\n", "“a.txt” cannot be read as .txt any text. There is no color in that text."),
        ("a.bin", bytes(50), "is not a palette that can be read. These work: .gpl, .json, .ase, .aco"),
        ("a.gpl", b"GIMP Palette\n", "The file holds no color"),
        ("a.gpl", b"GIMP Palette\n1 2 x\n", "Line 2: “1 2 x” is no row of three numbers"),
        ("a.gpl", b"GIMP Palette\n1 2 300 a\n", "Line 2: 300 is more than 255"),
        ("a.gpl", b"GIMP Palette\nColumns: many\n", "“Columns:” is followed by “many”"),
        ("a.gpl", b"Gump Palette\n1 2 x\n", "Line 1: the fixed first line of a .gpl text palette is missing"),
        ("a.hex", MANY[: 7 * 110_000], "holds more than 100,000 colors"),
        ("a.json", b'{"format": "huvren-palette", "version": 1, "swatches": [', "not sound JSON. Line 1"),
        ("a.json", b'{"format": "huvren-palette", "version": 0, "swatches": []}', "“0” is no version of a palette"),
        ("a.json", b'{"format": "huvren-palette", "version": 1}', "the field 'swatches' is missing"),
        ("a.pal", b"JASC-PAL\r\n0100\r\n9\r\n1 2 3\r\n", "Line 3: it says 9 colors, but 1 rows follow"),
        ("a.pal", b"JASC-PAL\r\n0100\r\n1\r\n1 2 256\r\n", "Line 4: “1 2 256” is no row"),
        ("a.pal", b"RIFF\xff\xff\0\0PAL data\x0c\0\0\0\0\3\2\0\xff\0\0\0\0\0\xff\0", "Byte 4: the file claims 65,535 bytes more"),
        ("a.pal", b"RIFF\x18\0\0\0PAL data\x0c\0\0\0\0\3\xff\xff\xff\0\0\0\0\0\xff\0", "65,535 colors need"),
        ("a.aco", b"\0\1\xff\xff" + NAMED_RED, "Byte 14: a color should take 10 bytes, but 0 are left. The file is cut short."),
        ("a.aco", b"\0\2\0\1" + NAMED_RED + b"\xff\xff\xff\xff", "a name should take 8,589,934,590 bytes"),
        ("a.aco", b"\0\1\0\1" + struct.pack(">5H", 44, 0, 0, 0, 0), "Byte 4: 44 is no known color space"),
        ("a.ase", b"ASEF\0\1\0\0\xff\xff\xff\xff", "a block's kind and length should take 6 bytes, but 0 are left"),
        ("a.ase", b"ASEF\0\1\0\0\0\0\0\1\0\1\0\0\0\2\0\0", "Byte 20: a color model should take 4 bytes"),
        ("a.act", bytes(700), "Byte 700: the file ends here; an .act color table has 768 or 772 bytes"),
        ("a.csv", b"name,hex\nx,#12\n", "Line 2: “#12” is no color"),
        ("a.csv", b"name,r,g,b\nx,1,2,300\n", "Line 2: a channel is not from 0 to 255"),
        ("a.css", b":root { --gap: 4px; }", "None of its variables is a color"),
    ],
)  # fmt: skip
def test_broken_palettes_are_told_why(name: str, data: bytes, words: str) -> None:
    with pytest.raises((BadFile, TooLarge)) as caught:
        read_palettes(data, name)
    assert words in str(caught.value)


def test_names_with_control_characters_are_cleaned() -> None:
    odd = Palette("O", (Swatch(parse_color("#123456"), "A\x07b\u2028c\n d"),))
    for format_id in ("ase", "aco", "json"):
        assert read_palette(written(FORMATS[format_id], odd))[1].palette.swatches[0].name == "A b c d"


def test_writers_say_what_they_cannot_write() -> None:
    many = Palette("M", tuple(Swatch(parse_color(f"#0000{n % 256:02x}")) for n in range(257)))
    for format_id, palette, indices, words in (
        ("indexed-png", PRESS, None, "needs a reduced picture"),
        ("indexed-png", many, INDICES, "holds 1 to 256 colors; this palette has 257"),
        ("indexed-png", Palette("S", PRESS.swatches[:2]), INDICES, "A pixel of the picture has no swatch"),
        ("act", many, None, "holds 256 colors; this palette has 257"),
        ("strip-png", Palette("E"), None, "There is no swatch to draw"),
        ("cpt", Palette("E"), None, "There is no swatch to write"),
    ):
        write = FORMATS[format_id].written
        assert write
        with pytest.raises((BadInput, BadFile), match=words):
            write(Document(palette, (indices,)))


def test_a_group_that_opens_again_is_a_group_of_its_own() -> None:
    text = b"GIMP Palette\n# group: A\n1 1 1\ta\n# group: B\n2 2 2\tb\n# group: A\n3 3 3\tc\n"
    found = read_palette(text)[1]
    assert [s.name for s in found.palette.swatches] == ["a", "b", "c"], "order is sacred"
    assert [group.name for group in found.palette.groups] == ["A", "B", "A"]
    assert isinstance(found.palette.groups[0], Group)
    assert found.notes == ("“A” stands in 2 places of the file: each is a group of its own, so that nothing moves.",)


def test_a_table_without_a_mark_is_told_by_its_ending_or_its_tail() -> None:
    dark = bytes(range(256)) * 3
    letters = (b"abcdefgh" * 96)[:768]
    for table in (dark, letters):
        assert read_palettes(table, "tones.act")[0].format is FORMATS["act"]
        with pytest.raises(BadFile):
            read_palettes(table, "tones.bin")
    assert read_palettes(dark + b"\0\7\xff\xff", "tones.bin")[0].format is FORMATS["act"]
    for tail in (b"\0\0\xff\xff", b"\x01\x01\xff\xff", b"\0\7\x01\0"):
        assert FORMATS["act"].sniff(dark + tail) == 0
        with pytest.raises(BadFile):
            read_palettes(dark + tail, "tones.bin")
    listed = read_palettes(b"#e85421\n#203040\n", "wrong.act")[0]
    assert [swatch.color.hex for swatch in listed.found.palette.swatches] == ["#e85421", "#203040"]
    with pytest.raises(BadFile, match="Byte 700: the file ends here"):
        read_palettes(bytes(700), "a.act")
