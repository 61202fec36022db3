"""Style sheets as people and programs write them: CSS, SCSS and LESS, minified, nested, commented, worked out."""

import contextlib
from collections.abc import Callable
from typing import Any

import pytest
from coloraide import Color as Oracle
from hypothesis import given, settings
from hypothesis import strategies as st

from huvren.core.color.difference import delta_eok
from huvren.core.errors import BadFile, HuvrenError, TooLarge
from huvren.core.formats import FORMATS, Found, SwatchList
from huvren.core.formats.readings import read_palettes
from huvren.core.formats.style_sheets.css_properties import _Left, _read_plain, _read_sheet
from huvren.core.formats.style_sheets.css_values import look_over_chains
from huvren.core.formats.style_sheets.style_sheet import with_block_comments
from huvren.core.palette.values import Palette
from tests.counting import steps_of

CSS = FORMATS["css"]


def found(text: str) -> Found:
    assert CSS.read
    return CSS.read(text.encode())


def rows(text: str) -> list[tuple[str, str]]:
    return [(swatch.name, swatch.color.hex) for swatch in found(text).palette.swatches]


SHEETS: list[tuple[str, list[tuple[str, str]]]] = [
    (":root{--eye:#e85421;--ink:#1b1a1d}", [("Eye", "#e85421"), ("Ink", "#1b1a1d")]),
    (":root{--eye:#e85421}.b{--ink:#1b1a1d}", [("Eye", "#e85421"), ("Ink", "#1b1a1d")]),
    ("$eye: #e85421 !default;\n$ink: #1b1a1d!default ;", [("Eye", "#e85421"), ("Ink", "#1b1a1d")]),
    (":root { --eye: #e85421 !important }", [("Eye", "#e85421")]),
    ("$eye : #e85421;", [("Eye", "#e85421")]),
    (":root { --a: var(--b); --b: #00f }", [("A", "#0000ff"), ("B", "#0000ff")]),
    (":root { --a: var(--gone, var(--b, #0f0)); }", [("A", "#00ff00")]),
    (".dark { --a: var(--b); --b: #111 } .light { --b: #eee }", [("A", "#111111"), ("B", "#111111"), ("B", "#eeeeee")]),
    ("@media (prefers-color-scheme: dark) { :root { --b: #000 } } :root { --b: #fff; --a: var(--b) }",
     [("B", "#000000"), ("B", "#ffffff"), ("A", "#ffffff")]),
    (":root { --a: color-mix(in srgb, #f00, #00f); }", [("A", "#800080")]),
    (":root { --a: color-mix(in srgb, #f00 25%, #00f); }", [("A", "#4000bf")]),
    (":root { --a: color-mix(in srgb, #f00 25%, #00f 25%); }", [("A", "#80008080")]),
    (":root { --a: color-mix(in srgb, var(--b) 100%, #00f); --b: red }", [("A", "#ff0000"), ("B", "#ff0000")]),
    (":root { --a: rgb(from #336699 b g r); }", [("A", "#996633")]),
    (":root { --a: rgb(from #336699 r g b / 50%); }", [("A", "#33669980")]),
    (":root { --a: hsl(from #ff0000 calc(h + 120) s l); }", [("A", "#00ff00")]),
    (":root { --a: rgb(calc(10 * 2) calc(100 - 60) calc(30 + 2 * 5)); }", [("A", "#142828")]),
    (":root { --a: light-dark(#fff, #000); }", [("A", "#ffffff")]),
    ("$m: (eye: #e85421, 'ink blue': #1b1a1d);", [("Eye", "#e85421"), ("Ink blue", "#1b1a1d")]),
    ("$m: (\n  eye: #e85421,\n  inks: (dark: #111, pale: #eee),\n  last: red,\n) !default;",
     [("Eye", "#e85421"), ("Dark", "#111111"), ("Pale", "#eeeeee"), ("Last", "#ff0000")]),
    ("$list: #111, #222 , #333;", [("List 1", "#111111"), ("List 2", "#222222"), ("List 3", "#333333")]),
    (".a { .b { $eye: #e85421; &:hover { --ink: #1b1a1d } } }", [("Eye", "#e85421"), ("Ink", "#1b1a1d")]),
    (":root { --wing\\.tip: #e85421; --\\31 st: #1b1a1d; --🌙: #223; --größe: #445566 }",
     [("Wing.tip", "#e85421"), ("1st", "#1b1a1d"), ("🌙", "#222233"), ("Größe", "#445566")]),
    (":root {\n  --a: rgb(\n    232,\n    84,\n    33\n  );\n}", [("A", "#e85421")]),
    ("@property --eye { syntax: '<color>'; inherits: false; initial-value: #e85421; }", [("Eye", "#e85421")]),
    ("/* $old: #f00; */ $new: #0f0; // $older: #00f;\n", [("$older: #00f;", "#00ff00")]),
    ("// $old: #f00;\n$new: #0f0;\n", [("New", "#00ff00")]),
    ("// don't { worry\n$new: #0f0; // New one\n", [("New one", "#00ff00")]),
    ("@lamp: #fc3;\n@glow: @lamp;\n", [("Lamp", "#ffcc33"), ("Glow", "#ffcc33")]),
    ("$eye: #e85421;\n$soft: rgba($eye, 0.5);\n", [("Eye", "#e85421"), ("Soft", "#e8542180")]),
    (":root { --a: #E85421; --A: #1B1A1D }", [("A", "#e85421"), ("A", "#1b1a1d")]),
    (":root { --a: hsl(120 -20% 50%); }", [("A", "#808080")]),
    (":root { --a: rebeccapurple; --b: Transparent }", [("A", "#663399"), ("B", "#00000000")]),
    (":root { --u: url(//host/x.png); --a: #123456; /* Sea */ }", [("Sea", "#123456")]),
    (":root { --a: #123456 /* Sea */; }", [("Sea", "#123456")]),
    ("a{color:red;--x:#010203;background:url('data:;,}')}b{--y:#040506}", [("X", "#010203"), ("Y", "#040506")]),
    (":root { --text: 'a } b; --no: #f00'; --a: #123456 }", [("A", "#123456")]),
]  # fmt: skip


