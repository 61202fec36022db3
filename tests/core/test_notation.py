"""Colors as text."""

import pytest
from coloraide import Color as Oracle

from huvren.core.color.notation import css_names, format_css, parse_color
from huvren.core.color.value import Color
from huvren.core.errors import BadColor


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("#a1b2c3", "#a1b2c3"),
        ("a1b2c3", "#a1b2c3"),
        ("0xA1B2C3", "#a1b2c3"),
        ("  #ABC ", "#aabbcc"),
        ("#abcd", "#aabbccdd"),
        ("#11223344", "#11223344"),
        ("rgb(161 178 195)", "#a1b2c3"),
        ("rgb(161, 178, 195)", "#a1b2c3"),
        ("RGBA(161,178,195,0.5)", "#a1b2c380"),
        ("rgb(100% 0% 50% / 25%)", "#ff008040"),
        ("rgb(300 -5 0)", "#ff0000"),
        ("hsl(120deg 100% 25%)", "#008000"),
        ("hsl(0.5turn 100% 50%)", "#00ffff"),
        ("hwb(0 20% 20%)", "#cc3333"),
        ("color(srgb 1 0.5 0)", "#ff8000"),
        ("cmyk(0 0 0 25)", "#bfbfbf"),
        ("cmyk(0% 35% 60% 10%)", "#e6955c"),
        ("tomato", "#ff6347"),
        ("RebeccaPurple", "#663399"),
        ("transparent", "#00000000"),
    ],
)
def test_reads(text: str, expected: str) -> None:
    assert parse_color(text).hex == expected


@pytest.mark.parametrize(
    "text",
    ["oklch(0.7 0.1 200)", "oklab(70% 0.05 -0.05)", "lab(60 20 -30)", "lch(60 30 200 / 0.5)", "hsl(210 22% 70%)",
     "color(display-p3 0.5 0.4 0.3)", "color(xyz-d50 0.3 0.3 0.2)", "hwb(200 12% 30%)", "oklch(none 0 0)"],
)  # fmt: skip
def test_reads_as_an_independent_library_does(text: str) -> None:
    theirs = Oracle(text).convert("srgb").clip().to_string(hex=True)
    assert parse_color(text).hex == theirs


CSS4_CORRECTED = {"mediumpurple": "#9370db", "palevioletred": "#db7093"}
"""CSS Color 4, section 6.1; older lists, which the library follows, have d8 for db."""


def test_every_css_name() -> None:
    assert len(css_names()) == 148
    for name in css_names():
        expected = CSS4_CORRECTED.get(name) or Oracle(name).to_string(hex=True)
        assert parse_color(name).hex == expected


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("#12", "“#12” is no color: a hex code has 3, 4, 6 or 8 digits."),
        ("#", "a hex code has 3, 4, 6 or 8 digits"),
        ("rgb(300", "“rgb(300” is no color: the closing bracket is missing."),
        ("rgb(1 2)", "rgb() takes 3 numbers, 2 were found"),
        ("rgb(1 2 x)", "“x” is not a number"),
        ("rgb(1 2 3px)", "the unit “px” does not belong there"),
        ("foo(1 2 3)", "there is no color function foo()"),
        ("color(nowhere 1 1 1)", "color() begins with one of"),
        ("bluish", "neither a hex code, a color function nor a CSS name"),
        ("rgb(1 2 3 / 4 / 5)", "only one “/”"),
        ("", "There is no color in an empty line"),
    ],
)
def test_what_is_no_color_is_told_why(text: str, words: str) -> None:
    with pytest.raises(BadColor) as caught:
        parse_color(text)
    assert words in str(caught.value)
    assert "Try #a1b2c3" in str(caught.value)


def test_long_nonsense_is_shortened_in_the_message() -> None:
    with pytest.raises(BadColor) as caught:
        parse_color("x" * 5000)
    assert len(str(caught.value)) < 250


def test_wide_gamut_is_kept_and_marked() -> None:
    color = parse_color("color(display-p3 1 0 0)")
    assert color.space == "display-p3"
    assert color.coords == (1, 0, 0)
    assert not color.in_srgb
    assert parse_color("red").in_srgb


@pytest.mark.parametrize("notation", ["hex", "rgb", "hsl", "oklch"])
def test_written_colors_read_back_the_same(notation: str) -> None:
    for red in range(0, 256, 51):
        for blue in range(0, 256, 85):
            color = Color.from_bytes(red, 100, blue, 128 if blue else 255)
            back = parse_color(format_css(color, notation))
            assert all(abs(a - b) <= 1 for a, b in zip(back.bytes, color.bytes, strict=True))


def test_coordinates_must_be_numbers_and_fit_the_space() -> None:
    with pytest.raises(BadColor, match="not all ordinary numbers"):
        Color("srgb", (float("nan"), 0, 0))
    with pytest.raises(BadColor, match="CMYK has 4 coordinates, 3 were given"):
        Color("cmyk", (0, 0, 0))
