"""Ramps for a purpose, what they promise, what mends them; colormaps of others as the independent measure."""

from typing import Any

import coloraide
import matplotlib as mpl
import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from huvren.core.color.notation import parse_color
from huvren.core.color.spaces import convert
from huvren.core.color.value import Color
from huvren.core.color.vision import VISIONS, seen
from huvren.core.errors import BadInput, Unknown
from huvren.core.ramp.baking import sampled
from huvren.core.ramp.makers import MAKERS, make
from huvren.core.ramp.plan import PURPOSES, RampPlan, plain_only, plan_of
from huvren.core.ramp.profile import evenness
from huvren.core.ramp.promises import PROMISES, Examined, broken, examine
from huvren.core.ramp.starting import STARTING

DEMO = [parse_color(text) for text in ("#262b5c", "#2bb5a0", "#ffd478")]


def verdicts(plan: RampPlan) -> dict[str, str]:
    return {answer.promise.id: answer.finding.verdict for answer in examine(plan, plain_only)}


def lightness_of(plan: RampPlan, steps: int) -> np.ndarray:  # type: ignore[type-arg]
    return convert(plan.ramp(plain_only).shown(np.linspace(0, 1, steps))[0], "srgb", "oklab")[:, 0]


def colormap(name: str, stops: int = 64) -> RampPlan:
    """A colormap of Matplotlib as a ramp of plain stops."""
    rows = mpl.colormaps[name](np.linspace(0, 1, stops))[:, :3]
    return plan_of([Color("srgb", (float(r), float(g), float(b))) for r, g, b in rows], steps=None, space="srgb")


hues = st.tuples(st.floats(0.3, 0.8), st.floats(0, 0.25), st.floats(0, 359)).map(lambda row: Color("oklch", row))


@settings(max_examples=40, deadline=None)
@given(st.lists(hues, min_size=1, max_size=5), st.sampled_from([9, 64, None]))
def test_a_sequential_ramp_keeps_what_it_promises(colors: list[Color], steps: int | None) -> None:
    (plan,) = make("sequential", colors, {}, steps)
    found = verdicts(plan)
    assert [found[promise] for promise in ("monotone", "even", "gray")] == ["holds"] * 3, found
    assert evenness(plan.ramp(plain_only), steps).exact <= 1.05
    lightness = lightness_of(plan, 200)
    assert (np.diff(lightness) > 0).all()
    assert lightness[[0, -1]] == pytest.approx([0.25, 0.95], abs=0.02)


@settings(max_examples=40, deadline=None)
@given(hues, hues, st.sampled_from([(0.95, 0.42), (0.2, 0.75), (0.9, 0.5)]))
def test_a_diverging_ramp_has_arms_that_match(first: Color, last: Color, ends: tuple[float, float]) -> None:
    (plan,) = make("diverging", [first, last], {"middle": ends[0], "end": ends[1]}, 9)
    lightness = lightness_of(plan, 101)
    assert np.abs(lightness - lightness[::-1]).max() < 0.006
    assert lightness[50] == pytest.approx(ends[0], abs=0.01)
    assert not broken(examine(plan, plain_only))
    assert evenness(plan.ramp(plain_only), 64).exact < 1.05


@settings(max_examples=40, deadline=None)
@given(st.lists(hues, min_size=1, max_size=5, unique_by=lambda c: (round(c.coords[0], 1), round(c.coords[2] / 30))))
def test_a_cyclic_ramp_ends_where_it_began(colors: list[Color]) -> None:
    (plan,) = make("cyclic", colors, {}, 12)
    assert verdicts(plan)["closed"] in ("holds", "look")
    ramp = plan.ramp(plain_only)
    ends = convert(ramp.shown([0, 1])[0], "srgb", "oklab")
    assert np.linalg.norm(ends[0] - ends[1]) < 1e-6
    if len(colors) == 1:
        assert verdicts(plan)["closed"] == "holds"
    assert len({color.hex for color in ramp.baked(12)}) > 1 or len(colors) == 1


def test_several_materials_share_their_lightness_steps_but_for_their_own() -> None:
    plans = make("shading", DEMO, {"turn": 30}, 7)
    levels = np.linspace(0.22, 0.93, 7)
    assert len(plans) == 3
    for base, plan in zip(DEMO, plans, strict=True):
        baked = plan.ramp(plain_only).baked(7)
        lightness = np.array([color.to("oklab")[0] for color in baked])
        own = int(np.abs(levels - base.to("oklab")[0]).argmin())
        assert baked[own].hex == base.hex
        assert np.delete(lightness, own) == pytest.approx(np.delete(levels, own), abs=0.002)


