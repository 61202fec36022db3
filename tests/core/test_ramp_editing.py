"""Changing stops: adding keeps the ramp, reversing turns it round, mirroring and repeating lay it end to end; fits and toning."""

import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import linprog

from huvren.core.color.notation import parse_color
from huvren.core.color.spaces import convert
from huvren.core.color.value import Color
from huvren.core.errors import BadInput
from huvren.core.ramp.easings import Easing
from huvren.core.ramp.editing import EDITS, add_stop, duplicate_stop, even_out, mirror, remove_stop, repeat, reverse, share_of
from huvren.core.ramp.fewest import by_splitting, freely
from huvren.core.ramp.fit import SAMPLES, along, fit
from huvren.core.ramp.plan import PlanStop, RampPlan, plain_only, plan_of
from huvren.core.ramp.profile import difference
from huvren.core.reduction.recipe import ReduceRecipe, say
from huvren.core.reduction.reduce import reduce_picture
from huvren.core.reduction.toning import toned

NIGHT, LEAF, LAMP = (parse_color(text) for text in ("#262b5c", "#2bb5a0", "#ffd478"))
AT = np.linspace(0, 1, 41)

easings = st.sampled_from([Easing(), Easing("smooth"), Easing("steps", (3,)), Easing("bezier", (0.2, 0.1, 0.7, 0.9))])
plan_stops = st.lists(
    st.builds(
        PlanStop, st.tuples(st.floats(0.1, 0.9), st.floats(0.02, 0.2), st.floats(0, 359)).map(lambda row: Color("oklch", row)),
        st.none(), st.none(), st.just(0.5), easings,
    ),
    min_size=2, max_size=6,
)  # fmt: skip


def drawn(plan: RampPlan, at: np.ndarray = AT) -> np.ndarray:  # type: ignore[type-arg]
    return convert(plan.ramp(plain_only).shown(at)[0], "srgb", "oklab")


@settings(max_examples=60, deadline=None)
@given(plan_stops, st.sampled_from(["oklab", "srgb", "lab"]), st.sampled_from(["straight", "monotone", "natural"]))
def test_reversing_turns_it_round_and_twice_is_as_before(stops: list[PlanStop], space: str, curve: str) -> None:
    if any(stop.easing.kind == "steps" for stop in stops):
        at = np.array([0.031, 0.127, 0.483, 0.77, 0.961])  # away from the edges of the flat steps
    else:
        at = AT
    plan = RampPlan(tuple(stops), space=space, curve=curve)
    assert drawn(reverse(plan), at) == pytest.approx(drawn(plan, 1 - at), abs=2e-3)
    assert drawn(reverse(reverse(plan)), at) == pytest.approx(drawn(plan, at), abs=1e-6)


@settings(max_examples=60, deadline=None)
@given(plan_stops, st.floats(0.05, 0.95))
def test_a_stop_that_is_added_has_the_color_that_was_there(stops: list[PlanStop], share: float) -> None:
    plan = RampPlan(tuple(PlanStop(stop.color) for stop in stops))
    added = add_stop(plan, plain_only, share)
    assert len(added.stops) == len(plan.stops) + 1
    assert drawn(added) == pytest.approx(drawn(plan), abs=1e-5), "a straight ramp stays what it was"
    bent = RampPlan(tuple(stops), curve="monotone")
    there = add_stop(bent, plain_only, share)
    new = next((stop.color for stop in there.stops if stop.color not in {s.color for s in bent.stops}), None)
    if new is None:
        return  # the very color of a stop, which was there already
    assert np.array(new.oklab) == pytest.approx(drawn(bent, np.array([share]))[0], abs=4e-3)


def test_reversing_keeps_where_half_of_the_way_is_done() -> None:
    """A color hint bends by a power, which from behind is another curve; what it says stays true."""
    plan = RampPlan((PlanStop(NIGHT, midpoint=0.2), PlanStop(LAMP)))
    half = drawn(plan, np.array([0.2]))
    assert drawn(reverse(plan), np.array([0.8])) == pytest.approx(half, abs=1e-6)


def test_stops_where_even_steps_put_them() -> None:
    plan = RampPlan((PlanStop(NIGHT), PlanStop(LEAF, position=0.1), PlanStop(LAMP)), spacing="even")
    share = share_of(plan, plain_only, 1)
    assert 0.3 < share < 0.7, "not where it stands, but where the colors have it"
    assert drawn(plan, np.array([share]))[0] == pytest.approx(LEAF.oklab, abs=3e-3)
    added = add_stop(plan, plain_only, 0.9)
    assert drawn(added) == pytest.approx(drawn(plan), abs=2e-3)


