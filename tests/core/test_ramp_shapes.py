"""The shape of ramps: curves against an independent library, easings, midpoints, even spacing, gamut, hard edges, evenness."""

import itertools
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from scipy.interpolate import CubicSpline, PchipInterpolator

from huvren.core.color.difference import delta_eok
from huvren.core.color.notation import parse_color
from huvren.core.color.spaces import convert
from huvren.core.color.value import Color
from huvren.core.errors import BadInput, Unknown
from huvren.core.ramp.curves import CURVES, monotone_slopes, natural_slopes
from huvren.core.ramp.easings import EASINGS, Easing
from huvren.core.ramp.gamuts import GAMUTS
from huvren.core.ramp.plan import PlanStop, RampPlan, plain_only, plan_of
from huvren.core.ramp.profile import banding, difference, evenness, profile
from huvren.core.ramp.spacings import SPACINGS
from huvren.core.ramp.stops import MOST_STOPS, Stop
from huvren.core.ramp.values import Ramp, numbers
from huvren.core.ramp.ways import WAYS, Lane


def ramp(*texts: str, space: str = "oklab", at: tuple[float | None, ...] = (), **settings: object) -> Ramp:
    stops = tuple(Stop(parse_color(text), place) for text, place in itertools.zip_longest(texts, at))
    return Ramp(stops, Lane.of(space), **settings)  # type: ignore[arg-type]


places = st.lists(st.floats(0, 1), min_size=1, max_size=6, unique_by=lambda x: round(x, 2)).map(
    lambda inner: sorted({0.0, 1.0, *(round(x, 3) for x in inner)})
)


@settings(max_examples=80, deadline=None)
@given(places, st.data())
def test_slopes_are_those_of_an_independent_library(xs: list[float], data: st.DataObject) -> None:
    assume(len(xs) >= 3 and min(np.diff(xs)) > 0.005)
    ys = np.array(data.draw(st.lists(st.floats(-2, 2), min_size=len(xs), max_size=len(xs))))
    x = np.array(xs)
    assert monotone_slopes(x, ys[:, None])[:, 0] == pytest.approx(PchipInterpolator(x, ys).derivative()(x), abs=1e-7, rel=1e-7)
    natural = CubicSpline(x, ys, bc_type="natural").derivative()(x)
    assert natural_slopes(x, ys[:, None])[:, 0] == pytest.approx(natural, abs=1e-6, rel=1e-6)


def test_curves_run_as_an_independent_library_draws_them() -> None:
    at = (0, 0.2, 0.55, 0.7, 1)
    texts = ("#262b5c", "#2bb5a0", "#e8542a", "#ffd478", "#ffffff")
    shares = np.linspace(0, 1, 101)
    oklab = np.array([parse_color(text).to("oklab") for text in texts])
    for name, other in (("monotone", PchipInterpolator(at, oklab)), ("natural", CubicSpline(at, oklab, bc_type="natural"))):
        ours, _ = ramp(*texts, at=at, curve=CURVES[name]).at(shares)
        assert np.allclose(ours, other(shares), atol=1e-9), name


@settings(max_examples=60, deadline=None)
@given(
    st.lists(st.tuples(st.floats(0, 1), st.floats(0, 0.3), st.floats(0, 359), st.floats(0, 1)), min_size=2, max_size=7),
    st.sampled_from(WAYS.ids()), st.sampled_from(["straight", "monotone"]), st.sampled_from(SPACINGS.ids()),
)  # fmt: skip
def test_curves_that_promise_it_never_leave_their_stops(rows: list[tuple[float, ...]], space: str, curve: str, spacing: str) -> None:
    made = Ramp(
        tuple(Stop(Color("oklch", row[:3], row[3])) for row in rows), Lane.of(space), SPACINGS[spacing], CURVES[curve],  # type: ignore[arg-type]
    )  # fmt: skip
    _, alpha = made.at(np.linspace(0, 1, 65))
    assert min(row[3] for row in rows) - 1e-9 <= numbers(alpha).min()
    assert numbers(alpha).max() <= max(row[3] for row in rows) + 1e-9
    if space == "pigment" or made.lane.way.is_polar or min(row[3] for row in rows) < 0.01:
        return
    coords, _ = made.at(np.linspace(0, 1, 65))
    corners = made._corners[0]
    assert (coords >= np.nanmin(corners, axis=0) - 1e-6).all()
    assert (coords <= np.nanmax(corners, axis=0) + 1e-6).all()


