"""Awkward but legal files come in as what they are: order, tables of every shape, alpha first or last, digits and encodings."""

import struct
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from huvren.cli import main
from huvren.core.color.notation import parse_color
from huvren.core.errors import BadFile
from huvren.core.formats import FORMATS, Document
from huvren.core.formats.readings import read_palette, read_palettes
from huvren.core.formats.report import keep_report
from huvren.core.palette.values import Group, Palette, Swatch

KEEP_GROUPS = [entry.id for entry in FORMATS if entry.is_of_palettes and entry.read and entry.keeps.groups]


def palette_in_runs(runs: list[tuple[str, int]]) -> Palette:
    """Runs of so many swatches, each a group of its own by that name; no group for an empty one."""
    swatches, groups = [], []
    for name, count in runs:
        group = Group(name) if name else None
        groups += [group] if group else []
        for _ in range(count):
            number = len(swatches)
            swatches.append(
                Swatch(parse_color(f"#{number:02x}40{255 - number:02x}"), f"Ink {number}", group=group.id if group else None)
            )
    return Palette("Runs", tuple(swatches), tuple(groups))


def shape(palette: Palette) -> list[tuple[str, str, object]]:
    return [(swatch.color.hex, palette.group_name(swatch.group), swatch.group) for swatch in palette.swatches]


@settings(max_examples=60, deadline=None)
@given(
    st.sampled_from(KEEP_GROUPS),
    st.lists(st.tuples(st.sampled_from(["", "A", "B", "Wing parts"]), st.integers(1, 3)), min_size=1, max_size=7),
)
def test_nothing_is_moved_and_the_report_says_what_is_joined(format_id: str, runs: list[tuple[str, int]]) -> None:
    entry, palette = FORMATS[format_id], palette_in_runs(runs)
    back = read_palette(entry.written(Document(palette)), f"a{entry.endings[0]}")[1].palette
    assert [swatch.color.hex for swatch in back.swatches] == [swatch.color.hex for swatch in palette.swatches]
    assert [name for _, name, _ in shape(back)] == [name for _, name, _ in shape(palette)]

    def cuts(palette: Palette) -> list[bool]:
        groups = [group for _, _, group in shape(palette)]
        return [before != after for before, after in zip(groups, groups[1:], strict=False)]

    reported = any(loss.code == "joined" for loss in keep_report(entry, Document(palette)))
    assert (cuts(back) != cuts(palette)) == reported


@pytest.mark.parametrize("data", [
    b"GIMP Palette\n#\n0 0 0\ts0\n1 0 0\ts1\n# group: G\n2 0 0\ts2\n# group:\n3 0 0\ts3\n4 0 0\ts4\n",
    b"name,hex,group\ns0,000000,\ns1,010000,\ns2,020000,G\ns3,030000,\ns4,040000,\n",
    b":root { --s0: #000000; --s1: #010000; /* group: G */ --s2: #020000; /* group: */ --s3: #030000; --s4: #040000; }",
])  # fmt: skip
def test_a_group_in_the_middle_stays_in_the_middle(data: bytes) -> None:
    palette = read_palette(data)[1].palette
    assert [swatch.name.lower() for swatch in palette.swatches] == ["s0", "s1", "s2", "s3", "s4"]
    assert [palette.group_name(swatch.group) for swatch in palette.swatches] == ["", "", "G", "", ""]


