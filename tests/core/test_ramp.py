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
from huvren.core.errors import BadInput, Unknown
from huvren.core.ramp.css import write_css
from huvren.core.ramp.plan import plain_only
from huvren.core.ramp.profile import profile
from huvren.core.ramp.recipe import RampRecipe, RampStop
from huvren.core.ramp.stops import Stop, settle_positions
from huvren.core.ramp.values import Ramp, numbers
from huvren.core.ramp.ways import HUE_ROUTES, SHOWN_FIRST, WAYS, Lane, lane_of, lanes

TEXTS = ["#262b5c", "#ffd478", "#e8542180", "#808080", "#000000", "#ffffff", "#2bb5a0", "#0000", "#ff00ff33"]
AT = np.linspace(0, 1, 11)


def ramp(*texts: str, space: str = "oklab", route: str = "shorter", positions: tuple[float | None, ...] | None = None) -> Ramp:
    places = positions or (None,) * len(texts)
    return Ramp(tuple(Stop(parse_color(text), at) for text, at in zip(texts, places, strict=True)), Lane.of(space, route))


@pytest.mark.parametrize(
    "lane",
    [(space, route.id) for space in (*(w.id for w in WAYS if w.id != "pigment"), "hwb") for route in HUE_ROUTES
     if Lane.of(space).way.is_polar or route.id == "shorter"],
)  # fmt: skip
def test_interpolation_agrees_with_an_independent_library(lane: tuple[str, str]) -> None:
    space, route = lane
    for first, last in itertools.permutations(TEXTS, 2):
        ours, alpha = ramp(first, last, space=space, route=route).at(AT)
        theirs = coloraide.Color.interpolate([first, last], space=space, hue=route, premultiplied=True, powerless=True)
        for at, row, share in zip(AT, ours, alpha, strict=True):
            other = theirs(float(at)).convert("oklab")
            assert share == pytest.approx(other.alpha(nans=False), abs=1e-9)
            if share > 0.001:
                gap = delta_eok(convert(numbers(row), space, "oklab"), other.coords(nans=False))
                assert gap < 0.05, (first, last, at)


def test_three_stops_at_uneven_places() -> None:
    ours, _ = ramp("#000", "#fff", "#f00", positions=(0.1, 0.2, 0.9), space="srgb").at([0, 0.1, 0.15, 0.2, 0.55, 1])
    assert np.allclose(ours, [[0, 0, 0], [0, 0, 0], [0.5] * 3, [1, 1, 1], [1, 0.5, 0.5], [1, 0, 0]])
    hard, _ = ramp("#000", "#fff", "#f00", positions=(0, 0.5, 0.5), space="srgb").at([0.25, 0.5, 0.7])
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
        ramp("#fff")
    with pytest.raises(BadInput, match="none was given"):
        ramp()
    with pytest.raises(BadInput, match="must be either a swatch or a color"):
        RampRecipe(stops=[RampStop(swatch="a", text="#fff"), RampStop(text="#fff")]).plan()


def test_the_dip_is_measured_below_the_straight_line() -> None:
    complementary = profile(ramp("#0b58c4", "#ffa22e", space="srgb"))
    even = profile(ramp("#0b58c4", "#ffa22e", space="oklab"))
    assert complementary.dip > 0.03
    assert even.dip < 0.001
    assert even.rise < 0.001
    valley = profile(ramp("#ffffff", "#000000", "#ffffff", space="oklab"))
    assert valley.dip == pytest.approx(1, abs=0.01)
    assert valley.rise == 0
    assert profile(ramp("#000", "#fff", space="srgb-linear")).rise > 0.2
    assert tuple(complementary.rgba[0]) == (0x0B, 0x58, 0xC4, 255)
    assert tuple(complementary.rgba[-1]) == (0xFF, 0xA2, 0x2E, 255)