@settings(max_examples=60, deadline=None)
@given(
    st.lists(st.tuples(st.floats(0, 1), st.floats(0, 0.3), st.floats(0, 359)), min_size=2, max_size=6),
    st.sampled_from(WAYS.ids()), st.sampled_from(CURVES.ids()), st.sampled_from(SPACINGS.ids()),
    st.sampled_from(EASINGS.ids()), st.integers(2, 40),
)  # fmt: skip
def test_ends_are_hit_exactly_whatever_the_way(
    rows: list[tuple[float, ...]], space: str, curve: str, spacing: str, easing: str, steps: int
) -> None:
    stops = tuple(PlanStop(Color("oklch", row), easing=Easing(easing)) for row in rows)  # type: ignore[arg-type]
    made = RampPlan(stops, steps, space, curve=curve, spacing=spacing).ramp(plain_only).baked(steps)
    assert len(made) == steps
    assert (made[0], made[-1]) == (stops[0].color, stops[-1].color)


def test_easings_bend_as_they_say() -> None:
    t = np.linspace(0, 1, 501)
    assert np.allclose(Easing("linear").bend(t), t)
    assert np.allclose(Easing("smooth").bend(np.array([0, 0.25, 0.5, 1])), [0, 0.15625, 0.5, 1])
    assert np.unique(Easing("steps", (4,)).bend(t)).tolist() == pytest.approx([0, 1 / 3, 2 / 3, 1])
    # CSS Easing 1: the keyword `ease-in-out` is cubic-bezier(0.42, 0, 0.58, 1); its middle and symmetry are known.
    curve = Easing("bezier", (0.42, 0, 0.58, 1)).bend(t)
    assert curve[250] == pytest.approx(0.5, abs=1e-6)
    assert np.allclose(curve + curve[::-1], 1, atol=1e-6)
    x1, y1, x2, y2 = 0.25, 0.1, 0.25, 1.0
    u = np.linspace(0, 1, 5001)
    x = 3 * (1 - u) ** 2 * u * x1 + 3 * (1 - u) * u**2 * x2 + u**3
    y = 3 * (1 - u) ** 2 * u * y1 + 3 * (1 - u) * u**2 * y2 + u**3
    assert np.allclose(Easing("bezier", (x1, y1, x2, y2)).bend(t), np.interp(t, x, y), atol=1e-4)
    assert (np.diff(curve) >= 0).all()


def test_a_midpoint_is_where_half_of_the_way_is_done() -> None:
    """As a color hint of CSS Images 4 §3.5.3: the share is the place to the power of log(0.5) / log(hint)."""
    made = Ramp((Stop(parse_color("#000"), midpoint=0.2), Stop(parse_color("#fff"))), Lane.of("srgb"))
    coords, _ = made.at([0.2, 0.5])
    assert coords[0] == pytest.approx([0.5] * 3)
    assert coords[1] == pytest.approx([0.5 ** (np.log(0.5) / np.log(0.2))] * 3)


@pytest.mark.parametrize("curve", CURVES.ids())
@pytest.mark.parametrize("space", WAYS.ids())
def test_even_steps_are_even(space: str, curve: str) -> None:
    smooth = ramp("#262b5c", "#8a5a9c", space=space, spacing=SPACINGS["even"], curve=CURVES[curve])
    assert evenness(smooth, 256).exact <= 1.02, "on a smooth ramp"
    corner = ramp("#262b5c", "#2bb5a0", "#ffd478", space=space, spacing=SPACINGS["even"], curve=CURVES[curve])
    assert evenness(corner, 256).exact <= 1.10, "with a corner at a stop"


def test_what_rounding_alone_makes_of_a_straight_ramp() -> None:
    gray = ramp("#000", "#fff", spacing=SPACINGS["even"])
    found = [evenness(gray, steps) for steps in (32, 64, 256)]
    assert all(row.exact < 1.001 for row in found)
    assert [row.rounded for row in found] == sorted(row.rounded for row in found), "the finer, the more rounding shows"


def test_even_lightness_rises_by_equal_amounts() -> None:
    made = ramp("#262b5c", "#8a3f62", "#ffd478", spacing=SPACINGS["lightness"])
    lightness = convert(made.shown(np.linspace(0, 1, 33))[0], "srgb", "oklab")[:, 0]
    assert np.diff(lightness).max() / np.diff(lightness).mean() < 1.01
    flat = ramp("oklch(0.6 0.1 20)", "oklch(0.6 0.1 200)", space="oklch", spacing=SPACINGS["lightness"])
    assert evenness(flat, 32).exact < 1.05, "where lightness does not change, the steps are even otherwise"