TABLES: list[tuple[str, list[tuple[str, str]]]] = [
    ("Hex,Name\n#e85421,Eye-spot\n1b1a1d,Ink\n", [("Eye-spot", "#e85421"), ("Ink", "#1b1a1d")]),
    ('"NAME";"HEX"\n"Eye; spot";"#e85421"\n', [("Eye; spot", "#e85421")]),
    ("name\tcolour\nEye-spot\t#e85421\n", [("Eye-spot", "#e85421")]),
    ("Color,R,G,B\nEye-spot,232,84,33\nInk,27,26,29\n", [("Eye-spot", "#e85421"), ("Ink", "#1b1a1d")]),
    ("B,G,R,Title\n33,84,232,Eye-spot\n", [("Eye-spot", "#e85421")]),
    ("R (0-255),G (0-255),B (0-255)\n232,84,33\n0,0,1\n", [("", "#e85421"), ("", "#000001")]),
    ("red;green;blue;label\n0,5;0,25;1;A\n1;0;0;B\n", [("A", "#8040ff"), ("B", "#ff0000")]),
    ("red,green,blue\n1,0,0\n0.5,0.5,0.5\n", [("", "#ff0000"), ("", "#808080")]),
    ("r,g,b\n100%,0%,0%\n50%,50%,50%\n", [("", "#ff0000"), ("", "#808080")]),
    ("h,s,l\n120,100,25\n0,0,50\n", [("", "#008000"), ("", "#808080")]),
    ("H,S,L\n120,1,0.25\n0,0,0.5\n", [("", "#008000"), ("", "#808080")]),
    ("hue,saturation,brightness\n120,100,50\n", [("", "#008000")]),
    ("C,M,Y,K,Name\n0,100,100,0,Red\n0,0,0,50,Gray\n", [("Red", "#ff0000"), ("Gray", "#808080")]),
    ("c,m,y,k\n0,1,1,0\n0,0,0,0.5\n", [("", "#ff0000"), ("", "#808080")]),
    ("L,a,b\n100,0,0\n0,0,0\n", [("", "#ffffff"), ("", "#000000")]),
    ("name,r,g,b,alpha\nHalf,255,0,0,128\nFull,0,0,0,255\n", [("Half", "#ff000080"), ("Full", "#000000")]),
    ("name,r,g,b,alpha\nHalf,255,0,0,0.5\nFull,0,0,0,1\n", [("Half", "#ff000080"), ("Full", "#000000")]),
    ("name,hex,opacity\nHalf,#ff0000,50%\nFull,#000000,100%\n", [("Half", "#ff000080"), ("Full", "#000000")]),
    ('name,hex\n"two\nlines",#ff0000\nlast,#00ff00\n', [("two lines", "#ff0000"), ("last", "#00ff00")]),
    ("swatch,code,set\nEye,#e85421,Marks\n", [("Eye", "#e85421")]),
    ("id,name,hex\n1,Eye,rgb(232 84 33)\n", [("Eye", "#e85421")]),
]  # fmt: skip


@pytest.mark.parametrize(("text", "wanted"), TABLES)
@pytest.mark.parametrize("coding", ["utf-8", "utf-8-sig", "utf-16"])
def test_tables_of_every_shape(text: str, wanted: list[tuple[str, str]], coding: str) -> None:
    entry, found = read_palette(text.encode(coding), "a.csv")
    assert entry.id == "csv"
    assert [swatch.color.hex for swatch in found.palette.swatches] == [code for _, code in wanted]
    for swatch, (name, _) in zip(found.palette.swatches, wanted, strict=True):
        assert not name or swatch.name == name
    assert found.notes == ()


def test_a_bad_cell_is_a_note_with_its_line_and_not_the_end() -> None:
    text = 'name,r,g,b\nA,1,2,3\n"B\nB",4,,6\nC,x,8,9\n\nD,10,11,12\n'
    found = read_palette(text.encode(), "a.csv")[1]
    assert [swatch.name for swatch in found.palette.swatches] == ["A", "D"]
    assert found.notes == ("Line 3: a number is missing.", "Line 5: “x” is no number.")
    many = "name,hex\n" + "".join(f"n{n},nope\n" for n in range(20)) + "ok,#123456\n"
    notes = read_palette(many.encode(), "a.csv")[1].notes
    assert notes[-1] == "14 more lines like these."
    with pytest.raises(BadFile, match="Line 2: "):
        read_palette(b"name,r,g,b\nA,1,2,900\n", "a.csv")


def test_two_rows_of_one_id_keep_both_colors() -> None:
    found = read_palette(b"id,name,hex\nx,A,#010101\nx,B,#020202\n", "a.csv")[1]
    assert [swatch.color.hex for swatch in found.palette.swatches] == ["#010101", "#020202"]
    assert found.palette.swatches[0].id == "x"
    assert found.palette.swatches[1].id != "x"
    assert "stands in two rows" in found.notes[0]