@settings(max_examples=150, deadline=None)
@given(
    st.tuples(*[st.floats(0, 1)] * 3), st.one_of(st.integers(2, 80), st.sampled_from([255, 1024])),
    st.floats(0, 0.9), st.floats(0.1, 1), st.integers(0, 90),
)  # fmt: skip
@example((0.0, 1.0, 0.0), 34, 0.0, 0.9375, 0)  # 30/33 and the thirtieth of 33 even places differ in the last bit.
def test_a_shading_ramp_contains_its_color_as_a_step(rgb: Any, steps: int, dark: float, light: float, turn: int) -> None:
    base = Color("srgb", rgb)
    (plan,) = make("shading", [base], {"dark": dark, "light": light, "turn": turn}, steps)
    baked = plan.ramp(plain_only).baked(steps)
    seen = np.array([color.oklab for color in baked])
    assert np.linalg.norm(seen - base.oklab, axis=1).min() < 1e-6
    assert base.hex in {color.hex for color in baked}
    # It rises all the way, but for a color beyond the ends, which is an end itself.
    lightness = seen[:, 0]
    low, high = (dark, light) if light - dark >= 0.1 else (max(0.0, light - 0.1), light)
    if low <= base.to("oklab")[0] <= high:
        assert (np.diff(lightness) > -0.004).all()
    tied = plan.tied_to("s", base)
    assert "s" in tied.tied()
    assert [color.hex for color in tied.ramp(lambda _: base).baked(steps)] == [color.hex for color in baked]


def test_shades_turn_toward_shadow_and_light_and_lose_chroma() -> None:
    base = Color("oklch", (0.6, 0.12, 40))
    (plan,) = make("shading", [base], {"turn": 20, "falloff": 50, "shadow": 300, "lamp": 90}, 9)
    shades = [color.to("oklch") for color in plan.ramp(plain_only).baked(9)]
    assert (shades[0][2] - 40 + 180) % 360 - 180 == pytest.approx(-20, abs=3), "toward 300 by 20 degrees"
    assert shades[-1][2] == pytest.approx(60, abs=3)
    middle = min(shades, key=lambda row: abs(row[0] - 0.6))
    assert middle[2] == pytest.approx(40, abs=4)
    assert shades[0][1] < 0.75 * middle[1]
    assert shades[-1][1] < 0.75 * middle[1]
    (still,) = make("shading", [base], {"turn": 0, "falloff": 0}, 9)
    assert all(
        row[2] == pytest.approx(40, abs=2) for row in (c.to("oklch") for c in still.ramp(plain_only).baked(9)) if row[1] > 0.03
    )


def test_made_ramps_are_more_even_than_those_of_a_known_library_over_at_least_their_lightness() -> None:
    (ours,) = make("sequential", DEMO, {}, None)
    ramp = ours.ramp(plain_only)
    for name in ("viridis", "cividis"):
        for steps in (64, 256):
            rows = mpl.colormaps[name](np.linspace(0, 1, steps))[:, :3]
            rounded = convert(np.floor(rows * 255 + 0.5) / 255, "srgb", "oklab")
            gaps = np.linalg.norm(np.diff(rounded, axis=0), axis=1)
            assert evenness(ramp, steps).rounded < gaps.max() / gaps.mean(), (name, steps)
        theirs = convert(mpl.colormaps[name](np.array([0.0, 1.0]))[:, :3], "srgb", "oklab")[:, 0]
        assert lightness_of(ours, 2)[0] <= theirs[0] + 0.005
        assert lightness_of(ours, 2)[1] >= theirs[1] - 0.005


@pytest.mark.parametrize(
    ("name", "promise", "verdict"),
    [
        ("viridis", "monotone", "holds"), ("viridis", "gray", "holds"), ("viridis", "vision", "holds"),
        ("cividis", "vision", "holds"),
        ("jet", "monotone", "fails"), ("jet", "gray", "fails"), ("jet", "even", "fails"), ("hsv", "closed", "holds"),
        ("twilight", "closed", "holds"), ("viridis", "closed", "fails"), ("RdBu", "arms", "holds"), ("viridis", "symmetric", "fails"),
        ("gray", "symmetric", "fails"), ("gray", "monotone", "holds"), ("jet", "middle", "fails"),
    ],
)  # fmt: skip
def test_colormaps_of_others_are_judged_as_they_are_known_to_be(name: str, promise: str, verdict: str) -> None:
    found = verdicts(colormap(name))[promise]
    assert (found == "fails") == (verdict == "fails"), (name, promise, found)