def test_a_hard_edge_takes_no_part_of_the_steps() -> None:
    made = ramp("#000", "#808080", "#fff", "#a0a0a0", at=(0, 0.5, 0.5, 1), spacing=SPACINGS["even"])
    srgb, _, _ = made.shown(np.linspace(0, 1, 200))
    jumps = np.flatnonzero(np.abs(np.diff(srgb[:, 0])) > 0.2)
    assert len(jumps) == 1
    assert ramp("#000", "#fff", at=(0.5, 0.5)).at([0.4, 0.5, 0.6])[0][:, 0] == pytest.approx([0, 1, 1], abs=1e-9)
    one = ramp("#777", "#777", spacing=SPACINGS["even"])
    assert one.at([0, 0.5, 1])[0][:, 0] == pytest.approx([parse_color("#777").to("oklab")[0]] * 3)


def test_the_gamut_rules_agree_inside_and_differ_outside() -> None:
    inside = ramp("#262b5c", "#ffd478")
    assert np.allclose(inside.shown([0.3])[0], replace(inside, gamut=GAMUTS["clip"]).shown([0.3])[0])
    vivid = ramp("oklch(0.7 0.35 150)", "oklch(0.7 0.35 170)", space="oklch")
    reduced, clipped = vivid.shown([0.5])[0], replace(vivid, gamut=GAMUTS["clip"]).shown([0.5])[0]
    hue = [float(convert(row, "srgb", "oklch")[0, 2]) for row in (reduced, clipped)]
    assert abs(hue[0] - 160) < 4
    assert abs(hue[1] - 160) > 8, "a plain clip shifts the hue"
    assert profile(vivid).outside == 1
    assert profile(vivid).outside_spans.tolist() == [[0, 1]]
    half = profile(ramp("#808080", "oklch(0.7 0.4 150)", space="oklch"))
    assert 0 < half.outside < 1
    assert half.outside_spans[-1][1] == 1


def test_bands_are_counted_as_they_lie() -> None:
    rgba = np.zeros((1000, 4), dtype=np.uint8)
    rgba[300:, 0] = 9
    rgba[950:, 0] = 12
    found = banding(rgba)
    assert (found.colors, found.widest) == (3, 0.65)
    assert found.edges.tolist() == [0.3, 0.95]
    narrow = profile(ramp("#101010", "#181818")).banding
    wide = profile(ramp("#000", "#fff")).banding
    assert narrow.colors == 9
    assert wide.colors == 256
    assert narrow.widest > 0.1 > wide.widest
    assert len(narrow.edges) >= 8
    assert wide.edges.max() < 0.15, "only in the darkest part 8 bits are too few"


def test_the_difference_of_two_lanes_is_measured_where_it_is() -> None:
    straight = ramp("#0b58c4", "#ffa22e")
    shares, gaps = difference(straight, straight.through(Lane.of("srgb")))
    assert gaps[0] < 0.1
    assert gaps[-1] < 0.1
    assert gaps.max() > 3
    at = int(np.argmax(gaps))
    one, other = (r.shown([shares[at]])[0][0] for r in (straight, straight.through(Lane.of("srgb"))))
    assert gaps[at] == pytest.approx(float(delta_eok(convert(one, "srgb", "oklab"), convert(other, "srgb", "oklab"))))
    assert difference(straight, straight)[1].max() == 0


def test_a_closed_ramp_goes_round_without_a_seam() -> None:
    texts = ("#5a78c8", "#5ac8a0", "#f0c85a", "#c85a78", "#5a78c8")
    made = ramp(*texts, curve=CURVES["natural"], spacing=SPACINGS["even"], closed=True)
    steps = made.baked(12)
    assert len({color.hex for color in steps}) == 12, "the first color is not repeated"
    h = 1e-4
    before, start, end, after = (row for row in made.at([1 - h, 0, 1, h])[0])
    assert start == pytest.approx(end, abs=1e-9)
    assert (after - start) / h == pytest.approx((end - before) / h, rel=0.02, abs=0.01)


def test_paint_runs_as_the_mixture_does() -> None:
    from huvren.core.color.mixing import ladder

    blue, yellow = parse_color("#0a3fb0"), parse_color("#fcd200")
    baked = Ramp((Stop(blue), Stop(yellow)), Lane.of("pigment")).baked(5)
    for ours, theirs in zip(baked[1:-1], ladder(blue, yellow, 3, "pigment"), strict=True):
        assert float(delta_eok(ours.oklab, theirs.oklab)) < 0.2
    assert baked[2].to("oklch")[2] == pytest.approx(150, abs=25), "blue and yellow paint give a green"


