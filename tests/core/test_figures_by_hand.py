"""Figures of checks, lenses and ramps against values worked out by hand from their definitions, or by colour-science."""

import warnings

import numpy as np
import pytest

with warnings.catch_warnings():
    warnings.simplefilter("ignore")
    import colour

from huvren.core.checks.gray import melting, neighbors
from huvren.core.checks.mixtures import CHROMA_SEEN, mixed, seen_error
from huvren.core.checks.moving import least_push, movable, nearest_lightness, way
from huvren.core.checks.subject import Sample, Subject
from huvren.core.color.value import Color
from huvren.core.lenses import LENSES
from huvren.core.palette.values import Palette, Swatch
from huvren.core.ramp.baking import Baked, bake, sampled, stepped
from huvren.core.ramp.fit import along, fit
from huvren.core.ramp.plan import plain_only, plan_of

RED, GREEN, WHITE, BLACK = (255, 0, 0), (0, 128, 0), (255, 255, 255), (0, 0, 0)


def subject(*rgb: tuple[int, int, int], **more: object) -> Subject:
    swatches = tuple(Swatch(Color.from_bytes(*channels), f"n{place}", f"s{place}") for place, channels in enumerate(rgb))
    return Subject(Palette("x", swatches), **more)  # type: ignore[arg-type]


def oklab(*rgb: tuple[int, int, int]) -> np.ndarray:
    """By colour-science."""
    return np.asarray(colour.XYZ_to_Oklab(colour.sRGB_to_XYZ(np.array(rgb) / 255)))


def ramp(*codes: tuple[int, int, int]):  # type: ignore[no-untyped-def]
    return plan_of([Color.from_bytes(*code) for code in codes], space="srgb").ramp(plain_only)


# Gray


def test_neighbors_of_a_strip_share_its_borders_equally_and_of_a_picture_by_their_pixels() -> None:
    strip = neighbors(subject(RED, GREEN, WHITE, BLACK))
    assert strip.tolist() == (np.eye(4, k=1) / 3 + np.eye(4, k=-1) / 3).tolist()
    assert neighbors(subject(RED)).tolist() == [[0.0]]
    seen = neighbors(subject(RED, GREEN, WHITE, touching={("s0", "s2"): 30, ("s1", "s2"): 10}))
    assert seen.tolist() == [[0, 0, 0.75], [0, 0, 0.25], [0.75, 0.25, 0]]


def test_what_melts_is_near_in_lightness_apart_in_color_and_longest_first() -> None:
    """(119, 119, 119) and (190, 60, 60) have OKLab lightnesses 0.568 and 0.552 (colour-science); white and black are far."""
    colors = ((119, 119, 119), (190, 60, 60), WHITE, (120, 118, 120))
    lightness = oklab(*colors)[:, 0]
    assert abs(lightness[0] - lightness[1]) == pytest.approx(0.0215, abs=0.01)
    found = subject(*colors, touching={("s0", "s1"): 10, ("s1", "s3"): 30, ("s0", "s2"): 50, ("s0", "s3"): 10})
    shares = neighbors(found)
    assert melting(found, shares, 0.05, 0.01) == [(1, 3), (0, 1)], "grays that are one color anyway do not melt"
    assert melting(found, shares, 0.05, 0.1) == [(1, 3), (0, 1)], "a border that is just long enough counts"
    assert melting(found, shares, 0.05, 0.11) == [(1, 3)]
    gap = abs(float(found.oklab[0, 0] - found.oklab[1, 0]))
    assert (0, 1) not in melting(found, shares, gap, 0.01), "as far apart as asked is apart"
    assert (0, 1) in melting(found, shares, gap + 1e-9, 0.01)


# Mixtures


def test_a_mixture_is_the_mean_of_light_and_its_coarseness_the_weighed_difference() -> None:
    made = mixed(subject(BLACK, WHITE, RED), 1000, 0)
    assert list(zip(made.first.tolist(), made.second.tolist(), strict=True)) == [(0, 1), (0, 2), (1, 2)]
    # Half the light of white is 188 of 255 in sRGB (IEC 61966-2-1), and of red 188, 0, 0; of both together 255, 188, 188.
    means = oklab((188, 188, 188), (188, 0, 0), (255, 188, 188))
    assert np.abs(made.oklab - means).max() < 2e-4
    black, white, red = oklab(BLACK, WHITE, RED)
    for number, (one, other) in enumerate(((black, white), (black, red), (white, red))):
        apart = one - other
        wanted = 100 * np.sqrt(apart[0] ** 2 + (CHROMA_SEEN * np.hypot(apart[1], apart[2])) ** 2)
        assert made.coarse[number] == pytest.approx(wanted, abs=0.02)
    new = [min(100 * np.linalg.norm(mean - own) for own in (black, white, red)) for mean in means]
    assert made.new == pytest.approx(new, abs=0.05)


