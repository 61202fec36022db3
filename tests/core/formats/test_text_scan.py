"""The text scan on texts of many kinds, in which what is a color is marked: precision, recall, and each find's own certainty."""

import re
from pathlib import Path

import pytest

from huvren.core.color.value import Color
from huvren.core.errors import HuvrenError
from huvren.core.formats import FORMATS, SURE_ENOUGH, Found
from huvren.core.formats.marking import marked as marked_reading
from huvren.core.formats.readings import read_palettes
from huvren.core.formats.scan.text_forms import Candidate
from huvren.core.formats.scan.text_scan import candidates
from tests.counting import Visited, steps_of

SCAN = FORMATS["text-scan"]
TEXTS = sorted((Path(__file__).parent / "texts").iterdir())


def marked(path: Path) -> tuple[str, list[tuple[int, int]]]:
    """The text without its marks, and the spans that were marked as colors."""
    spans, plain, begin = [], "", 0
    for part in re.split("([⟦⟧])", path.read_text(encoding="utf-8")):
        if part == "⟦":
            begin = len(plain)
        elif part == "⟧":
            spans.append((begin, len(plain)))
        else:
            plain += part
    return plain, spans


def judged(path: Path) -> tuple[list[Candidate], list[tuple[int, int]], list[Candidate], list[str]]:
    """Right finds, all that should be found, wrong finds, and the texts that were missed: of what comes in ticked."""
    text, spans = marked(path)
    ticked = [one for one in candidates(text) if one.sure >= SURE_ENOUGH]

    def meets(one: Candidate, span: tuple[int, int]) -> bool:
        return max(one.begin, span[0]) < min(one.end, span[1])

    right = [one for one in ticked if any(meets(one, span) for span in spans)]
    missed = [text[begin:end] for begin, end in spans if not any(meets(one, (begin, end)) for one in ticked)]
    wrong = [one for one in ticked if one not in right]
    return right, spans, wrong, missed


def test_precision_and_recall_over_all_texts() -> None:
    found = [judged(path) for path in TEXTS]
    right, wanted = sum(len(row[0]) for row in found), sum(len(row[1]) for row in found)
    wrong = [one.text for row in found for one in row[2]]
    missed = [text for row in found for text in row[3]]
    assert right / (right + len(wrong)) >= 0.95, wrong
    assert (wanted - len(missed)) / wanted >= 0.90, missed