@pytest.mark.parametrize(
    ("text", "first", "codes"),
    [
        ("FFFF0000\nFF00FF00\n", "alpha first", ["#ff0000", "#00ff00"]),
        ("80ff0000\n40ffff00\n", "alpha first", ["#ff000080", "#ffff0040"]),
        ("ff0000ff\n00ff00ff\n", "alpha last", ["#ff0000", "#00ff00"]),
        ("ffffffff\nff0000ff\n", "alpha last", ["#ffffff", "#ff0000"]),
        ("12345678\nabcdef01\n", "alpha last", ["#12345678", "#abcdef01"]),
        ("#ff000080\n0x00ff00\nabc\n", "alpha last", ["#ff000080", "#00ff00", "#aabbcc"]),
    ],
)  # fmt: skip
def test_alpha_first_or_last_are_both_offered_the_likelier_first(text: str, first: str, codes: list[str]) -> None:
    readings = [reading for reading in read_palettes(text.encode(), "list.hex") if reading.format is FORMATS["hex"]]
    assert [reading.way for reading in readings] == [first, "alpha last" if first == "alpha first" else "alpha first"]
    assert readings[0].label.endswith(first)
    assert [swatch.color.hex for swatch in readings[0].found.palette.swatches] == codes
    assert [s.color.hex for s in readings[1].found.palette.swatches] != codes


