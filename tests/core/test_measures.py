"""Measures of difference: against colour-science, what they have in common, and ramps that are even by each of them."""

import statistics
from dataclasses import replace

import colour
import matplotlib as mpl
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from huvren.core.color.appearance import WHITE, cam16_ucs
from huvren.core.color.arrays import Floats
from huvren.core.color.matrices import LINEAR_SRGB_TO_XYZ_D65
from huvren.core.color.measures import MEASURES, Measure
from huvren.core.color.notation import parse_color
from huvren.core.color.spaces import convert
from huvren.core.color.value import Color
from huvren.core.errors import Unknown
from huvren.core.ramp.makers import make
from huvren.core.ramp.plan import RampPlan, plain_only, plan_of
from huvren.core.ramp.profile import evenness
from huvren.core.ramp.promises import PROMISES, Examined, examine

RANDOM = np.random.default_rng(4)
COLORS = RANDOM.random((300, 3))


def test_cam16_ucs_is_that_of_colour_science() -> None:
    srgb = np.vstack([COLORS, np.eye(3), [[0, 0, 0], [1, 1, 1], [0.5, 0.5, 0.5]]])
    xyz = convert(srgb, "srgb", "srgb-linear") @ LINEAR_SRGB_TO_XYZ_D65.T * 100
    seen = colour.XYZ_to_CAM16(xyz, WHITE, 64 / np.pi / 5, 20, colour.VIEWING_CONDITIONS_CAM16["Average"])
    wanted = colour.JMh_CAM16_to_CAM16UCS(np.stack([seen.J, seen.M, seen.h], axis=-1))
    assert cam16_ucs(srgb) == pytest.approx(wanted, abs=2e-6)
    assert cam16_ucs([0, 0, 0]) == pytest.approx([0, 0, 0], abs=1e-9)


@pytest.mark.parametrize("measure", MEASURES, ids=lambda measure: measure.id)
def test_steps_are_those_of_a_difference(measure: Measure) -> None:
    opaque = np.ones(len(COLORS))
    steps = measure.steps(COLORS, opaque)
    assert steps.shape == (len(COLORS) - 1,)
    assert (steps > 0).all()
    assert measure.steps(COLORS[::-1], opaque)[::-1] == pytest.approx(steps)
    assert measure.steps(COLORS[[0, 0]], opaque[:2]) == pytest.approx([0], abs=1e-9)
    black_and_white = measure.steps(np.array([[0.0] * 3, [1.0] * 3]), np.ones(2))
    assert black_and_white == pytest.approx([100], abs=2.5)
    half = measure.steps(COLORS, np.full(len(COLORS), 0.5))
    assert half == pytest.approx(steps / 2)
    assert measure.steps(COLORS[[0, 0]], np.array([1.0, 0.0]))[0] >= 100
    assert (measure.steps(COLORS, np.zeros(len(COLORS))) == 0).all()


def unevenness(plan: RampPlan, measure: str) -> float:
    """The largest step of 256 over the mean, by any measure."""
    return evenness(replace(plan.ramp(plain_only), measure=MEASURES[measure], spacing=_as_it_lies(plan)), None).exact


def _as_it_lies(plan: RampPlan):  # type: ignore[no-untyped-def]
    """The spacing of a plan's own ramp, whatever it is measured by."""
    ramp = plan.ramp(plain_only)
    return replace(ramp.spacing, path=lambda other, shares: ramp.path(shares))


def of_chance(count: int, seed: int) -> list[Color]:
    rows = np.random.default_rng(seed).integers(0, 256, (count, 3)).tolist()
    return [Color.from_bytes(*row) for row in rows]


@pytest.mark.parametrize("measure", MEASURES.ids())
@pytest.mark.parametrize(("maker", "counts"), [("sequential", (1, 2, 3, 4)), ("diverging", (2,)), ("cyclic", (1, 2, 3, 4, 5, 6))])
def test_made_ramps_are_even_by_the_measure_that_is_chosen(maker: str, counts: tuple[int, ...], measure: str) -> None:
    found = []
    for seed in range(24):
        (plan,) = make(maker, of_chance(counts[seed % len(counts)], seed), {}, None, measure)
        assert plan.measure == measure
        found.append(unevenness(plan, measure))
        assert [answer.promise.id for answer in examine(plan, plain_only) if answer.given and answer.finding.verdict == "fails"] == []
    assert statistics.median(found) <= 1.1
    assert max(found) <= 1.15


