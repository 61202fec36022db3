"""Names that begin like formulas stand in tables as text, come back as they were, and the keep report says so."""

import csv
import io

import pytest
from hypothesis import given
from hypothesis import strategies as st

from huvren.core.color.notation import parse_color
from huvren.core.formats import FORMATS, Document
from huvren.core.formats.report import keep_report
from huvren.core.formats.table_cells import as_text, from_text, is_formula
from huvren.core.palette.values import Group, Palette, Swatch

CSV = FORMATS["csv"]
FORMULAS = ("=1+1", '=HYPERLINK("x","y")', "+49 blue", "-dusk", "- dusk", "@lamp", "＝1", "＠lamp", "'=1", "''-x")
PLAIN = ("Lamp", "'tis dusk", "'", "a=b", "Sky-blue", "1", "(=", "„=“", "’=")
awkward = st.text(alphabet="'=+-@\t\r＝＋－＠aé \n,;\"", max_size=8)


def palette_of(*names: str, group: str = "") -> Palette:
    groups = (Group(group, "g"),) if group else ()
    color = parse_color("#336699")
    return Palette(
        "P", tuple(Swatch(color, name, f"s{place}", group="g" if group else None) for place, name in enumerate(names)), groups
    )


def cells(palette: Palette) -> list[list[str]]:
    assert CSV.write
    return list(csv.reader(io.StringIO(CSV.write(Document(palette)).decode())))[1:]


def read(data: bytes) -> Palette:
    assert CSV.read
    return CSV.read(data).palette


@given(awkward)
def test_every_text_comes_back_and_none_begins_like_a_formula(text: str) -> None:
    assert from_text(as_text(text)) == text
    assert as_text(text)[:1] not in tuple("=+-@\t\r＝＋－＠")
    assert (as_text(text) == text) is not is_formula(text)


@given(awkward, awkward)
def test_different_texts_stay_different(one: str, other: str) -> None:
    assert (as_text(one) == as_text(other)) is (one == other)


@pytest.mark.parametrize("name", FORMULAS)
def test_a_name_that_begins_like_a_formula_is_text_in_the_file_and_comes_back(name: str) -> None:
    palette = palette_of(name, "Ink", group=name)
    assert [row[2:4] for row in cells(palette)] == [[f"'{name}", f"'{name}"], ["Ink", f"'{name}"]]
    assert CSV.write
    after = read(CSV.write(Document(palette)))
    assert [swatch.name for swatch in after.swatches] == [name, "Ink"]
    assert [group.name for group in after.groups] == [name]
    said = [loss for loss in keep_report(CSV, Document(palette)) if loss.code == "formulas"]
    assert [(loss.count, loss.text) for loss in said] == [
        (2, "2 names that begin like formulas marked as text by an apostrophe, which reading takes away")
    ]


def test_other_names_stand_there_as_they_are_and_nothing_is_said() -> None:
    palette = palette_of(*PLAIN, group="Marsh")
    assert [row[2] for row in cells(palette)] == list(PLAIN)
    assert [loss.code for loss in keep_report(CSV, Document(palette)) if loss.code == "formulas"] == []
    assert "name that begins like a formula marked" in " ".join(loss.text for loss in keep_report(CSV, Document(palette_of("=1"))))


def test_ids_are_no_formulas_either() -> None:
    palette = Palette("P", (Swatch(parse_color("#336699"), "Ink", "=cmd"),))
    assert cells(palette)[0][1] == "'=cmd"
    assert CSV.write
    assert read(CSV.write(Document(palette))).swatches[0].id == "=cmd"


def test_a_group_that_nobody_is_in_is_not_counted() -> None:
    palette = Palette("P", palette_of("Ink").swatches, (Group("=empty", "g"),))
    assert "formulas" not in [loss.code for loss in keep_report(CSV, Document(palette))]


def test_a_table_of_others_says_what_stands_there() -> None:
    assert read(b"name,hex\n'=x,#336699\n-dusk,#112233\n").swatches[0].name == "'=x"


def test_numbers_stay_numbers() -> None:
    palette = Palette("P", (Swatch(parse_color("oklab(0.5 -0.1 0.05)"), "Teal"),))
    assert cells(palette)[0][8] == "-0.1"
    assert CSV.write
    assert read(CSV.write(Document(palette))).swatches[0].color == palette.swatches[0].color