def test_useful_mixtures_are_fine_enough_and_new_enough_finest_first_and_apart_from_each_other() -> None:
    colors = ((10, 10, 10), (60, 60, 60), (120, 120, 120), (180, 180, 180))
    everything = mixed(subject(*colors), 1000, 0)
    order = [everything.coarse[number] for number in everything.useful]
    assert order == sorted(order)
    for limit in (float(everything.coarse[2]), float(everything.coarse[2]) - 1e-9):
        allowed = set(mixed(subject(*colors), limit, 0).useful)
        assert allowed <= set(np.flatnonzero(everything.coarse <= limit).tolist())
        assert (2 in allowed) == (limit == everything.coarse[2]), "the limit itself is fine enough"
    made = mixed(subject(*colors), 1000, 8)
    chosen = made.oklab[made.useful]
    gaps = np.linalg.norm(chosen[:, None] - chosen[None], axis=2) * 100 + np.eye(len(chosen)) * 99
    assert gaps.min() >= 8
    assert (made.new[made.useful] >= 8).all()


def test_the_error_that_is_seen_is_the_weighed_mean_to_the_nearest_tone() -> None:
    samples = Sample(np.array([[0.5, 0, 0], [0.9, 0, 0]]), np.array([3.0, 1.0]))
    found = subject(BLACK, WHITE, samples=samples)
    # 0.5 is 0.5 from both ends (ΔE 50), 0.9 is 0.1 from white (ΔE 10): (3 · 50 + 1 · 10) / 4
    assert seen_error(found, np.array([[0.0, 0, 0], [1.0, 0, 0]])) == pytest.approx(40)
    assert seen_error(subject(BLACK, WHITE), found.oklab) == 0


# The least change


def test_the_nearest_lightness_is_the_nearest_at_which_it_holds() -> None:
    gray = np.array([0.5, 0.0, 0.0])
    for least, wanted in ((0.6, 0.6), (0.52, 0.52)):
        found = nearest_lightness(gray, lambda srgb, least=least: oklab_of(srgb)[:, 0] >= least)
        assert found is not None
        reached = float(oklab_of(found[None])[0, 0])
        assert wanted <= reached < wanted + 0.006, "one step of 8 bits beyond at most"
    either = nearest_lightness(gray, lambda srgb: np.abs(oklab_of(srgb)[:, 0] - 0.5) >= 0.1)
    assert either is not None
    assert abs(float(oklab_of(either[None])[0, 0]) - 0.5) == pytest.approx(0.1, abs=0.006)
    assert nearest_lightness(gray, lambda srgb: np.zeros(len(srgb), dtype=bool)) is None


def oklab_of(srgb: np.ndarray) -> np.ndarray:
    return np.asarray(colour.XYZ_to_Oklab(colour.sRGB_to_XYZ(srgb)))


def test_the_least_push_is_about_as_far_as_it_has_to_be_and_no_farther() -> None:
    start = np.array([0.6, 0.02, 0.03])
    found = least_push(start, lambda srgb: np.linalg.norm(oklab_of(srgb) - start, axis=1) >= 0.08)
    assert found is not None
    assert 0.08 <= np.linalg.norm(oklab_of(found[None])[0] - start) <= 0.09
    assert least_push(start, lambda srgb: np.zeros(len(srgb), dtype=bool)) is None


def test_the_least_used_swatch_is_moved_first_and_a_locked_one_never() -> None:
    swatches = tuple(Swatch(Color.from_bytes(n, n, n), f"n{n}", f"s{n}", locked=n == 1) for n in range(4))
    found = Subject(Palette("x", swatches), usage={"s0": 30, "s1": 1, "s2": 10, "s3": 20})
    assert movable(found, 0, 1, 2, 3) == [2, 3, 0]
    assert movable(Subject(Palette("x", swatches)), 3, 0) == [3, 0], "without a picture as they were given"
    assert way(found, 0, np.array([0.1, 0.1, 0.1])) == "lighter"
    assert way(found, 3, np.array([0.0, 0.0, 0.0])) == "darker"


# Ink on paper