def test_baking_gives_exactly_so_many_and_the_stops_themselves() -> None:
    recipe = RampRecipe(stops=[RampStop(text=t) for t in ("#262b5c", "oklch(0.9 0.3 150)", "#ffd478")], steps=5, space="oklch")
    plan = recipe.plan()
    made = plan.ramp(plain_only).baked(5)
    assert len(made) == 5
    assert made[0] == parse_color("#262b5c")
    assert made[2] == Color("oklch", (0.9, 0.3, 150)), "kept as it was given, outside sRGB"
    assert made[1].space == "oklch"
    assert plan.sentence(["Night", "Leaf", "Lamp"]) == "Ramp from Night through Leaf to Lamp in 5 steps, in OKLCh, shorter hue."


def test_bad_recipes_are_told_why() -> None:
    two = [RampStop(text="#000"), RampStop(text="#fff")]
    for change, words in (
        ({"space": "rainbow"}, "There is no interpolation space “rainbow”"),
        ({"hue": "sideways"}, "There is no hue route"),
        ({"steps": 1025}, "less than or equal to 1024"),
        ({"steps": 1}, "greater than or equal to 2"),
    ):
        with pytest.raises(ValueError, match=words):
            RampRecipe.model_validate({"stops": two, **change})


def test_css_has_a_stand_in_that_stays_close() -> None:
    recipe = RampRecipe(stops=[RampStop(text="#0b58c4"), RampStop(text="#ffa22e")], space="oklch", hue="longer")
    ends = recipe.plan().ramp(plain_only)
    text = write_css(ends)
    said = float(re.search(r"largest difference ΔE (\d+\.\d)", text).group(1))  # type: ignore[union-attr]
    stand_in, gradient = re.findall(r"background: (.*);", text)
    assert gradient == "linear-gradient(90deg in oklch longer hue, #0b58c4 0%, #ffa22e 100%)"
    baked = Ramp(
        tuple(Stop(parse_color(code), float(at) / 100) for code, at in re.findall(r"(#\w+) ([\d.]+)%", stand_in)), Lane.of("srgb")
    )
    places = np.linspace(0, 1, 400)
    wanted, _ = ends.at(places)
    shown = np.array([map_to_srgb(row) for row in wanted])
    got, _ = baked.at(places)
    worst = delta_eok(convert(got, "srgb", "oklab"), convert(shown, "srgb", "oklab")).max()
    assert said <= 1.0
    assert worst < said + 0.3, "codes in the text are rounded to 8 bits"
    plain = write_css(ends.through(Lane.of("srgb")))
    assert plain == "background: linear-gradient(90deg, #0b58c4 0%, #ffa22e 100%);\n"


def test_lanes_are_every_way_by_every_route() -> None:
    ids = [lane.id for lane in lanes()]
    assert len(ids) == len(set(ids)) == 6 + 4 * 4
    assert ids[:5] == ["oklab", "oklch-shorter", "oklch-longer", "oklch-increasing", "oklch-decreasing"]
    assert set(SHOWN_FIRST) <= set(ids)
    assert all(lane_of(lane).id == lane for lane in ids)
    with pytest.raises(Unknown, match="There is no lane “rainbow”"):
        lane_of("rainbow")


@settings(max_examples=60, deadline=None)
@given(st.lists(st.tuples(st.floats(0, 1), st.floats(0, 0.4), st.floats(0, 360)), min_size=1, max_size=20))
def test_mapping_many_at_once_is_mapping_each(rows: list[tuple[float, float, float]]) -> None:
    together = map_to_srgb(np.array(rows))
    assert together.min() >= 0
    assert together.max() <= 1
    for row, mapped in zip(rows, together, strict=True):
        assert np.array_equal(map_to_srgb(np.array(row)), mapped)