def test_the_command_line_takes_the_alpha_that_it_is_told(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    source, out = tmp_path / "list.hex", tmp_path / "out.json"
    source.write_text("FFFF0000\n8000FF00\n")
    for words, codes in (((), ["#ffff0000", "#8000ff00"]), (("--alpha", "first"), ["#ff0000", "#00ff0080"]),
                         (("--alpha", "last"), ["#ffff0000", "#8000ff00"])):  # fmt: skip
        assert main(["convert", str(source), "--to", "json", "--out", str(out), *words]) == 0
        said = capsys.readouterr().out
        palette = read_palette(out.read_bytes(), "out.json")[1].palette
        likelier = codes if words else ["#ff0000", "#00ff0080"]
        assert [swatch.color.hex for swatch in palette.swatches] == likelier
        assert "alpha " in said, "the line says how it was read"
    assert main(["convert", str(tmp_path / "none.hex"), "--to", "json"]) == 1


@pytest.mark.parametrize(
    ("data", "words"),
    [
        ("GIMP Palette\nColumns: ²\n1 2 3\ta\n", "a whole number was expected"),
        ("GIMP Palette\n² 2 3\ta\n", "is no row of three numbers"),
        ("GIMP Palette\n١ 2 3\ta\n", "is no row of three numbers"),
        ("JASC-PAL\n0100\n²\n1 2 3\n", "is no number of colors"),
        ("JASC-PAL\n0100\n1\n1 ² 3\n", "is no row of three numbers"),
    ],
)  # fmt: skip
def test_digits_of_unicode_are_refused_in_words(data: str, words: str) -> None:
    with pytest.raises(BadFile, match=words):
        read_palette(data.encode())


@pytest.mark.parametrize("mark", ["utf-16", "utf-16-be-mark"])
def test_text_of_utf_16_is_read(mark: str) -> None:
    def coded(text: str) -> bytes:
        return text.encode("utf-16") if mark == "utf-16" else b"\xfe\xff" + text.encode("utf-16-be")

    gpl = read_palette(coded("GIMP Palette\nName: Größe\n232 84 33\tFlügel\n"))
    assert (gpl[0].id, gpl[1].palette.name, gpl[1].palette.swatches[0].name) == ("gpl", "Größe", "Flügel")
    assert read_palette(coded("e85421\n1b1a1d\n"), "a.hex")[0].id == "hex"
    css = read_palette(coded(":root { --eye: #e85421; }"), "a.css")
    assert css[1].palette.swatches[0].color.hex == "#e85421"


@pytest.mark.parametrize("tail", [" " * 60_000, "\t" * 60_000 + "x", "n" * 60_000])
def test_a_long_name_of_blanks_is_read_at_once(tail: str) -> None:
    """Where a regular expression would try every way to part the blanks, this would not end within a test's patience."""
    found = read_palette(f"GIMP Palette\n1 2 3\ta{tail}\n4 5 6 {tail}\n".encode())[1]
    assert [swatch.color.hex for swatch in found.palette.swatches] == ["#010203", "#040506"]


@pytest.mark.parametrize(
    "text",
    [
        ":root{--eye:#e85421;--ink:#1b1a1d}", ":root{--eye:#e85421;--ink:#1b1a1d;}", ".a{--eye:#e85421}.b{--ink:#1b1a1d}",
        "$eye: #e85421;\n$ink: #1b1a1d;\n", "@eye: #e85421;\n@ink: #1b1a1d;", ":root {\n  --eye: #e85421;\n  --ink: #1b1a1d\n}",
    ],
)  # fmt: skip
def test_the_last_declaration_of_a_rule_counts_with_and_without_its_mark(text: str) -> None:
    palette = read_palette(text.encode(), "a.css")[1].palette
    assert [(swatch.name, swatch.color.hex) for swatch in palette.swatches] == [("Eye", "#e85421"), ("Ink", "#1b1a1d")]


@pytest.mark.parametrize("head", ["--a:#fff;" + "-" * 60_000, "--a:#fff;--a: " + " " * 60_000, "--a:#fff;" + "$" * 60_000])
def test_a_style_sheet_without_an_end_is_given_up_at_once(head: str) -> None:
    assert [swatch.color.hex for swatch in read_palette(head.encode(), "a.css")[1].palette.swatches] == ["#ffffff"]


def test_every_writer_that_says_nothing_is_lost_is_right() -> None:
    plain = Palette("Plain", tuple(Swatch(parse_color(code), name) for code, name in (("#e85421", "Eye"), ("#1b1a1d", "Ink"))))
    for entry in FORMATS:
        if not (entry.is_of_palettes and entry.read):
            continue
        losses: list[Any] = [loss for loss in keep_report(entry, Document(plain)) if loss.code not in {"ids"}]
        back = read_palette(entry.written(Document(plain)), f"a{entry.endings[0]}")[1].palette
        if not losses:
            assert [(s.color.hex, s.name) for s in back.swatches] == [(s.color.hex, s.name) for s in plain.swatches], entry.id


def test_the_report_counts_places_pins_tags_columns_and_limits_as_they_go() -> None:
    swatches = tuple(
        Swatch(parse_color(f"#{n}0{n}0{n}0"), f"Ink {n}", slot=slot, pinned=slot == 5) for n, slot in enumerate((0, 2, 5))
    )
    palette = Palette("Slots", swatches, slots=16, tags=("press", "spring"), limits=(("text", (("low", 7.0),)),))

    def said(format_id: str) -> dict[str, str]:
        return {loss.code: loss.text for loss in keep_report(FORMATS[format_id], Document(palette))}

    act = said("act")
    assert act["places"] == "3 empty places filled with black"
    assert act["places-end"] == "10 empty places dropped at the end"
    back = read_palette(FORMATS["act"].written(Document(palette)), "a.act")[1].palette
    assert [swatch.color.hex for swatch in back.swatches] == ["#000000", "#000000", "#101010", "#000000", "#000000", "#202020"]
    gpl = said("gpl")
    assert gpl["places"] == "13 empty places dropped: the swatches close up"
    assert gpl["pins"] == "1 pin dropped"
    assert gpl["tags"] == "2 tags of the palette dropped"
    assert gpl["limits"] == "limits of 1 check dropped"
    assert said("json") == {}
    wide = Palette("Wide", (Swatch(parse_color("#123456"), "Ink", group="g"),), (Group("G", "g", 4),))
    assert keep_report(FORMATS["gpl"], Document(wide))[0].text == "the columns of 1 group dropped"
    assert keep_report(FORMATS["json"], Document(wide)) == []


@pytest.fixture(scope="module")
def many() -> Palette:
    """More swatches than a file whose places have sixteen bits can hold."""
    color = parse_color("#123456")
    return Palette("Many", tuple(Swatch(color, f"Ink {n}", f"s{n}") for n in range(66_000)))


@pytest.mark.parametrize("entry", [entry for entry in FORMATS if entry.is_of_palettes], ids=lambda entry: entry.id)
def test_too_many_swatches_are_refused_in_words_or_written(entry: Any, many: Palette) -> None:
    losses = {loss.code: loss for loss in keep_report(entry, Document(many))}
    if "count" in losses:
        with pytest.raises(BadFile, match="66,000"):
            entry.written(Document(many))
        assert losses["count"].count == 66_000 - (entry.keeps.most or 0)
    else:
        assert entry.written(Document(many))


def test_thousands_of_one_name_get_a_variable_each() -> None:
    color = parse_color("#123456")
    names = ["Ink"] * 20_000 + ["Ink 2", "Ink 2", "ink-3"]
    palette = Palette("Same", tuple(Swatch(color, name, f"s{n}") for n, name in enumerate(names)))
    text = FORMATS["css"].written(Document(palette)).decode()
    variables = [line.split(":")[0].strip() for line in text.splitlines() if line.strip().startswith("--")]
    assert len(set(variables)) == len(names)
    assert variables[:3] == ["--ink", "--ink-2", "--ink-3"]


def _block(kind: int, body: bytes) -> bytes:
    return struct.pack(">HI", kind, len(body)) + body


def _said(text: str) -> bytes:
    return struct.pack(">H", len(text) + 1) + (text + "\0").encode("utf-16-be")


def _swatch(name: str, kind: int) -> bytes:
    return _block(1, _said(name) + b"RGB " + struct.pack(">3fH", 1, 0.5, 0, kind))


def test_groups_within_groups_and_kinds_of_an_exchange_file_are_kept() -> None:
    start, end = (lambda name: _block(0xC001, _said(name))), _block(0xC002, b"")
    blocks = [
        _swatch("Alone", 2), start("Inks"), _swatch("First", 0), start("Dark"), _swatch("Inner", 1), end, _swatch("Again", 2),
        end, end,
        _swatch("Last", 2),
    ]  # fmt: skip
    data = b"ASEF" + struct.pack(">HHI", 1, 0, len(blocks)) + b"".join(blocks)
    palette = read_palette(data, "a.ase")[1].palette
    assert [(s.name, palette.group_name(s.group), s.tags) for s in palette.swatches] == [
        ("Alone", "", ()), ("First", "Inks", ("global",)), ("Inner", "Inks / Dark", ("spot",)), ("Again", "Inks", ()),
        ("Last", "", ()),
    ]  # fmt: skip
    back = read_palette(FORMATS["ase"].written(Document(palette)), "a.ase")[1].palette
    assert [s.tags for s in back.swatches] == [s.tags for s in palette.swatches]
    deep = [start("g")] * 20
    with pytest.raises(BadFile, match="more than 16 deep"):
        read_palette(b"ASEF" + struct.pack(">HHI", 1, 0, 20) + b"".join(deep), "a.ase")


@pytest.mark.parametrize("padding", [2, 7, 512])
def test_a_swatch_table_filled_up_with_zeros_is_whole(padding: int) -> None:
    palette = Palette("P", (Swatch(parse_color("#e85421"), "Eye"), Swatch(parse_color("#1b1a1d"), "Ink")))
    data = FORMATS["aco"].written(Document(palette))
    named = read_palette(data + bytes(padding), "a.aco")[1].palette
    assert [(s.name, s.color.hex) for s in named.swatches] == [("Eye", "#e85421"), ("Ink", "#1b1a1d")]
    old = read_palette(data[: 4 + 10 * 2] + bytes(padding), "a.aco")[1].palette
    assert [s.color.hex for s in old.swatches] == ["#e85421", "#1b1a1d"]
