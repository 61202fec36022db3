"""Ramps: interpolation against an independent library, figures by hand, baking, CSS."""

import itertools
import re

import coloraide
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from huvren.core.color.difference import delta_eok
from huvren.core.color.gamut import map_to_srgb
from huvren.core.color.notation import parse_color
from huvren.core.color.spaces import convert
from huvren.core.color.value import Color
from huvren.core.errors import BadInput
from huvren.core.ramp.css import write_css
from huvren.core.ramp.interpolate import Stop, sample, settle_positions
from huvren.core.ramp.profile import profile
from huvren.core.ramp.recipe import RampRecipe, RampStop, bake, say, stops_of
from huvren.core.ramp.ways import HUE_ROUTES, WAYS, lanes

TEXTS = ["#262b5c", "#ffd478", "#e8542180", "#808080", "#000000", "#ffffff", "#2bb5a0", "#0000", "#ff00ff33"]
AT = np.linspace(0, 1, 11)


def stops(*texts: str, positions: tuple[float | None, ...] | None = None) -> list[Stop]:
    places = positions or (None,) * len(texts)
    return [Stop(parse_color(text), at) for text, at in zip(texts, places, strict=True)]


@pytest.mark.parametrize(
    "lane", [(way.id, route.id) for way in WAYS for route in HUE_ROUTES if way.is_polar or route.id == "shorter"]
)
def test_interpolation_agrees_with_an_independent_library(lane: tuple[str, str]) -> None:
    space, route = lane
    for first, last in itertools.permutations(TEXTS, 2):
        ours, alpha = sample(stops(first, last), space, route, AT)
        theirs = coloraide.Color.interpolate([first, last], space=space, hue=route, premultiplied=True, powerless=True)
        for at, row, share in zip(AT, ours, alpha, strict=True):
            other = theirs(float(at)).convert("oklab")
            assert share == pytest.approx(other.alpha(nans=False), abs=1e-9)
            if share > 0.001:
                gap = delta_eok(convert(row, space, "oklab"), other.coords(nans=False))
                assert gap < 0.05, (first, last, at)


def test_three_stops_at_uneven_places() -> None:
    ours, _ = sample(stops("#000", "#fff", "#f00", positions=(0.1, 0.2, 0.9)), "srgb", "shorter", [0, 0.1, 0.15, 0.2, 0.55, 1])
    assert np.allclose(ours, [[0, 0, 0], [0, 0, 0], [0.5] * 3, [1, 1, 1], [1, 0.5, 0.5], [1, 0, 0]])
    hard, _ = sample(stops("#000", "#fff", "#f00", positions=(0, 0.5, 0.5)), "srgb", "shorter", [0.25, 0.5, 0.7])
    assert np.allclose(hard, [[0.5] * 3, [1, 0, 0], [1, 0, 0]])


@pytest.mark.parametrize(
    ("given", "settled"),
    [
        ([None, None, None], [0, 0.5, 1]),
        ([0.2, None, None, 0.8], [0.2, 0.4, 0.6, 0.8]),
        ([None, 0.7, 0.3, None], [0, 0.7, 0.7, 1]),
        ([0.5, None, 0.5], [0.5, 0.5, 0.5]),
    ],
)
def test_positions_are_settled_as_css_does(given: list[float | None], settled: list[float]) -> None:
    assert settle_positions(given) == pytest.approx(settled)


def test_one_color_is_no_ramp() -> None:
    with pytest.raises(BadInput, match=r"A ramp needs two colors or more; one was given\. Select another swatch or type a color\."):
        sample(stops("#fff"), "oklab", "shorter", [0])
    with pytest.raises(BadInput, match="none was given"):
        sample([], "oklab", "shorter", [0])
    with pytest.raises(BadInput, match="must be either a swatch or a color"):
        stops_of(RampRecipe(stops=[RampStop(swatch="a", text="#fff"), RampStop(text="#fff")]), lambda _: parse_color("#000"))


