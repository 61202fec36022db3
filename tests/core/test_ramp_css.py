"""A ramp as CSS: in its own words where CSS has them, baked where it has not, and what is baked is close."""

import re
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from huvren.core.color.difference import delta_eok
from huvren.core.color.notation import parse_color
from huvren.core.color.spaces import convert
from huvren.core.color.value import Color
from huvren.core.formats.style_sheets.gradient_css import plan_in
from huvren.core.ramp.baking import MOST_BAKED, Baked, bake, sampled, stepped
from huvren.core.ramp.css import why_baked, write_css
from huvren.core.ramp.easings import Easing
from huvren.core.ramp.plan import PlanStop, RampPlan, plain_only, plan_of
from huvren.core.ramp.ways import WAYS

NIGHT, LEAF, LAMP = (parse_color(text) for text in ("#262b5c", "#2bb5a0", "#ffd478"))


def gradients(text: str) -> list[str]:
    return re.findall(r"background: linear-gradient\((.*)\);", text)


@pytest.mark.parametrize("way", [way for way in WAYS if way.gradient and way.id != "srgb"], ids=lambda way: way.id)
def test_what_css_can_say_is_said_in_its_own_space(way: object) -> None:
    plan = plan_of([NIGHT, LAMP], space=way.id, hue="longer")  # type: ignore[attr-defined]
    stand_in, own = gradients(write_css(plan.ramp(plain_only)))
    route = " longer hue" if way.is_polar else ""  # type: ignore[attr-defined]
    assert own == f"90deg in {way.gradient}{route}, #262b5c 0%, #ffd478 100%"  # type: ignore[attr-defined]
    assert " in " not in stand_in
    assert why_baked(plan.ramp(plain_only)) == ""


@pytest.mark.parametrize(
    ("change", "reason"),
    [
        ({"space": "hsv"}, "no gradient in HSV"), ({"space": "pigment"}, "no gradient in Paint"),
        ({"curve": "natural"}, "no flowing curve"), ({"curve": "monotone"}, "no rounded curve"),
        ({"spacing": "even"}, "no spacing evenly"), ({"spacing": "lightness"}, "no spacing by even lightness"),
        ({"gamut": "clip"}, "no plain clip"),
        ({"stops": (PlanStop(NIGHT, easing=Easing("smooth")), PlanStop(LAMP))}, "no easing"),
    ],
)  # fmt: skip
def test_what_css_cannot_say_is_named_and_baked(change: dict[str, object], reason: str) -> None:
    ramp = replace(plan_of([NIGHT, LAMP]), **change).ramp(plain_only)  # type: ignore[arg-type]
    assert why_baked(ramp) == reason
    text = write_css(ramp)
    assert text.startswith(f"/* CSS has {reason}: ")
    (only,) = gradients(text)
    assert " in " not in only


def test_an_easing_behind_the_last_stop_has_no_say() -> None:
    plan = RampPlan((PlanStop(NIGHT), PlanStop(LAMP, easing=Easing("smooth"))))
    assert why_baked(plan.ramp(plain_only)) == ""


def test_midpoints_are_hints_between_their_stops() -> None:
    stops = (PlanStop(NIGHT, midpoint=0.3), PlanStop(LEAF, position=0.4, midpoint=0.5), PlanStop(LAMP))
    _, own = gradients(write_css(RampPlan(stops).ramp(plain_only)))
    assert own == "90deg in oklab, #262b5c 0%, 12%, #2bb5a0 40%, #ffd478 100%"
    back, notes = plan_in(own)
    assert notes == []
    assert [round(stop.midpoint, 6) for stop in back.stops[:-1]] == [0.3, 0.5]


def test_a_hard_edge_is_two_stops_at_one_place() -> None:
    stops = (PlanStop(NIGHT, position=0), PlanStop(LEAF, position=0.5), PlanStop(LAMP, position=0.5), PlanStop(NIGHT, position=1))
    text = write_css(RampPlan(stops).ramp(plain_only))
    stand_in, own = gradients(text)
    assert "#2bb5a0 50%, #ffd478 50%" in own
    places = [float(at) for at in re.findall(r"([\d.]+)%", stand_in)]
    doubled = [at for place, at in enumerate(places) if place and at == places[place - 1]]
    assert doubled == pytest.approx([50], abs=0.1)
    assert float(re.search(r"ΔE (\d+\.\d)", text).group(1)) < 1.1  # type: ignore[union-attr]