@pytest.mark.parametrize("promise", [entry for entry in PROMISES if entry.repair], ids=lambda entry: entry.id)
@pytest.mark.parametrize("name", ["jet", "viridis", "twilight", "RdBu", "prism"])
def test_every_mend_mends(promise: object, name: str) -> None:
    plan = colormap(name, 16)
    assert promise.repair is not None  # type: ignore[attr-defined]
    mended = promise.repair(plan, plain_only)  # type: ignore[attr-defined]
    finding = promise.examine(Examined(mended.ramp(plain_only), mended.steps))  # type: ignore[attr-defined]
    assert finding.verdict != "fails", (name, finding)


@pytest.mark.parametrize("entry", STARTING, ids=lambda entry: entry.id)
def test_starting_ramps_keep_what_their_purpose_promises(entry: object) -> None:
    plan = entry.plan  # type: ignore[attr-defined]
    assert not broken(examine(plan, plain_only))
    assert len(plan.ramp(plain_only).baked(plan.steps or 9)) == (plan.steps or 9)


def test_there_are_a_dozen_starting_ramps_and_every_purpose_names_known_promises() -> None:
    assert len(STARTING) >= 12
    assert all(promise in PROMISES for purpose in PURPOSES for promise in purpose.promises)
    assert {maker.id for maker in MAKERS} <= set(PURPOSES.ids())


def test_the_place_where_a_promise_fails_is_told() -> None:
    bent = plan_of([parse_color(text) for text in ("#000", "#bbb", "#666", "#fff")], steps=None)
    answer = next(a for a in examine(bent, plain_only) if a.promise.id == "monotone")
    assert answer.finding.verdict == "fails"
    assert answer.finding.places[0] == pytest.approx(1 / 3, abs=0.01)
    assert "0.33" in answer.finding.sentence or "0.34" in answer.finding.sentence
    steps = plan_of([parse_color("#777"), parse_color("#787878")], steps=9)
    assert "the same gray" in next(a.finding.sentence for a in examine(steps, plain_only) if a.promise.id == "gray")


@pytest.mark.parametrize(("vision", "other"), [("protan", "protan"), ("deutan", "deutan"), ("tritan", "tritan")])
def test_color_vision_is_that_of_an_independent_library(vision: str, other: str) -> None:
    codes = ["#e55521", "#2bb5a0", "#262b5c", "#ffd478", "#808080", "#7a1fa2", "#00ff00"]
    srgb = np.array([parse_color(code).srgb for code in codes])
    for severity in (1.0, 0.0):
        ours = seen(srgb, VISIONS[vision], severity)
        for code, row in zip(codes, ours, strict=True):
            theirs = coloraide.Color(code).filter(other, severity, method="machado", out_space="srgb").clip()
            assert row == pytest.approx([max(0.0, c) for c in theirs.coords()], abs=2e-3), code


@pytest.mark.parametrize(
    ("call", "words"),
    [
        (("sequential", [], {}, 9), "made from 1 to 8 colors; 0 were given"),
        (("diverging", DEMO, {}, 9), "made from 2 colors; 3 were given"),
        (("sequential", DEMO, {"low": 0.7, "high": 0.75}, 9), "there is too little to read"),
        (("sequential", DEMO, {"glow": 1}, 9), "has no number “glow”. It has: low, high, turn"),
        (("sequential", DEMO, {"low": 7}, 9), "Darkest lightness is 7; 0 to 0.8 was expected"),
        (("diverging", DEMO[:2], {"middle": 0.5, "end": 0.45}, 9), "too much alike"),
        (("cyclic", DEMO, {}, 1), "2 to 1,024 steps; 1 were asked for"),
    ],
)  # fmt: skip
def test_makers_refuse_in_words(call: tuple[object, ...], words: str) -> None:
    with pytest.raises(BadInput, match=words.replace(".", r"\.")):
        make(*call)  # type: ignore[arg-type]
    with pytest.raises(Unknown, match="There is no maker"):
        make("rainbow", DEMO, {}, 9)


def test_samples_for_a_table_are_the_ramp_rounded() -> None:
    (plan,) = make("sequential", DEMO, {}, None)
    table = sampled(plan.ramp(plain_only), 256)
    assert (table.srgb * 255).round(6) == pytest.approx((table.srgb * 255).round())
    assert len(table.places) == 256