def test_the_dip_is_measured_below_the_straight_line() -> None:
    complementary = profile(stops("#0b58c4", "#ffa22e"), "srgb", "shorter")
    even = profile(stops("#0b58c4", "#ffa22e"), "oklab", "shorter")
    assert complementary.dip > 0.03
    assert even.dip < 0.001
    assert even.rise < 0.001
    valley = profile(stops("#ffffff", "#000000", "#ffffff"), "oklab", "shorter")
    assert valley.dip == pytest.approx(1, abs=0.01)
    assert valley.rise == 0
    assert profile(stops("#000", "#fff"), "srgb-linear", "shorter").rise > 0.2
    assert tuple(complementary.rgba[0]) == (0x0B, 0x58, 0xC4, 255)
    assert tuple(complementary.rgba[-1]) == (0xFF, 0xA2, 0x2E, 255)


def test_baking_gives_exactly_so_many_and_the_stops_themselves() -> None:
    recipe = RampRecipe(stops=[RampStop(text=t) for t in ("#262b5c", "oklch(0.9 0.3 150)", "#ffd478")], steps=5, space="oklch")
    made = bake(recipe, stops_of(recipe, lambda _: parse_color("#000")))
    assert len(made) == 5
    assert made[0] == parse_color("#262b5c")
    assert made[2] == Color("oklch", (0.9, 0.3, 150)), "kept as it was given, outside sRGB"
    assert made[1].space == "oklch"
    assert say(recipe, ["Night", "Leaf", "Lamp"]) == "Ramp from Night through Leaf to Lamp in 5 steps, in OKLCh, shorter hue."


def test_bad_recipes_are_told_why() -> None:
    two = [RampStop(text="#000"), RampStop(text="#fff")]
    for change, words in (
        ({"space": "rainbow"}, "There is no interpolation space “rainbow”"),
        ({"hue": "sideways"}, "There is no hue route"),
        ({"steps": 65}, "less than or equal to 64"),
        ({"steps": 1}, "greater than or equal to 2"),
    ):
        with pytest.raises(ValueError, match=words):
            RampRecipe.model_validate({"stops": two, **change})


def test_css_has_a_stand_in_that_stays_close() -> None:
    recipe = RampRecipe(stops=[RampStop(text="#0b58c4"), RampStop(text="#ffa22e")], space="oklch", hue="longer")
    ends = stops_of(recipe, lambda _: parse_color("#000"))
    text = write_css(recipe, ends)
    said = float(re.search(r"largest difference ΔE (\d+\.\d)", text).group(1))  # type: ignore[union-attr]
    stand_in, gradient = re.findall(r"background: (.*);", text)
    assert gradient == "linear-gradient(90deg in oklch longer hue, #0b58c4 0%, #ffa22e 100%)"
    baked = [Stop(parse_color(code), float(at) / 100) for code, at in re.findall(r"(#\w+) ([\d.]+)%", stand_in)]
    places = np.linspace(0, 1, 400)
    wanted, _ = sample(ends, "oklch", "longer", places)
    shown = np.array([map_to_srgb(row) for row in wanted])
    got, _ = sample(baked, "srgb", "shorter", places)
    worst = delta_eok(convert(got, "srgb", "oklab"), convert(shown, "srgb", "oklab")).max()
    assert said <= 1.0
    assert worst < said + 0.3, "codes in the text are rounded to 8 bits"
    plain = write_css(recipe.model_copy(update={"space": "srgb"}), ends)
    assert plain == "background: linear-gradient(90deg, #0b58c4 0%, #ffa22e 100%);\n"


def test_lanes_show_each_space_and_both_ways_round() -> None:
    assert [lane.id for lane in lanes()] == ["oklab", "oklch-shorter", "oklch-longer", "srgb-linear", "srgb"]


@settings(max_examples=60, deadline=None)
@given(st.lists(st.tuples(st.floats(0, 1), st.floats(0, 0.4), st.floats(0, 360)), min_size=1, max_size=20))
def test_mapping_many_at_once_is_mapping_each(rows: list[tuple[float, float, float]]) -> None:
    together = map_to_srgb(np.array(rows))
    assert together.min() >= 0
    assert together.max() <= 1
    for row, mapped in zip(rows, together, strict=True):
        assert np.array_equal(map_to_srgb(np.array(row)), mapped)
