"""Colors as people type and paste them: a line is a color with its name, or nothing but colors, or it stays whole."""

import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from huvren.core.color.notation import parse_color
from huvren.core.color.typed import MOST_MARKED, MOST_WORDS, TooMany, parse_named_colors, understand_colors
from huvren.core.errors import BadColor
from huvren.core.palette.operations.add import AddSwatches
from huvren.core.palette.values import Palette, Swatch


def _read(text: str) -> list[tuple[str, str]]:
    return [(color.hex, name) for color, name in parse_named_colors(text)]


def _marked(text: str) -> list[str]:
    """What is marked in the one line that is not understood."""
    (line,) = understand_colors(text).wrong
    assert "".join(part for part, _ in line.parts) == line.text == text, "the line stays whole"
    return [part for part, is_wrong in line.parts if is_wrong]


@pytest.mark.parametrize(
    ("line", "expected"),
    [
        ("Ivory black #231f20", [("#231f20", "Ivory black")]),
        ("#231f20 Ivory black", [("#231f20", "Ivory black")]),
        ("Ivory #231f20 black", [("#231f20", "Ivory black")]),
        ("Gold size: #c9a24b;", [("#c9a24b", "Gold size")]),
        ("tomato #ff0000", [("#ff0000", "tomato")]),
        ("tomato, #ff0000", [("#ff0000", "tomato")]),
        ("“Umber, burnt” #8a3324", [("#8a3324", "Umber, burnt")]),
        ("#8A3324|Umber", [("#8a3324", "Umber")]),
        ("Night\tK80", [("#333333", "Night")]),
        ("oklch(0.84 0.15 85) Lamp", [("#f7c243", "Lamp")]),
        ("rgba(0,0,0,.5) shade", [("#00000080", "shade")]),
        ("Lamp (warm) #ffcc66", [("#ffcc66", "Lamp (warm)")]),
        ("ffcc66 Glow", [("#ffcc66", "Glow")]),
        # Words of base-sixteen digits, numbers of paints, and a code within a name stay in the name.
        ("Bad facade #ff0000", [("#ff0000", "Bad facade")]),
        ("501 #aabbcc", [("#aabbcc", "501")]),
        ("Paint B15 #aabbcc", [("#aabbcc", "Paint B15")]),
        ("Ink 102030 #405060", [("#405060", "Ink 102030")]),
        # Nothing but colors.
        ("#111 #222", [("#111111", ""), ("#222222", "")]),
        ("#e85421, oklch(0.84 0.15 85);K25 0xff0000", [("#e85421", ""), ("#f7c243", ""), ("#bfbfbf", ""), ("#ff0000", "")]),
        ("tomato rebeccapurple", [("#ff6347", ""), ("#663399", "")]),
        ("transparent", [("#00000000", "")]),
        ("beef", [("#bbeeee", "")]),
        ("red, #00ff00, blue", [("#ff0000", ""), ("#00ff00", ""), ("#0000ff", "")]),
        # Several with names, parted by commas or tabs.
        ("Ink #112233, Lamp #ffcc66", [("#112233", "Ink"), ("#ffcc66", "Lamp")]),
        ("#e85421, oklch(0.84 0.15 85) tomato", [("#e85421", ""), ("#f7c243", "tomato")]),
        ("#112233 Ink\t#ffcc66 Lamp", [("#112233", "Ink"), ("#ffcc66", "Lamp")]),
    ],
)
def test_a_line_is_a_color_with_its_name_or_nothing_but_colors(line: str, expected: list[tuple[str, str]]) -> None:
    assert _read(line) == expected