@pytest.mark.parametrize(("text", "wanted"), SHEETS)
def test_sheets_as_they_are_written(text: str, wanted: list[tuple[str, str]]) -> None:
    assert rows(text) == wanted


@pytest.mark.parametrize("text", [text for text, _ in SHEETS])
def test_ends_of_lines_and_codings_make_no_difference(text: str) -> None:
    assert rows(text.replace("\n", "\r\n")) == rows(text)
    assert CSS.read
    for coding in ("utf-8-sig", "utf-16"):
        assert [s.color.hex for s in CSS.read(text.encode(coding)).palette.swatches] == [code for _, code in rows(text)]


WORKED_OUT = [
    "color-mix(in oklab, #ff0000, #0000ff)", "color-mix(in oklch, #ff0000 30%, #00ff00)", "color-mix(in oklch longer hue, red, lime)",
    "color-mix(in hsl, #e85421, #1b1a1d 80%)", "color-mix(in lab, white, rgb(0 0 255 / 50%))", "color-mix(in xyz, red, blue)",
    "color-mix(in display-p3, red, lime)", "oklch(from #e85421 calc(l * 0.8) c h)", "oklch(from #e85421 l c calc(h + 90))",
    "lab(from #336699 l a b)", "hwb(from #336699 h w b)", "color(from #336699 srgb r g b)", "color(from red display-p3 r g b)",
    "oklab(from #e85421 l calc(a - 0.05) b / 0.5)", "color(a98-rgb 0.5 0.4 0.3)", "color(prophoto-rgb 0.5 0.4 0.3)",
    "color(rec2020 0.5 0.4 0.3)", "color(xyz 0.3 0.3 0.2)", "color(xyz-d50 0.3 0.3 0.2)", "color(srgb-linear 0.3 0.2 0.1)",
]  # fmt: skip