def test_ink_on_paper_goes_by_murray_and_davies_with_a_parabola_of_gain() -> None:
    see = LENSES["ink-on-paper"].see

    def linear(gray: float, gain: float) -> np.ndarray:
        return np.asarray(colour.models.eotf_sRGB(see(np.array([[gray] * 3]), gain)))[0]

    paper, ink = np.array([0.86, 0.83, 0.76]), np.array([0.028, 0.026, 0.030])
    assert linear(1, 15) == pytest.approx(paper, abs=1e-6), "no dot, no ink"
    assert linear(0, 15) == pytest.approx(ink, abs=1e-6), "a full tone does not grow"
    half = float(colour.models.eotf_inverse_sRGB(0.5))
    assert linear(half, 0) == pytest.approx((paper + ink) / 2, abs=1e-6)
    assert linear(half, 20) == pytest.approx(paper * 0.3 + ink * 0.7, abs=1e-6), "half a tone grows by all of the gain"
    quarter = float(colour.models.eotf_inverse_sRGB(0.75))
    assert linear(quarter, 20) == pytest.approx(paper * 0.6 + ink * 0.4, abs=1e-6), "a quarter by three quarters of it: 0.25 + 0.15"


# Ramps


def test_what_is_baked_is_drawn_straight_with_alpha_before_color() -> None:
    clear = Baked(np.array([0.0, 1.0]), np.array([[1.0, 0, 0], [0, 0, 1.0]]), np.array([1.0, 0.0]), 0.0)
    # Premultiplied: half way there is half of the red and nothing of the blue, so all that is seen is red.
    assert clear.at(np.array([0.5])).tolist() == [[1, 0, 0, 0.5]]
    edge = Baked(np.array([0, 0.5, 0.5, 1.0]), np.array([[0.0] * 3, [0.2] * 3, [0.8] * 3, [1.0] * 3]), np.ones(4), 0.0)
    assert edge.at(np.array([0.25, 0.5, 0.75, 1.0]))[:, 0].tolist() == pytest.approx([0.1, 0.8, 0.9, 1.0])


def test_steps_are_bands_of_one_width_and_samples_stand_evenly() -> None:
    bands = stepped(ramp(BLACK, WHITE), 4)
    assert bands.places.tolist() == [0, 0.25, 0.25, 0.5, 0.5, 0.75, 0.75, 1]
    assert bands.srgb[:, 0].tolist() == pytest.approx([0, 0, 1 / 3, 1 / 3, 2 / 3, 2 / 3, 1, 1])
    three = sampled(ramp(BLACK, WHITE), 3)
    assert (three.places.tolist(), three.srgb[:, 0].tolist()) == ([0, 0.5, 1], [0, 128 / 255, 1])


def test_a_straight_ramp_needs_its_ends_alone_and_a_hard_edge_both_of_its_sides() -> None:
    straight = bake(ramp(BLACK, WHITE))
    assert straight.places.tolist() == [0, 1]
    assert straight.worst < 1e-6
    assert bake(ramp(BLACK, WHITE, BLACK)).places.tolist() == pytest.approx([0, 0.5, 1], abs=1e-3)


def test_a_line_is_read_by_what_is_seen_of_each_pixel() -> None:
    picture = np.zeros((3, 64, 4), np.uint8)
    picture[..., 3] = 255
    picture[..., 0] = np.linspace(0, 255, 64).astype(np.uint8)
    found = along(picture, (0, 0.5, 1, 0.5))
    wanted = colour.models.eotf_sRGB(picture[1, np.rint(np.linspace(0, 63, len(found))).astype(int), 0] / 255)
    assert found[:, 0] == pytest.approx(wanted, abs=1e-9)
    tall = np.zeros((64, 64, 4), np.uint8)
    tall[:, :, 3] = 255
    tall[:31] = (255, 255, 255, 0)
    assert along(tall, (0, 0.5, 1, 0.5))[:, :3].max() == 0, "clear pixels have no color to give"
    assert 0 < along(tall, (0, 0.5, 1, 0.5))[0, 3] < 1


def test_a_fit_keeps_within_its_tolerance_and_takes_no_stop_more() -> None:
    gray = np.linspace(0, 1, 65)
    linear = np.column_stack([np.asarray(colour.Oklab_to_XYZ(np.column_stack([gray, 0 * gray, 0 * gray]))) @ np.linalg.inv(
        colour.RGB_COLOURSPACES["sRGB"].matrix_RGB_to_XYZ
    ).T, np.ones(65)])  # fmt: skip
    straight = fit(np.clip(linear, 0, None), 0.5)
    assert len(straight.plan.stops) == 2
    assert straight.fewest
    assert straight.worst < 0.05
    bent = linear.copy()
    bent[32:] = linear[32:33]
    assert [stop.position for stop in fit(np.clip(bent, 0, None), 0.5).plan.stops] == pytest.approx([0, 0.5, 1], abs=0.02)
    for tolerance in (0.0, -1.0, 100.5):
        with pytest.raises(ValueError, match="is outside 0 to 100"):
            fit(linear, tolerance)