MISSING = [
    ("oklch(none 0.2 40)", "oklch(0.8 0.1 200)", "oklch"), ("oklch(0.4 none 40)", "oklch(0.8 0.1 200)", "oklch"),
    ("oklch(0.4 0.2 none)", "oklch(0.8 0.1 200)", "oklch"), ("oklab(none 0.1 0.1)", "oklab(0.8 0 0)", "oklab"),
    ("rgb(none 120 20)", "rgb(200 10 90)", "srgb"), ("oklch(0.5 0.1 40 / none)", "oklch(0.8 0.1 200 / 0.4)", "oklch"),
    ("oklch(none none 40)", "oklch(none 0.1 200)", "oklch"), ("lch(none 30 40)", "oklch(0.8 0.1 200)", "oklch"),
    ("lch(50 none 40)", "oklch(0.8 0.1 200)", "oklch"), ("hsl(none 50% 50%)", "oklch(0.8 0.1 200)", "oklch"),
    ("lab(none 20 20)", "oklab(0.6 0.1 0)", "oklab"), ("color(display-p3 none 0.5 0.2)", "rgb(10 200 90)", "srgb"),
    ("hwb(none 20% 10%)", "hsl(200 50% 50%)", "hsl"),
    ("oklab(none 0.1 0.1 / 0.8)", "oklab(0.6 0 0.05)", "oklab"), ("oklch(0.5 none 40 / 0.6)", "oklch(0.8 0.1 none / 0.9)", "oklch"),
    ("oklab(0.5 none 0.1 / none)", "oklab(0.8 0.05 0.05 / 0.3)", "oklab"), ("rgb(none 120 20 / 0.9)", "rgb(200 10 90)", "srgb"),
]  # fmt: skip


@pytest.mark.parametrize(("first", "last", "space"), MISSING)
def test_missing_components_are_taken_from_the_neighbor_as_an_independent_library_does(first: str, last: str, space: str) -> None:
    """CSS Color 4 §12.2: carried to the analogous component of the other space, then taken from the other end."""
    ours, alpha = ramp(first, last, space=space).at(AT)
    # There, a chroma that is missing counts as none and takes its hue's power; in the same space it says nothing about it.
    powerless = not ("none" in first.split()[1:2] and first.startswith(f"{space}("))
    theirs = coloraide.Color.interpolate([first, last], space=space, carryforward=True, powerless=powerless)
    for at, row, share in zip(AT, ours, alpha, strict=True):
        other = theirs(float(at))
        assert share == pytest.approx(other.alpha(nans=False), abs=1e-6)
        assert np.isnan(row).tolist() == [component != component for component in other.coords()]
        mine = convert(numbers(row), space, "oklab")
        assert delta_eok(mine, other.convert("oklab").coords(nans=False)) < 0.05, (first, last, at)


def test_a_stop_that_misses_something_is_continuous_with_the_steps_beside_it() -> None:
    for stops in (("oklch(0.7 none 40)", "oklch(0.4 0.1 200)"), ("oklch(0.4 0.1 200)", "oklch(0.7 none 40)")):
        steps = np.array([color.bytes for color in ramp(*stops, space="oklch").baked(201)], dtype=int)
        assert np.abs(np.diff(steps, axis=0)).max() <= 6, stops
        assert np.abs(np.diff(steps[[0, 1, -2, -1]], axis=0))[[0, 2]].max() <= 2, stops
    assert ramp("oklch(0.7 none 40)", "oklch(0.4 0.1 200)", space="oklch").baked(9)[0].coords == pytest.approx((0.7, 0.1, 40))


def test_what_both_ends_miss_stays_missing_down_to_the_baked_swatch_and_the_css() -> None:
    both = ramp("oklch(0.2 none 40)", "oklch(0.8 none 200)", space="oklch")
    middle = both.baked(3)[1]
    assert middle.missing == (1,)
    assert middle.components()[1] is None
    assert middle.coords[1:] == pytest.approx((0, 120)), "a strength that is missing leaves its hue its power"
    assert "oklch(0.2 none 40) 0%, oklch(0.8 none 200) 100%" in write_css(both)
    assert both.baked(3)[0] == parse_color("oklch(0.2 none 40)")