@pytest.mark.parametrize("text", WORKED_OUT)
def test_values_are_worked_out_as_an_independent_library_does(text: str) -> None:
    (swatch,) = found(f":root {{ --a: {text}; }}").palette.swatches
    if " from " in text or "(from" in text:
        theirs: Any = _relative_of(text)
    elif text.startswith("color-mix"):
        inside = text[len("color-mix(") : -1].split(", ")
        heading = inside[0].split()
        names = [part.rsplit(" ", 1)[0] if part.endswith("%") and "/" not in part else part for part in inside[1:]]
        share = 0.7 if "30%" in text else 0.8 if "80%" in text else 0.5
        space = {"xyz": "xyz-d65"}.get(heading[1], heading[1])
        hue = heading[2] if len(heading) > 2 else "shorter"
        theirs = Oracle(names[0]).mix(names[1], share, space=space, hue=hue, premultiplied=True)
    else:
        theirs = Oracle(text.replace("color(xyz ", "color(xyz-d65 "))
    lab = theirs.convert("oklab").coords(nans=False)
    assert float(delta_eok(swatch.color.to("oklab"), lab)) < 0.05
    assert swatch.color.alpha == pytest.approx(theirs.alpha(nans=False), abs=1e-6)


def _relative_of(text: str) -> Any:
    changes: dict[str, Any] = {
        "oklch(from #e85421 calc(l * 0.8) c h)": ("oklch", "#e85421", lambda light, c, h: (light * 0.8, c, h)),
        "oklch(from #e85421 l c calc(h + 90))": ("oklch", "#e85421", lambda light, c, h: (light, c, h + 90)),
        "oklab(from #e85421 l calc(a - 0.05) b / 0.5)": ("oklab", "#e85421", lambda light, a, b: (light, a - 0.05, b)),
    }
    if text not in changes:
        return Oracle("red" if "from red" in text else "#336699")
    space, origin, change = changes[text]
    start = Oracle(origin).convert(space)
    return Oracle(space, change(*start.coords(nans=False)), 0.5 if "0.5)" in text else 1)


def test_what_cannot_be_worked_out_is_listed_by_name() -> None:
    sheet = (
        ":root { --ok: #123456; --gone: var(--nowhere); --loop: var(--loop); --now: currentColor; --gap: 4px; --font: 'A', serif }"
        "$hover: darken(#fff, 10%); $mixed: color-mix(in nowhere, red, blue);"
    )
    notes = " ".join(found(sheet).notes)
    assert "2 variables that hold no color were left out: --gap, --font." in notes
    for words in (
        "--gone (--nowhere is declared nowhere)", "--loop (--loop refers to itself)", "--now (currentColor means nothing here)",
        "$hover (darken() is a function that is not known here)", "$mixed (color-mix() in “nowhere” is not known)",
    ):  # fmt: skip
        assert words in notes
    many = ":root { --ok: #123; " + "".join(f"--gap-{n}: {n}px;" for n in range(30)) + "}"
    assert "30 variables that hold no color were left out: --gap-0, " in found(many).notes[0]
    assert found(many).notes[0].endswith("and 18 more.")


def test_maps_are_groups() -> None:
    palette = found("$m: (eye: #e85421, inks: (dark: #111), last: red);\n$after: #010203;").palette
    assert [palette.group_name(swatch.group) for swatch in palette.swatches] == ["M", "M / Inks", "M", ""]


def test_a_sheet_without_a_color_is_left_to_the_other_readers() -> None:
    text = "--size: 4px;\nThe wing is #e85421, the ink #1b1a1d.\n"
    (reading,) = read_palettes(text.encode(), "notes.txt")
    assert reading.format is FORMATS["text-scan"]
    with pytest.raises(BadFile, match="None of its variables is a color"):
        read_palettes(b":root { --gap: 4px }", "a.css")