chosen = st.tuples(st.floats(0, 1), st.floats(0, 0.3), st.floats(0, 359), st.floats(0, 1)).map(lambda r: Color("oklch", r[:3], r[3]))


@settings(max_examples=60, deadline=None)
@given(
    st.lists(chosen, min_size=2, max_size=8), st.sampled_from(WAYS.ids()), st.sampled_from(["straight", "monotone", "natural"]),
    st.sampled_from(["position", "even", "lightness"]), st.floats(0.3, 3),
)  # fmt: skip
def test_baked_stops_are_as_near_as_they_say(colors: list[Color], space: str, curve: str, spacing: str, tolerance: float) -> None:
    ramp = plan_of(colors, space=space, curve=curve, spacing=spacing).ramp(plain_only)
    baked = bake(ramp, tolerance)
    assert len(baked.places) <= MOST_BAKED
    assert baked.worst <= tolerance or len(baked.places) == MOST_BAKED
    assert baked.places[0] == 0
    assert baked.places[-1] == 1
    assert (np.diff(baked.places) >= 0).all()
    shares = np.linspace(0, 1, 1025)
    srgb, alpha, _ = ramp.shown(shares)
    got = baked.at(shares)
    gaps = delta_eok(convert(got[:, :3], "srgb", "oklab"), convert(srgb, "srgb", "oklab")) * np.minimum(alpha, got[:, 3])
    steep = np.abs(np.diff(srgb, axis=0)).max(axis=1, initial=0) > 0.02
    beside = np.concatenate([[False], steep]) | np.concatenate([steep, [False]])
    assert gaps[~beside].max(initial=0) <= baked.worst + 0.05


def test_leaving_black_is_steep_but_no_hard_edge_and_a_hard_edge_is_one() -> None:
    """CIELAB leaves black so fast that one sample is a large difference; the stops stay where they were measured all the same."""
    black, white = Color("oklch", (0, 0, 0)), Color("oklch", (1, 0, 0))
    steep = bake(plan_of([black, white], space="lab").ramp(plain_only))
    assert (np.diff(steep.places) > 0).all()
    shares = np.linspace(0, 1, 1025)
    shown = plan_of([black, white], space="lab").ramp(plain_only).shown(shares)[0]
    gaps = delta_eok(convert(steep.at(shares)[:, :3], "srgb", "oklab"), convert(shown, "srgb", "oklab"))
    assert gaps.max() <= steep.worst + 1e-6
    stops = tuple(PlanStop(color, position=place) for color, place in ((black, 0), (NIGHT, 0.37), (LAMP, 0.37), (white, 1)))
    hard = bake(RampPlan(stops).ramp(plain_only))
    (jump,) = np.flatnonzero(np.diff(hard.places) == 0)
    assert abs(hard.places[jump] - 0.37) < 1 / 1024
    assert np.abs(hard.srgb[jump] - NIGHT.srgb).max() < 0.01
    assert np.abs(hard.srgb[jump + 1] - LAMP.srgb).max() < 0.01


def test_what_is_drawn_between_baked_stops_mixes_premultiplied() -> None:
    baked = Baked(np.array([0.0, 1.0]), np.array([[1.0, 0, 0], [0, 0, 1.0]]), np.array([1.0, 0.0]), 0.0)
    assert baked.at(np.array([0.0, 0.5, 1.0])) == pytest.approx(np.array([[1, 0, 0, 1], [1, 0, 0, 0.5], [0, 0, 0, 0]]))
    flat = stepped(plan_of([NIGHT, LAMP]).ramp(plain_only), 2)
    assert flat.at(np.array([0.1, 0.49, 0.51, 0.9]))[:, 0] == pytest.approx([NIGHT.srgb[0]] * 2 + [LAMP.srgb[0]] * 2)
    table = sampled(plan_of([NIGHT, LAMP]).ramp(plain_only), 3)
    assert table.srgb[[0, -1]] == pytest.approx(np.array([NIGHT.srgb, LAMP.srgb]))