def test_a_gray_between_two_hues_lends_each_side_its_neighbors() -> None:
    row, _ = ramp("oklch(0.6 0.2 30)", "#808080", "oklch(0.6 0.2 250)", space="oklch").at([0.25, 0.49, 0.51, 0.75])
    assert row[:, 2] == pytest.approx([30, 30, 250, 250], abs=1e-6)
    text = write_css(ramp("oklch(0.6 0.1 30)", "#808080", "oklch(0.6 0.1 250)", space="oklch"))
    gray = re.findall(r"oklch\(0\.59987 0\.0005 ([\d.]+)\) 50%", text)
    assert [float(hue) for hue in gray] == pytest.approx([30, 250], abs=0.1), text


def test_a_gray_in_hwb_has_no_hue_by_its_whiteness_and_blackness() -> None:
    row, _ = ramp("hwb(40 60% 40%)", "hwb(200 10% 10%)", space="hwb").at([0, 0.5])
    assert row[:, 0] == pytest.approx([200, 200])
    vivid, _ = ramp("hwb(40 59% 40%)", "hwb(200 10% 10%)", space="hwb").at([0])
    assert vivid[0, 0] == pytest.approx(40)


def test_the_css_of_a_space_whose_hue_comes_first() -> None:
    text = write_css(ramp("#808080", "#c0392b", space="hsl"))
    assert "linear-gradient(90deg in hsl shorter hue, #808080 0%, #c0392b 100%)" in text
    said = write_css(ramp("#808080", "#c0392b", space="hsv"))
    assert said.startswith("/* CSS has no gradient in HSV: ")
    assert " in hsv" not in said


def test_a_stop_outside_srgb_is_written_whole() -> None:
    text = write_css(ramp("oklch(0.7 0.35 150)", "#fff", space="oklab"))
    assert "in oklab, oklch(0.7 0.35 150) 0%, #ffffff 100%" in text


def test_the_later_of_two_stops_at_one_place_is_baked() -> None:
    assert [color.hex for color in ramp("#000", "#123456", "#abcdef", "#fff", positions=(0, 0.5, 0.5, 1)).baked(3)][1] == "#abcdef"


def test_any_space_that_declares_itself_is_a_way() -> None:
    assert [way.label for way in WAYS] == [
        "OKLab", "OKLCh", "CIELAB", "CIELCh", "Linear light", "sRGB", "HSL", "HSV", "Display P3", "Paint",
    ]  # fmt: skip
    assert all(way.use for way in WAYS)
    assert {way.id for way in WAYS if way.gradient is None} == {"hsv", "pigment"}
    assert Lane.of("hwb").way.hue == 0, "a space that is no registered way can be passed through"


@settings(max_examples=60, deadline=None)
@given(
    st.lists(st.tuples(st.floats(0, 1), st.floats(0, 0.3), st.floats(0, 359), st.floats(0, 1)), min_size=2, max_size=6),
    st.sampled_from(["oklab", "oklch", "srgb", "hsl"]),
)  # fmt: skip
def test_a_ramp_walked_backward_is_the_ramp_of_the_reversed_stops(rows: list[tuple[float, float, float, float]], space: str) -> None:
    forth = Ramp(tuple(Stop(Color("oklch", row[:3], row[3])) for row in rows), Lane.of(space))
    back = Ramp(forth.stops[::-1], forth.lane)
    hues = [float(components) for components in forth._corners[0][:, 2 if space == "oklch" else 0]]
    if space in ("oklch", "hsl") and any(abs(abs(a - b) - 180) < 1e-6 for a, b in itertools.pairwise(hues)):
        return  # half way round, both directions are equally near
    (ours, alpha), (theirs, other) = forth.at(AT), back.at(1 - AT)
    # In light: near black the cube root of OKLab makes 1e-6 of what rounding leaves of 1e-18.
    ours, theirs = (convert(numbers(coords), space, "srgb-linear") for coords in (ours, theirs))
    assert alpha == pytest.approx(other, abs=1e-9)
    assert ours[alpha > 1e-3] == pytest.approx(theirs[alpha > 1e-3], abs=1e-6)