NAMES = st.sampled_from(["eye", "ink-2", "a_b", "x"])
VALUES = st.sampled_from(
    ["#e85421", "#fff", "#11223344", "rgb(1 2 3)", "hsl(120 50% 50%)", "oklch(0.5 0.1 20 / 0.5)", "color(srgb 1 0 0)"]
)
SAID = st.sampled_from(["", " /* Eye spot */", " /* a * b */", " /* group x */", " /**/"])
LINES = st.one_of(
    st.tuples(NAMES, VALUES, SAID).map(lambda row: f"  --{row[0]}: {row[1]};{row[2]}"),
    st.sampled_from(["  /* group: Inks */", "  /* group: */", "", "}", ":root {"]),
)


@settings(max_examples=300, deadline=None)
@given(st.lists(LINES, max_size=8))
def test_plain_lines_are_read_as_the_parser_reads_them(lines: list[str]) -> None:
    text = "\n".join([":root {", *lines, "}"]) + "\n"
    quick, slow = SwatchList(), SwatchList()
    if not _read_plain(text, quick):
        return
    _read_sheet(text, slow, _Left())

    def shape(made: SwatchList) -> list[tuple[object, ...]]:
        groups = {group.id: group.name for group in made.groups}
        return [(s.color, s.name, groups.get(s.group or "")) for s in (made.palette().swatches if len(made) else ())]

    assert shape(quick) == shape(slow)


@pytest.mark.parametrize(
    "text",
    [
        "{" * 200_000, "(" * 200_000, ":root{--a:#fff;" + "{" * 50_000, "/*" * 200_000, "//" * 200_000, '"' * 200_000, "\\" * 200_000,
        ":root{" + "".join(f"--v{n}:var(--v{n + 1}) var(--v{n + 1});" for n in range(60)) + "--v60:#fff}",
        ":root{" + "".join(f"--v{n}:var(--v{n + 1});" for n in range(3_000)) + "--v3000:#fff}",
        ":root{--a:" + "var(" * 20_000 + ")" * 20_000 + "}", "$m: " + "(a: " * 5_000 + "#fff" + ")" * 5_000 + ";",
        ":root{--a:" + "calc(" * 5_000 + "1" + ")" * 5_000 + "}", "$a:" * 60_000, "--a:#fff;" * 60_000, "@" * 200_000, "#{" * 100_000,
    ],
    ids=range(16),
)  # fmt: skip
def test_sheets_that_never_end_are_answered(text: str) -> None:
    with contextlib.suppress(HuvrenError):
        assert CSS.taken(text.encode())


def _chain(n: int) -> str:
    return ":root{" + "".join(f"--v{k}:var(--v{k + 1});" for k in range(n)) + f"--v{n}:#fff}}"


def _scss_chain(n: int) -> str:
    return "".join(f"$v{k}: $v{k + 1};\n" for k in range(n)) + f"$v{n}: #123456;"


def _fallbacks(n: int) -> str:
    return ":root{" + "".join(f"--v{k}:var(--none{k}, var(--v{k + 1}, #123));" for k in range(n)) + "}"


def _copies(n: int) -> str:
    return ":root{--big:" + "x " * 1900 + ";" + "".join(f"--b{k}:var(--big);" for k in range(n)) + "}"


def _plain(n: int) -> str:
    return ":root{" + "".join(f"--v{k}:xyz(--none{k}, xyz(--v{k + 1}, #123));" for k in range(n)) + "}"


@pytest.mark.parametrize("made", [_chain, _scss_chain, _fallbacks, _copies])
def test_what_variables_stand_for_is_followed_only_so_far_in_a_file(made: Callable[[int], str]) -> None:
    with pytest.raises(TooLarge, match="stand for each other too often"):
        CSS.taken(made(20_000).encode())
    # What more of it costs is what more of anything costs.
    more = steps_of(lambda: _answered(made(600))) - steps_of(lambda: _answered(made(300)))
    assert more < 1.5 * (steps_of(lambda: _answered(_plain(600))) - steps_of(lambda: _answered(_plain(300))))