def test_splines_take_what_is_missing_from_between() -> None:
    made = ramp("oklch(0.3 0.1 20)", "oklch(none 0.1 80)", "oklch(0.9 0.1 140)", space="oklch", curve=CURVES["natural"])
    coords, _ = made.at([0.5])
    assert coords[0] == pytest.approx([0.6, 0.1, 80], abs=1e-6)
    both = ramp("oklch(none 0.1 20)", "oklch(none 0.1 80)", space="oklch", curve=CURVES["monotone"])
    assert np.isnan(both.at([0.5])[0][0, 0])
    turned = ramp("oklch(0.5 0.1 350)", "oklch(0.5 0.1 10)", "oklch(0.5 0.1 50)", space="oklch", curve=CURVES["natural"])
    hues = turned.at(np.linspace(0, 1, 41))[0][:, 2]
    assert ((hues >= 345) | (hues <= 55)).all(), "the near way round through 0"


def test_even_steps_do_not_hear_easings() -> None:
    eased = replace(
        plan_of([parse_color("#000"), parse_color("#fff")], spacing="even"),
        stops=(PlanStop(parse_color("#000"), easing=Easing("steps"), midpoint=0.2), PlanStop(parse_color("#fff"))),
    )
    plain = plan_of([parse_color("#000"), parse_color("#fff")], spacing="even")
    shares = np.linspace(0, 1, 9)
    assert np.allclose(eased.ramp(plain_only).at(shares)[0], plain.ramp(plain_only).at(shares)[0])


@pytest.mark.parametrize(
    ("make", "words"),
    [
        (lambda: plan_of([parse_color("#fff")]).ramp(plain_only), "one was given"),
        (lambda: plan_of([parse_color("#fff")] * (MOST_STOPS + 1)), "at most 64 colors; 65 were given"),
        (lambda: Ramp(tuple(Stop(parse_color("#fff")) for _ in range(65)), Lane.of("oklab")), "at most 64 colors"),
        (lambda: plan_of([parse_color("#fff")] * 2, steps=1), "2 to 1,024 steps, or none to be continuous; 1 were"),
        (lambda: plan_of([parse_color("#fff")] * 2, steps=2000), "2,000 were asked for"),
        (lambda: Easing("bezier", (1.2, 0, 0.5, 1)), "x1 = 1.2; it must lie within 0 and 1"),
        (lambda: Easing("bezier", (0.2, float("nan"), 0.5, 1)), "y1 = nan"),
        (lambda: Easing("bezier", (0.2, 0.5)), "takes 4 numbers; 2 were given"),
        (lambda: Easing("steps", (1,)), "count = 1; it must lie within 2 and 256"),
        (lambda: Stop(parse_color("#fff"), midpoint=0.0), "A midpoint of 0 is outside 0.01 to 0.99"),
        (lambda: PlanStop(), "either a swatch or a color"),
        (lambda: RampPlan((PlanStop(swatch="a"), PlanStop(swatch="b"))).ramp(plain_only), "no palette to look it up in"),
    ],
)  # fmt: skip
def test_what_is_no_ramp_is_said_in_words(make: object, words: str) -> None:
    with pytest.raises(BadInput, match=words):
        make()  # type: ignore[operator]


@pytest.mark.parametrize("setting", ["space", "hue", "curve", "spacing", "gamut", "purpose"])
def test_settings_that_are_not_registered_are_refused_with_the_choices(setting: str) -> None:
    with pytest.raises(Unknown, match=r"There is no .* “sideways”\. Choose one of: "):
        plan_of([parse_color("#fff")] * 2, **{setting: "sideways"})


def test_stops_out_of_order_and_on_one_place_are_a_ramp_all_the_same() -> None:
    made = ramp("#000", "#f00", "#0f0", "#fff", at=(0.8, 0.2, 0.2, 0.9))
    assert made.positions == [0.8, 0.8, 0.8, 0.9]
    for spacing, curve in itertools.product(SPACINGS, CURVES):
        srgb, alpha, _ = replace(made, spacing=spacing, curve=curve).shown(np.linspace(0, 1, 99))
        assert np.isfinite(srgb).all()
        assert alpha == pytest.approx(1)


def test_becoming_clear_is_a_difference_too() -> None:
    veil = ramp("#000", "#0000", spacing=SPACINGS["even"])
    _, alpha, _ = veil.shown(np.linspace(0, 1, 11))
    assert alpha == pytest.approx(np.linspace(1, 0, 11), abs=2e-3)
    assert evenness(veil, 11).exact < 1.02