def test_mirroring_and_repeating_lay_it_end_to_end() -> None:
    plan = plan_of([NIGHT, LEAF, LAMP])
    there = mirror(plan)
    assert len(there.stops) == 5
    assert drawn(there, np.array([0, 0.25, 0.5, 0.75, 1])) == pytest.approx(
        np.array([NIGHT.oklab, LEAF.oklab, LAMP.oklab, LEAF.oklab, NIGHT.oklab]), abs=1e-3
    )
    thrice = repeat(plan, 3)
    assert len(thrice.stops) == 9, "a hard edge where the ends differ"
    assert drawn(thrice, np.array([0.1, 0.1 + 1 / 3, 0.1 + 2 / 3])) == pytest.approx(
        np.repeat(drawn(plan, np.array([0.3])), 3, 0), abs=1e-3
    )
    round_once = plan_of([NIGHT, LAMP, NIGHT])
    assert len(repeat(round_once, 2).stops) == 5, "a color that both share is one stop"
    rising = plan_of([NIGHT, LAMP], space="oklch", hue="increasing")
    assert drawn(reverse(rising)) == pytest.approx(drawn(rising, 1 - AT), abs=1e-3), "the route turns round as well"


def test_removing_duplicating_and_evening_out() -> None:
    plan = RampPlan((PlanStop(NIGHT), PlanStop(LEAF, position=0.1), PlanStop(LAMP)))
    assert [stop.color for stop in remove_stop(plan, 1).stops] == [NIGHT, LAMP]
    assert [stop.position for stop in duplicate_stop(plan, 1).stops] == [0, 0.1, 0.1, 1]
    assert [stop.position for stop in even_out(plan).stops] == [0, 0.5, 1]
    with pytest.raises(BadInput, match="needs two colors or more"):
        remove_stop(plan_of([NIGHT, LAMP]), 0)
    with pytest.raises(BadInput, match="Take one out first"):
        add_stop(plan_of([NIGHT] * 64), plain_only, 0.5)
    with pytest.raises(BadInput, match="repeated 2 to 16 times; 17"):
        repeat(plan, 17)
    with pytest.raises(BadInput, match="96 stops; 64 is the most"):
        repeat(plan_of([NIGHT, LAMP] * 3), 16)
    assert EDITS.ids() == ("reverse", "mirror", "repeat", "even-out")


def fits_freely(rows: np.ndarray, places: np.ndarray, knots: tuple[int, ...], tolerance: float) -> bool:
    """Whether any values at these knots keep within tolerance of one-channel samples: as a linear program."""
    hats = np.stack([np.interp(places, places[list(knots)], one) for one in np.eye(len(knots))], axis=-1)
    bounds = np.concatenate([rows[:, 0] + tolerance, tolerance - rows[:, 0]])
    solved = linprog(np.zeros(len(knots)), np.vstack([hats, -hats]), bounds, bounds=[(None, None)] * len(knots))
    return bool(solved.status == 0)


@settings(max_examples=60, deadline=None)
@given(st.lists(st.floats(0, 1), min_size=3, max_size=9), st.floats(0.02, 0.3))
def test_the_fewest_stops_are_the_fewest(values: list[float], tolerance: float) -> None:
    rows, places = np.array(values)[:, None], np.linspace(0, 1, len(values))
    knots, found, is_fewest = freely(rows, places, tolerance, len(values))
    assert (knots[0], knots[-1]) == (0, len(values) - 1)
    assert np.abs(np.interp(places, places[knots], found[:, 0]) - rows[:, 0]).max() <= tolerance * (1 + 1e-6)
    if is_fewest:
        fewer = itertools.combinations(range(1, len(values) - 1), len(knots) - 3) if len(knots) > 2 else []
        assert not any(fits_freely(rows, places, (0, *inner, len(values) - 1), tolerance * (1 - 1e-6)) for inner in fewer)
    assert len(knots) <= len(by_splitting(rows, places, tolerance, len(values)))


@pytest.mark.parametrize("noise", [0.0, 0.5, 0.9])
def test_lines_with_grain_are_as_many_stops_as_without(noise: float) -> None:
    random = np.random.default_rng(5)
    places = np.linspace(0, 1, SAMPLES)
    for corners in ([0, 192], [0, 60, 192], [0, 30, 75, 140, 165, 192]):
        truth = np.stack([np.interp(places, places[corners], random.random(len(corners))) for _ in range(4)], axis=-1)
        grain = random.normal(size=truth.shape)
        grain *= noise * random.random((SAMPLES, 1)) / np.linalg.norm(grain, axis=1, keepdims=True) / 100
        knots, values, is_fewest = freely(truth + grain, places, 0.01, 64)
        assert len(knots) <= len(corners)
        assert is_fewest
        drawn = np.stack([np.interp(places, places[knots], values[:, channel]) for channel in range(4)], axis=-1)
        assert np.linalg.norm(drawn - truth - grain, axis=1).max() <= 0.01 * (1 + 1e-6)


