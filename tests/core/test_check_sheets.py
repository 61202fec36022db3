"""What the pictures of checks hold to, whichever check it is, and what small parts of checks say, worked out by hand."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from huvren.core.checks import CHECKS, examine
from huvren.core.checks.check import MOST_NAMED, Part, listed
from huvren.core.checks.drawing import Drawing, Shape
from huvren.core.checks.mixtures import MOST_MIXED
from huvren.core.checks.screens import Shown, _badness, displays
from huvren.core.checks.subject import Subject
from huvren.core.errors import Unknown
from huvren.core.formats import FORMATS
from huvren.core.formats.file_names import free_file_name
from huvren.core.formats.pictures.square_runs import _bands, _ground_between, _shape
from huvren.core.formats.scan.text_forms import _function
from huvren.core.ramp.promises.lightness import turning
from huvren.core.ramp.ways import lane_of
from tests.core.test_checks import palette_of, palettes

SLACK = 1.0
"""Half a stroke, rounded."""


def extent(shape: Shape) -> tuple[float, float, float, float] | None:
    """Left, top, right and bottom of what has a size of its own, or None."""
    match shape.kind:
        case "rect" | "image":
            x, y, width, height = shape.at
            return x, y, x + width, y + height
        case "line":
            x1, y1, x2, y2 = shape.at
            return min(x1, x2), min(y1, y2), max(x1, x2), max(y1, y2)
        case "circle":
            x, y, radius = shape.at
            return x - radius, y - radius, x + radius, y + radius
        case "text":
            x, y = shape.at
            return x, y, x, y
    return None


def beside_the_sheet(drawing: Drawing) -> list[Shape]:
    def is_beside(shape: Shape) -> bool:
        if (found := extent(shape)) is None:
            return False
        left, top, right, bottom = found
        return min(left, top) < -SLACK or right > drawing.width + SLACK or bottom > drawing.height + SLACK

    return [shape for shape in drawing.shapes if is_beside(shape)]


@settings(max_examples=25, deadline=None)
@given(palettes)
def test_nothing_is_drawn_beside_the_sheet(palette: object) -> None:
    for check in CHECKS:
        drawing = examine(check, Subject(palette)).draw(check.settled({}, views=True))  # type: ignore[arg-type]
        assert beside_the_sheet(drawing) == [], check.id


@pytest.mark.parametrize("count", [1, 2, 9, 24, 70])
def test_nothing_is_drawn_beside_the_sheet_however_many_there_are(count: int) -> None:
    rgb = np.random.default_rng(count).integers(0, 256, (count, 3))
    palette = palette_of(*[f"#{red:02x}{green:02x}{blue:02x}" for red, green, blue in rgb.tolist()], groups="AAAABBBB"[:count])
    for check in CHECKS:
        drawing = examine(check, Subject(palette)).draw(check.settled({}, views=True))
        assert beside_the_sheet(drawing) == [], check.id
        assert all(shape.text for shape in drawing.shapes if shape.kind == "text")


def test_the_mixtures_of_many_say_of_how_many_they_are() -> None:
    many = palette_of(*[f"#{n:02x}{255 - n:02x}{n * 7 % 256:02x}" for n in range(MOST_MIXED + 6)])
    drawing = examine(CHECKS["mixtures"], Subject(many)).draw(CHECKS["mixtures"].settled({}, views=True))
    assert any(f"the tones are of {MOST_MIXED}." in shape.text for shape in drawing.shapes)


@pytest.mark.parametrize(
    ("count", "words"), [(1, "a"), (2, "a and b"), (3, "a, b and c"), (4, "a, b, c and 1 more"), (12, "a, b, c and 9 more")]
)
def test_a_few_are_named_and_the_others_counted(count: int, words: str) -> None:
    assert MOST_NAMED == 3
    assert "".join(part.text for part in listed((Part(letter) for letter in "abcdefghijkl"[:count]), count)) == words


def test_a_display_is_worse_the_more_it_loses_and_a_lost_pair_counts_twice_a_turned_one() -> None:
    one, pair = displays()[0], (0, 1)

    def badness(lost: int, turned: int, accents: int) -> int:
        return _badness(Shown(one, np.zeros((2, 3), np.uint8), [pair] * turned, [pair] * lost, [0] * accents))

    assert badness(0, 0, 0) == 0
    assert 0 < badness(0, 0, 1) < badness(0, 1, 0) < badness(0, 1, 1) < badness(1, 0, 0)
    assert badness(1, 0, 0) == badness(0, 2, 0)


def test_lightness_turns_where_it_first_goes_against_the_way_from_end_to_end() -> None:
    for lightness, place, back in (
        ([0.5, 0.9, 0.6], 2, 0.3),
        ([0.6, 0.9, 0.5], 1, 0.3),
        ([0.2, 0.4, 0.3, 0.8, 0.6, 0.9], 2, 0.2),
        ([0.1, 0.5, 0.9], -1, 0.0),
        ([0.9, 0.5, 0.1], -1, 0.0),
    ):
        found = turning(np.array(lightness))
        assert (found[0], round(found[1], 9)) == (place, back), lightness


def test_an_unknown_lane_is_named_as_far_as_forty_letters() -> None:
    with pytest.raises(Unknown, match=f"“{'x' * 40}”"):
        lane_of("x" * 100)


def test_names_of_files_are_numbered_from_the_second_on_whatever_their_case() -> None:
    taken: set[str] = set()
    names = [free_file_name(name, ".gpl", taken) for name in ("Ink", "ink", "INK", "a/b", " . ", "a:b")]
    assert names == ["Ink.gpl", "ink (2).gpl", "INK (3).gpl", "a-b.gpl", "file.gpl", "a-b (2).gpl"]


@pytest.mark.parametrize(
    ("text", "channels"),
    [
        ("rgb(0.2, 0.4, 0.6)", (0.2, 0.4, 0.6, 1)),
        ("rgba(0.2, 0.4, 0.6, 0.5)", (0.2, 0.4, 0.6, 0.5)),
        ("rgb(0.2, 0.4, 0.6, 0.5, 0.1)", None),
        ("rgb(0.2, 0.4)", None),
    ],
)
def test_shares_in_a_function_are_a_color_where_they_are_three_or_four(text: str, channels: tuple[float, ...] | None) -> None:
    found = _function(text, "")
    assert (None if found is None else (*found.coords, found.alpha)) == channels


@given(st.lists(st.integers(0, 100), min_size=4, max_size=4))
def test_percents_of_ink_in_a_table_of_colors_are_read_as_they_stand(shares: list[int]) -> None:
    ink = "/".join(map(str, shares))
    data = f"# COLOR_MODEL = CMYK\n0 {ink} 1 {ink}\n".encode()
    color = next(iter(FORMATS["cpt"].taken(data).values())).palette.swatches[0].color
    assert color.space == "cmyk"
    assert color.coords == pytest.approx([share / 100 for share in shares])


def areas(*rows: tuple[int, int, int, int]) -> np.ndarray:
    return np.array(rows)


@pytest.mark.parametrize(
    ("found", "shape"),
    [
        (areas((0, 0, 9, 9), (10, 1, 9, 9), (20, 0, 9, 9)), (1, 3)),
        (areas((0, 0, 9, 9), (10, 0, 9, 9), (0, 10, 9, 9)), (2, 2)),
        (areas((0, 0, 9, 9), (0, 10, 9, 9), (0, 20, 9, 9)), (3, 1)),
        (areas((30, 0, 9, 9), (40, 9, 9, 9), (50, 30, 9, 9)), (3, 1)),
    ],
)
def test_squares_stand_in_one_row_until_they_begin_below_one_or_left_of_it(found: np.ndarray, shape: tuple[int, int]) -> None:
    assert _shape(found) == shape


def test_a_single_pixel_parts_exact_bands_and_not_those_of_a_noisy_picture() -> None:
    block = np.zeros((30, 200, 4), np.uint8)
    block[10:, 7] = 255
    assert _bands(block, 0) == [(0, 10), (10, 30)]
    assert _bands(block, 14) == [(0, 30)]


def test_four_pieces_are_enough_to_see_the_ground_between_them() -> None:
    paper, ink = (240, 240, 230, 255), (30, 60, 90, 255)
    strip = np.full((20, 100, 4), paper, np.uint8)
    strip[:, 20:40] = strip[:, 60:80] = ink
    bounds = [(0, 0, 20, 20), (20, 0, 40, 20), (40, 0, 60, 20), (60, 0, 80, 20), (80, 0, 100, 20)]
    assert _ground_between(strip, bounds[:3], 0) is None
    found = _ground_between(strip, bounds, 0)
    assert found is not None
    assert found.tolist() == list(paper)
    # One at each end alone is parted once, which a strip of its own colors is too.
    assert _ground_between(strip, [bounds[0], bounds[1], bounds[2], bounds[2]], 0) is None
    four = [bounds[0], bounds[1], bounds[2], bounds[3]]
    begins_with_ink = [bounds[1], bounds[2], bounds[3], bounds[4]]
    assert _ground_between(strip, four, 0) is None
    assert _ground_between(strip, begins_with_ink, 0) is not None