def test_a_chain_that_leads_too_far_is_refused_before_the_sheet_is_taken_apart() -> None:
    assert steps_of(lambda: _answered(_chain(20_000))) < steps_of(lambda: _answered(_plain(3_000)))
    once, twice = (steps_of(lambda n=n: _answered(_chain(n))) for n in (10_000, 20_000))
    assert twice < 2.2 * once
    blanks = "--a " * 20_000 + "--b:" + " " * 200_000 + "--" * 100_000 + "--c : var( " + " " * 100_000
    look_over_chains(blanks)


@pytest.mark.parametrize("lines", [33, 2_000])
def test_only_what_is_declared_once_and_ends_is_a_chain(lines: int) -> None:
    """Each block has the same names, as components have, or they go round: what is a color is found as ever."""
    rounds = "".join(f"--r{n}:var(--r{(n + 1) % lines});" for n in range(lines))
    blocks = "".join(f".b{n}{{--x{n}:var(--x{n + 1});}} .c{n}{{--x{n}:var(--y);}}" for n in range(lines))
    for text in (f":root{{--ink:#123456;{rounds}}}", f":root{{--ink:#123456;}} {blocks}"):
        look_over_chains(text)
    found = CSS.taken(f":root{{--ink:#123456;{rounds}}}".encode())[""] if lines < 100 else None
    assert found is None or [swatch.color.bytes[:3] for swatch in found.palette.swatches] == [(0x12, 0x34, 0x56)]


def test_thirty_two_times_is_not_too_far_however_many_there_are() -> None:
    many = "".join(f"--v{n}_{k}:var(--v{n}_{k + 1});" for n in range(1_001) for k in range(32))
    look_over_chains(many)
    longer = "".join(f"--v{n}_{k}:var(--v{n}_{k + 1});" for n in range(1_001) for k in range(33))
    with pytest.raises(TooLarge, match="stand for each other too often"):
        look_over_chains(longer)


@pytest.mark.parametrize(("hops", "is_read"), [(31, True), (32, True), (33, False)])
def test_what_is_looked_over_is_what_the_reader_would_find(hops: int, is_read: bool) -> None:
    chain = "".join(f"--v{k}:var(--v{k + 1});" for k in range(hops)) + f"--v{hops}:#123456;"
    names = [swatch.name for swatch in CSS.taken(f":root{{{chain}}}".encode())[""].palette.swatches]
    assert ("V0" in names) == is_read
    assert "V1" in names


def _answered(text: str) -> None:
    with contextlib.suppress(HuvrenError):
        CSS.taken(text.encode())


def test_thousands_of_variables_that_a_person_layers_are_all_worked_out() -> None:
    layers = "".join(f"--a{n}: rgb({n % 256} {n // 256} 3); --b{n}: var(--a{n}); --c{n}: var(--b{n});" for n in range(3_000))
    palette = CSS.taken(f":root{{{layers}}}".encode())[""].palette
    assert len(palette.swatches) == 9_000
    assert palette.swatches[-1].color.bytes[:3] == (2999 % 256, 2999 // 256, 3)


def test_line_comments_become_block_comments_of_the_same_lines() -> None:
    text = 'a // one */ two\n\'//\' "\\"//" url(//x) /* // */ b // end'
    assert with_block_comments(text) == 'a /* one * / two*/\n\'//\' "\\"//" url(//x) /* // */ b /* end*/'
    assert with_block_comments("/* open // x") == "/* open // x"


def test_group_marks_in_a_line_are_marks_and_other_comments_are_names() -> None:
    text = ":root { --s0: #000; /* Zero */ --s1: #010000; /* group: G */ --s2: #020000; /* group: */ --s3: #030000; }"
    palette: Palette = found(text).palette
    assert [(s.name, palette.group_name(s.group)) for s in palette.swatches] == [("Zero", ""), ("S1", ""), ("S2", "G"), ("S3", "")]
