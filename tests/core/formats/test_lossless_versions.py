"""The lossless palette file through its versions: what 0.4 wrote, what a newer one will write, and what is wrong."""

import json
from typing import Any

import pytest

from huvren.core.color.notation import parse_color
from huvren.core.errors import BadFile
from huvren.core.formats import FORMATS, Document, Found
from huvren.core.formats.readings import read_palettes
from huvren.core.palette.values import Palette, Swatch

LOSSLESS = FORMATS["json"]
OLD = {
    "format": "huvren-palette", "version": 1, "name": "Press inks", "columns": None,
    "groups": [{"id": "g", "name": "Blacks"}],
    "swatches": [
        {
            "id": "a", "name": "Lamp black", "color": {"space": "srgb", "coords": [0.1, 0.1, 0.1], "alpha": 1.0},
            "locked": True, "group": "g", "hex": "#1a1a1a",
        },
        {
            "id": "b", "name": "Wide", "color": {"space": "oklch", "coords": [0.8, 0.3, 150], "alpha": 0.5}, "locked": False,
            "group": None,
        },
    ],
}  # fmt: skip
"""As version 0.4 wrote it, each swatch with its code for other readers."""


def read(document: Any) -> Found:
    assert LOSSLESS.read is not None
    return LOSSLESS.read(json.dumps(document).encode())


def test_a_file_of_before_is_read_whole() -> None:
    found = read(OLD)
    assert found.notes == ()
    first, second = found.palette.swatches
    assert (first.id, first.name, first.locked, first.group) == ("a", "Lamp black", True, "g")
    assert (second.color.space, second.color.coords, second.color.alpha) == ("oklch", (0.8, 0.3, 150.0), 0.5)


def test_a_missing_component_is_null_in_the_file_and_comes_back() -> None:
    palette = Palette("P", (Swatch(parse_color("oklch(0.5 none 40 / none)"), "Gray", "a"),))
    data = LOSSLESS.written(Document(palette))
    stored = json.loads(data)["swatches"][0]["color"]
    assert (stored["coords"], stored["alpha"]) == ([0.5, None, 40.0], None)
    assert read(json.loads(data)).palette == palette


def test_a_file_of_a_newer_version_is_read_as_far_as_it_is_understood_and_says_so() -> None:
    newer = {**OLD, "version": 9, "moods": ["calm"]}
    found = read(newer)
    assert len(found.palette.swatches) == 2
    assert any("written by a newer Huvren (version 9" in note for note in found.notes)
    assert any("“moods” is unknown here" in note for note in found.notes)


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"moods": 1}, "“moods” is unknown here"), ({"version": "two"}, "“two” is no version of a palette"),
        ({"version": 2.5}, "“2.5” is no version"), ({"swatches": {}}, "swatches: Input should be a valid list"),
        ({"swatches": [7]}, "swatches › 0"), ({"columns": "abc"}, "columns"), ({"slots": 1}, "numbered places"),
        ({"format": "other"}, "its “format” is not “huvren-palette”"), ({"name": 7}, "name: Input should be a valid string"),
    ],
)  # fmt: skip
def test_what_is_wrong_is_named(change: dict[str, Any], words: str) -> None:
    with pytest.raises(BadFile, match=words.replace("(", r"\(")):
        read({**OLD, **change})


@pytest.mark.parametrize("lead", [b"", b"\xef\xbb\xbf", b"\n\n  "])
@pytest.mark.parametrize("indent", [None, 2])
def test_layout_and_a_byte_mark_do_not_matter(lead: bytes, indent: int | None) -> None:
    data = lead + json.dumps(OLD, indent=indent, ensure_ascii=indent is None).encode()
    (reading,) = read_palettes(data, "inks.json")
    assert reading.format is LOSSLESS
    assert reading.keeps.ids
    assert [swatch.id for swatch in reading.found.palette.swatches] == ["a", "b"]