@pytest.mark.parametrize("measure", ["oklab", "cam16-ucs"])
def test_a_cycle_past_white_does_not_jump(measure: str) -> None:
    colors = [parse_color(text) for text in ("#0ecb2c", "#05530e", "#f1f2fe", "#c8a45e", "#a43111")]
    (plan,) = make("cyclic", colors, {}, None, measure)
    assert unevenness(plan, measure) <= 1.05


def unevenness_of(srgb: Floats, measure: str) -> float:
    steps = MEASURES[measure].steps(srgb, np.ones(len(srgb)))
    return float(steps.max() / steps.mean())


def test_by_appearance_they_are_in_oklab_no_less_even_than_what_is_published() -> None:
    names = ("viridis", "magma", "plasma", "inferno", "cividis")
    maps = [unevenness_of(mpl.colormaps[name](np.linspace(0, 1, 256))[:, :3], "oklab") for name in names]
    made = [unevenness(make("sequential", of_chance(1 + seed % 4, seed), {}, None, "cam16-ucs")[0], "oklab") for seed in range(24)]
    assert statistics.median(made) <= statistics.median(maps)
    assert max(made) <= max(maps)


def test_the_measure_moves_the_steps_and_is_said() -> None:
    stops = [parse_color("#0b0a14"), parse_color("#ffe9a0")]
    plans = {measure: plan_of(stops, steps=9, spacing="even", measure=measure) for measure in MEASURES.ids()}
    colors = {measure: [color.hex for color in plan.ramp(plain_only).baked(9)] for measure, plan in plans.items()}
    assert len({tuple(found) for found in colors.values()}) == 3
    assert len({(found[0], found[-1]) for found in colors.values()}) == 1
    assert plans["oklab"].sentence(["a", "b"]).endswith("spaced evenly.")
    assert plans["cam16-ucs"].sentence(["a", "b"]).endswith("spaced evenly by CAM16-UCS.")
    told = PROMISES["even"].examine(Examined(plans["ciede2000"].ramp(plain_only), 9)).sentence
    assert told.startswith("largest step 1.02 × the mean by CIEDE2000;")
    by_place = plan_of(stops, steps=9, measure="cam16-ucs")
    assert [c.hex for c in by_place.ramp(plain_only).baked(9)] == [c.hex for c in plan_of(stops, steps=9).ramp(plain_only).baked(9)]
    with pytest.raises(Unknown, match="no measure of difference “feet”"):
        plan_of(stops, measure="feet")
    with pytest.raises(Unknown, match="no measure of difference “feet”"):
        make("sequential", stops, {}, 9, "feet")


@settings(max_examples=40, deadline=None)
@given(st.lists(st.tuples(*[st.floats(0, 1)] * 3), min_size=2, max_size=5), st.sampled_from(["vision"]))
def test_what_is_lost_to_other_eyes_is_mended(rows: list[tuple[float, float, float]], promise: str) -> None:
    plan = plan_of([Color("srgb", row) for row in rows], steps=9)
    if PROMISES[promise].examine(Examined(plan.ramp(plain_only), 9)).verdict != "fails":
        return
    repair = PROMISES[promise].repair
    assert repair
    mended = repair(plan, plain_only)
    assert PROMISES[promise].examine(Examined(mended.ramp(plain_only), mended.steps)).verdict == "holds"


def test_the_colors_that_were_lost_to_two_kinds_of_eyes() -> None:
    lost = [parse_color(text) for text in ["#a43c20", "#abbc67", "#2243fc", "#b4904e"]]
    (plan,) = make("sequential", lost, {}, 9)
    assert PROMISES["vision"].examine(Examined(plan.ramp(plain_only), 9)).verdict == "holds"
    chroma = [float(np.hypot(*_oklab(stop.color)[1:])) for stop in plan.stops]
    assert max(chroma) > 0.06, "calmer, not gray"


def _oklab(color: Color | None) -> Floats:
    assert color
    return np.array(color.oklab)