@pytest.mark.parametrize("path", TEXTS, ids=lambda path: path.name)
def test_each_text_alone_is_read_well(path: Path) -> None:
    right, spans, wrong, missed = judged(path)
    assert len(wrong) <= max(1, len(right) // 5), [one.text for one in wrong]
    assert len(missed) <= len(spans) // 4, missed


def found(text: str) -> Found:
    assert SCAN.read
    return SCAN.read(text.encode())


def ticked(text: str) -> list[str]:
    return [one.color.hex for one in candidates(text) if one.color and one.sure >= SURE_ENOUGH]


@pytest.mark.parametrize(
    ("text", "colors"),
    [
        ("eye color 0xFFE85421", ["#e85421"]), ("#define EYE_COLOR 0xE85421u", ["#e85421"]), ("COLOR 0x80E85421UL", ["#e8542180"]),
        ("color: 0.91, 0.33, 0.13, 0.5", ["#e8542180"]), ("rgba bytes (232, 84, 33, 128)", ["#e8542180"]),
        ("FromArgb(255, 232, 84, 33) color", ["#e85421"]), ("CMYK 0 64 86 9", ["#e85420"]), ("color C:0 M:64 Y:86 K:9", ["#e85420"]),
        ("red: 0.91, green: 0.33, blue: 0.13", ["#e85421"]), ('{"r": 232, "g": 84, "b": 33}', ["#e85421"]),
        ("R 232 G 84 B 33", ["#e85421"]), ("HSL 15, 81, 52", ["#e85321"]), ("color 91% 33% 13%", ["#e85421"]),
        ("#e85421ff #1b1a1dff", ["#e85421", "#1b1a1d"]), ("#ffe85421\n#ff1b1a1d\n#80ffffff", ["#e85421", "#1b1a1d", "#ffffff80"]),
        ("hex e85421, RGB 232 84 33", ["#e85421", "#e85421"]), ("\\033[38;2;232;84;33m", ["#e85421"]),
        ("Color::rgb(0.91, 0.33, 0.13)", ["#e85421"]), ("rgb(1 0 1)", ["#010001"]),
        ("#add", []), ("we #fade out", []), ("see issue #123456", []), ("2026-11-26 and 26/11/2026", []), ("padding: 1 2 3", []),
        ("sizes 10 20 30", []), ("commit 3f2a1b", []), ("v1.2.3 at 10:20:30", []), ("192.168.1.20", []), ("&#123456;", []),
        ("page.html#abcdef", []), ("0x7ffe12ab", []), ("a red moth", []), ("300 400 500 color", []), ("#12 #12345 #1234567", []),
    ],
)  # fmt: skip
def test_what_is_meant_is_ticked_and_what_is_not_is_not(text: str, colors: list[str]) -> None:
    assert ticked(text) == colors


def test_wide_components_stay_wide() -> None:
    (swatch,) = found('"colorSpace": "display-p3", "components": [0.98, 0.8, 0.42]').palette.swatches
    assert swatch.color == Color("display-p3", (0.98, 0.8, 0.42))


def test_each_find_says_where_it_stands_how_sure_it_is_and_why_not() -> None:
    text = "Lamp #ffcc66\nsee #fade; then 10 20 30\n"
    scan = found(text)
    begin, end = scan.marks[0]
    assert text[begin:end] == "#ffcc66"
    assert len(scan.marks) == len(scan.sure) == len(scan.doubts) == len(scan.palette.swatches)
    for sure, doubt in zip(scan.sure, scan.doubts, strict=True):
        assert 0 <= sure <= 1
        assert bool(doubt) == (sure < SURE_ENOUGH)
    assert scan.palette.swatches[0].name == "Lamp"
    assert "doubtful and not ticked" in scan.notes[0]


def test_a_channel_is_no_name() -> None:
    names = [swatch.name for swatch in found("red: 0.2\nEye: red: 0.91, green: 0.33, blue: 0.13\n").palette.swatches]
    assert names == ["Eye"]


@pytest.mark.parametrize(
    "piece",
    [
        "1 ", "rgb(", "#abc ", "#", "0x", "a", "red ", "1,", "r:1 ", "rgb(1 2 3) ", "r ", "((((", "0.1 ", "{", "abcdef ", "%", "\\",
        "1" * 9 + " ", "red-", "color(", "\t",
    ],
)  # fmt: skip
def test_twice_the_text_takes_twice_the_steps(piece: str) -> None:
    def steps(size: int) -> int:
        text = Visited((piece * (size // len(piece) + 1))[:size])
        return steps_of(lambda: candidates(text), ignoring=HuvrenError)

    candidates(piece)
    once, twice = steps(6_000), steps(12_000)
    assert twice <= 2.05 * once + 300


def test_the_heading_of_rows_holds_until_another_says_otherwise() -> None:
    rows = "0 64 86 9\n79 34 0 45\n0 0 0 100\n"
    spaces = [one.color.space for one in candidates(f"Inks, CMYK\n{rows}Lamps, RGBA colors\n{rows}") if one.color]
    assert spaces == ["cmyk"] * 3 + ["srgb"] * 3


def test_certainty_and_doubt_are_told_from_one_figure() -> None:
    for path in TEXTS:
        scan = found(marked(path)[0]) if candidates(marked(path)[0]) else None
        for sure, doubt in zip(scan.sure if scan else (), scan.doubts if scan else (), strict=True):
            assert bool(doubt) == (sure < SURE_ENOUGH)


@pytest.mark.parametrize(
    ("name", "text", "said"),
    [
        ("a.css", ":root { --gap: 4px; --eye: #e85421; --same: var(--eye); --ink: rgb(27 26 29) }", ["#e85421", "", "rgb(27 26 29)"]),
        ("a.csv", "name,hex,note\nEye,#e85421,like #1b1a1d\nInk,#1b1a1d,\n", ["#e85421", "#1b1a1d"]),
        ("a.hex", "e85421\n1b1a1d\n", ["e85421", "1b1a1d"]),
    ],
)  # fmt: skip
def test_other_readings_are_marked_by_their_colors(name: str, text: str, said: list[str]) -> None:
    reading = marked_reading(read_palettes(text.encode(), name)[0], text)
    assert [text[begin:end] for begin, end in reading.found.marks] == said
    assert marked_reading(reading, text) is reading
