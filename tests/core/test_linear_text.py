"""Every entry for text takes time in proportion to the text, whatever it says: twice as much takes twice the steps.

Steps are counted, see `tests/counting.py`; what the same texts take by the clock, up to the most that is taken, is measured by
`./run bench growth`."""

from functools import partial
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from huvren.core.color.notation import LONGEST_COLOR, parse_color
from huvren.core.color.typed import MOST_AT_ONCE, parse_named_colors
from huvren.core.errors import BadInput, HuvrenError
from huvren.core.json_text import check_storable, is_storable, read_json, storable
from huvren.core.palette.operations.naming import ReplaceInNames
from huvren.core.palette.values import LONGEST_NAME, Palette, Swatch, clean_name
from tests.counting import Visited, steps_of
from tests.hostile import HOSTILE, READERS

SIZES = (2_000, 4_000, 8_000, 16_000)
NOISE = 300
"""Steps of what is set up once, at the first size that needs it."""


@pytest.mark.parametrize("reader", READERS)
def test_twice_the_text_takes_twice_the_steps(reader: str) -> None:
    for kind, make in HOSTILE.items():
        texts = [Visited(make(size)) for size in SIZES]
        READERS[reader](Visited("#fff")) if reader != "JSON" else None
        steps = [steps_of(lambda text=text: READERS[reader](text), ignoring=HuvrenError) for text in texts]
        for before, after in pairwise(steps):
            assert after <= 2 * before + NOISE, (reader, kind, steps)


def test_a_quadratic_reader_would_be_noticed() -> None:
    """The counter sees loops over lines, pieces cut off one by one, and searching from the beginning each time."""

    def cutting(text: str) -> None:
        while text:
            text = text[1:]

    def searching(text: str) -> None:
        for _ in text:
            text.find("~")

    def looping(text: str) -> None:
        for _ in text:
            for _ in text:
                pass

    for reader in (cutting, searching, looping):
        once, twice = (steps_of(partial(reader, Visited("a" * size))) for size in (100, 200))
        assert twice > 3.5 * once


def test_what_is_too_long_for_a_color_is_said_so() -> None:
    with pytest.raises(BadInput, match=f"no color needs more than {LONGEST_COLOR}"):
        parse_color("rgb(" + " " * LONGEST_COLOR + "1 2 3)")
    assert parse_color("rgb(" + " " * 300 + "1 2 3)").bytes == (1, 2, 3, 255)


def test_more_colors_than_are_read_at_once_are_said_so() -> None:
    assert len(parse_named_colors("f00 " * MOST_AT_ONCE)) == MOST_AT_ONCE
    for text in ("f00 " * (MOST_AT_ONCE + 1), "f00\n" * (MOST_AT_ONCE + 1), "lamp f00112\n" * (MOST_AT_ONCE + 1)):
        with pytest.raises(BadInput, match="Bring a list this long in as a file"):
            parse_named_colors(text)


@pytest.mark.parametrize(
    ("text", "color"),
    [
        ("RGB( 1 2 3 )", (1, 2, 3, 255)), ("rgb(1,2,3)", (1, 2, 3, 255)), ("\trgb(1 2 3)\n", (1, 2, 3, 255)),
        ("rgb(1 2 3 / 0)", (1, 2, 3, 0)), ("K 100 %", (0, 0, 0, 255)), ("0xFF0000", (255, 0, 0, 255)),
    ],
)  # fmt: skip
def test_notations_are_read_as_ever(text: str, color: tuple[int, ...]) -> None:
    assert parse_color(text).bytes == color


@pytest.mark.parametrize(
    ("line", "names"),
    [
        ("Lamp core rgb(1 2 3)", ["Lamp core"]), ("Glow: #ffcc66", ["Glow"]),
        ("ffcc66 Glow", ["Glow"]), ("Night K80", ["Night"]),
    ],
)  # fmt: skip
def test_names_beside_colors_are_read_as_ever(line: str, names: list[str]) -> None:
    assert [name for _, name in parse_named_colors(line)] == names


def test_replacing_in_names_keeps_letters_that_fold_to_two() -> None:
    """“ß” folds to two letters, and what follows it once moved by one."""
    palette = Palette("x", (Swatch(parse_color("#000"), "Straße rot ROT"),))
    (swatch,) = ReplaceInNames(find="rot", put="blau").apply(palette).palette.swatches
    assert swatch.name == "Straße blau blau"
    (swatch,) = ReplaceInNames(find="rot", put=r"\1", match_case=True).apply(palette).palette.swatches
    assert swatch.name == r"Straße \1 ROT"


@given(st.text(max_size=40))
def test_what_is_storable_can_be_written_and_has_no_nul(text: str) -> None:
    def can_be_kept() -> bool:
        try:
            return b"\0" not in text.encode()
        except UnicodeEncodeError:
            return False

    assert is_storable(text) == can_be_kept()
    assert is_storable(storable(text))
    assert storable(text) == text or not is_storable(text)


@pytest.mark.parametrize(
    "data",
    [
        b'{"a":"\\u0000"}', b'{"\\u0000":1}', b'["x",["\\u0000"]]', b'{"a":[{"b":"\\u0000"}]}', b"[9223372036854775808]",
        b"[1" + b"0" * 400 + b"]", b"[NaN]", b"[Infinity]", b'["\\ud800"]', b"[" * 5000 + b"]" * 5000, b"", b"{", b"\xff\xfe[]",
        b"[" + b"[]," * 1_600_000 + b"[]]", b"[" + b"1," * 6_100_000 + b"1]",
    ],
)  # fmt: skip
def test_json_that_cannot_be_kept_is_refused(data: bytes) -> None:
    with pytest.raises(BadInput):
        read_json(data)


def test_json_that_only_looks_so_is_read() -> None:
    assert read_json(b'["\\\\u0000", 9223372036854775807, -9223372036854775808]') == ["\\u0000", 2**63 - 1, -(2**63)]
    assert read_json(b'["\\ud83d\\ude00", "0000000000000000000"]') == ["😀", "0" * 19]
    check_storable({"a": ["b", {"c": None, "d": 1.5, "e": True}]})


def test_a_name_may_be_as_long_as_it_may() -> None:
    assert clean_name("x" * LONGEST_NAME) == "x" * LONGEST_NAME
    with pytest.raises(BadInput, match="is the most that can be kept"):
        clean_name("x" * (LONGEST_NAME + 1))