def test_a_search_that_was_not_long_enough_proves_nothing(monkeypatch: pytest.MonkeyPatch) -> None:
    rows, places = np.array([[0.0], [0.0], [0.0], [1.0], [0.0], [0.0]]), np.linspace(0, 1, 6)
    assert freely(rows, places, 0.52, 6)[2]
    assert len(freely(rows, places, 0.52, 6)[0]) == 2
    monkeypatch.setattr("huvren.core.ramp.fewest.ROUNDS", 1)
    assert not freely(rows, places, 0.52, 6)[2]


def test_what_takes_more_than_the_most_is_said_to_be_no_proof() -> None:
    rows = np.random.default_rng(6).random((100, 3))
    knots, values, is_fewest = freely(rows, np.linspace(0, 1, 100), 0.001, 20)
    assert (len(knots), values.shape, is_fewest) == (20, (20, 3), False)


def test_a_ramp_read_from_a_picture_is_the_one_that_was_drawn() -> None:
    plan = RampPlan((PlanStop(NIGHT), PlanStop(LEAF, position=0.25), PlanStop(LAMP)), None)
    row = plan.ramp(plain_only).shown(np.linspace(0, 1, 600))[0]
    picture = np.zeros((40, 600, 4), dtype=np.uint8)
    picture[..., :3] = np.floor(row * 255 + 0.5)
    picture[..., 3] = 255
    found = fit(along(picture, (0, 0.5, 1, 0.5)), 1.0)
    assert found.fewest
    assert len(found.plan.stops) == 3
    assert found.plan.stops[1].position == pytest.approx(0.25, abs=0.02)
    assert difference(found.plan.ramp(plain_only), plan.ramp(plain_only))[1].max() < 1.5
    assert found.worst <= 1.0
    assert len(found.errors) == len(found.samples) == SAMPLES
    back = fit(along(np.ascontiguousarray(picture.transpose(1, 0, 2)), (0.5, 1, 0.5, 0)), 1.0)
    assert back.plan.stops[1].position == pytest.approx(0.75, abs=0.02), "upward in a picture that stands"


def test_a_noisy_line_takes_the_most_stops_and_says_how_far_it_is_off() -> None:
    noise = np.random.default_rng(3).integers(0, 256, (64, 300, 4), dtype=np.uint8)
    noise[..., 3] = 255
    found = fit(along(noise, (0, 0, 1, 1)), 0.5)
    assert not found.fewest
    assert len(found.plan.stops) == 64
    assert found.worst > 0.5
    with pytest.raises(BadInput, match="has no length"):
        along(noise, (0.5, 0.5, 0.5, 0.5))
    with pytest.raises(BadInput, match="A tolerance of 0 is outside"):
        fit(along(noise, (0, 0, 1, 1)), 0)


def test_toning_follows_lightness_and_keeps_alpha() -> None:
    gray = np.zeros((1, 256, 4), dtype=np.uint8)
    gray[0, :, :3] = np.arange(256)[:, None]
    gray[..., 3] = 255
    gray[0, 10, 3] = 0
    ramp = plan_of([NIGHT, LAMP], spacing="lightness").ramp(plain_only)
    made = toned(gray, ramp, None)
    assert made[0, 10, 3] == 0
    assert tuple(made[0, 0, :3]) == NIGHT.bytes[:3]
    assert tuple(made[0, 255, :3]) == LAMP.bytes[:3]
    lightness = convert(made[0, :, :3] / 255, "srgb", "oklab")[:, 0]
    assert np.diff(lightness).min() > -0.004, "lighter stays lighter, up to rounding"
    steps = toned(gray, ramp, 5)
    assert len(np.unique(steps[0, :, :3], axis=0)) == 5


def test_a_toned_picture_is_reduced_to_the_steps_of_its_ramp() -> None:
    rng = np.random.default_rng(5)
    picture = rng.integers(0, 256, (60, 80, 4), dtype=np.uint8)
    picture[..., 3] = 255
    plan = plan_of([NIGHT, LEAF, LAMP], steps=6)
    listed = [color.hex for color in plan.ramp(plain_only).baked(6)]
    stops = [{"color": {"space": "srgb", "coords": list(c.coords)}} for c in (NIGHT, LEAF, LAMP)]
    recipe = ReduceRecipe.model_validate(
        {"chooser": "fixed-list", "listed": listed, "colors": 6, "tone": {"stops": stops, "steps": 6}}
    )
    made = reduce_picture(picture, recipe)
    assert {"#{:02x}{:02x}{:02x}".format(*row) for row in made.rgb.tolist()} == set(listed)
    assert (made.rgb[made.indices] == toned(picture, plan.ramp(plain_only), 6)[..., :3]).all()
    assert "toned by a ramp of 6 steps" in say(recipe)
    with pytest.raises(ValueError, match="no palette to look it up in"):
        ReduceRecipe.model_validate({"tone": {"stops": [{"swatch": "a"}, {"swatch": "b"}]}})