@pytest.mark.parametrize(
    ("line", "wrong", "why"),
    [
        ("Cadmium orange #ed872g", ["#ed872g"], "“g” is no digit of a hex code"),
        ("Lamp #ff", ["#ff"], "3, 4, 6 or 8 digits"),
        ("Lamp rgb(1 2", ["rgb(1 2"], "closing bracket"),
        ("Lamp #ffcc66 #ff", ["#ff"], "3, 4, 6 or 8 digits"),
        ("Gold size", ["size"], "“size” is no color"),
        # A number beside a name is no code of three digits.
        ("Titanium white 104", ["Titanium"], "“Titanium” is no color"),
        ("1234 Umber", ["Umber"], "“Umber” is no color"),
        ("Nothing here", ["Nothing", "here"], "“Nothing” is no color"),
        ("#111 #222 lamp", ["lamp"], "a line of its own"),
        ("red #111, #222 lamp #333", ["red", "lamp"], "a line of its own"),
        ("hsl(1 2 3 4 5) Lamp", ["hsl(1 2 3 4 5)"], "takes 3 numbers"),
    ],
)
def test_a_line_that_is_neither_stays_whole_with_what_is_wrong_marked(line: str, wrong: list[str], why: str) -> None:
    assert _marked(line) == wrong
    assert why in understand_colors(line).wrong[0].why
    with pytest.raises(BadColor, match=re.escape(why)):
        parse_named_colors(f"#fff\n{line}")


def test_one_wrong_line_holds_back_nothing_else() -> None:
    typed = understand_colors("Lamp #ffcc66\n\nCadmium #ed872g\r\n#111 #222\nGold size")
    assert [(color.hex, name) for color, name in typed.named] == [("#ffcc66", "Lamp"), ("#111111", ""), ("#222222", "")]
    assert typed.taken == "Lamp #ffcc66\n#111 #222"
    assert typed.left == "Cadmium #ed872g\nGold size"


WORDS = ["tomato", "#123456", "rgb(1 2 3)", "blurple", "#12", "rgb(1", "K25", "nonsense", "0x", "bad", "501", "(warm)", ",", ";", "|"]


@given(st.lists(st.lists(st.sampled_from(WORDS), max_size=6), max_size=4))
def test_every_line_is_taken_or_left_and_what_is_taken_reads_the_same(lines: list[list[str]]) -> None:
    text = "\n".join(" ".join(line) for line in lines)
    typed = understand_colors(text)
    meant = [line for line in text.split("\n") if line.strip(" ,;|")]
    assert sorted([*typed.taken.splitlines(), *typed.left.splitlines()]) == sorted(meant)
    assert understand_colors(typed.taken).named == typed.named
    assert understand_colors(typed.left).named == ()
    assert all(any(is_wrong for _, is_wrong in line.parts) and line.why for line in typed.wrong)


@given(st.text(alphabet="abcdefghxyz 1(),;#ß\t“-", max_size=30), st.sampled_from(["#3a86ff", "rgb(1 2 3)"]), st.booleans())
def test_a_code_with_any_words_is_that_color_or_refused(words: str, code: str, is_first: bool) -> None:
    line = f"{code} {words}" if is_first else f"{words} {code}"
    typed = understand_colors(line)
    if typed.wrong:
        return
    assert parse_color(code) in [color for color, _ in typed.named]
    if len(typed.named) == 1:
        assert set(words) - set(typed.named[0][1]) <= set(" \t:;,=-–—\"'“”|/*"), "no letter of the name is lost"


def test_more_words_than_are_looked_at_are_said_so() -> None:
    with pytest.raises(TooMany, match="100,000 words"):
        understand_colors("lamp\n" * (MOST_WORDS + 1))
    with pytest.raises(TooMany, match="100,000 words"):
        understand_colors("lamp " * (MOST_WORDS + 1) + "#ffcc66")
    (line,) = understand_colors("lamp " * MOST_WORDS).wrong
    assert len(line.parts) == 2 * MOST_MARKED, "a long line is not told word by word"
    assert "".join(text for text, _ in line.parts) == line.text
    assert len(understand_colors("lamp\n" * 1000).wrong) == 1000


def test_the_step_says_what_was_added() -> None:
    palette = Palette("P", (Swatch(parse_color("#000"), "Ivory black"),))
    assert AddSwatches(text="Ivory black #231f20").label(palette) == "Add Ivory black 2"
    assert AddSwatches(text="Ink #111\nLamp #fc6").label(palette) == "Add Ink and Lamp"
    assert AddSwatches(text="Ink #111\nLamp #fc6\nSoot K80").label(palette) == "Add Ink and 2 more"
    assert AddSwatches(text="Lamp #fc6", locked=True).label(palette) == "Add Lamp, locked"
    added = AddSwatches(text="Lamp #fc6\n#111 #222", locked=True).apply(palette).palette.swatches[1:]
    assert [swatch.locked for swatch in added] == [True, True, True]
