"""Grain: tuned colors that are true from several distances, and dear parts that stay."""

from dataclasses import replace
from itertools import pairwise
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.ndimage import gaussian_filter

from huvren.core.color.spaces import convert
from huvren.core.reduction.afar import gap_when_halved
from huvren.core.reduction.dithers import DITHERS
from huvren.core.reduction.grain import CLOSE, FAR, FINE, FINEST, FREE, grain_name, terms_of
from huvren.core.reduction.histogram import build_histogram
from huvren.core.reduction.recipe import ReduceRecipe, say
from huvren.core.reduction.reduce import Reduction, prepare, reduce_picture
from huvren.core.reduction.tuning.equations import gather
from huvren.core.reduction.tuning.sample import take_sample
from huvren.core.reduction.tuning.settling import Verdict, is_better
from huvren.core.reduction.tuning.task import Task
from huvren.core.stored.recipe import RECIPE, recipe_to_document
from tests.pictures import opaque, painted

Rgb = np.ndarray
SIGMAS = (0.0, 0.7, 1.5, 3.0)


def seen(rgb: Rgb, sigma: float) -> np.ndarray:
    """OKLab of a picture, blurred in linear light by SciPy."""
    light = convert(rgb / 255, "srgb", "srgb-linear")
    if sigma:
        light = np.stack([gaussian_filter(light[..., axis], sigma, mode="nearest") for axis in range(3)], axis=-1)
    return convert(light, "srgb-linear", "oklab")


def gaps(rgb: Rgb, made: Reduction, sigma: float) -> np.ndarray:
    """(h, w) ΔEOK×100 of a picture and its reduction."""
    return np.linalg.norm(seen(rgb, sigma) - seen(made.rgb[made.indices], sigma), axis=-1) * 100


def halved(rgb: Rgb) -> np.ndarray:
    """As viewers shrink it: coded values averaged two by two."""
    height, width = rgb.shape[0] // 2, rgb.shape[1] // 2
    means = rgb[: 2 * height, : 2 * width].reshape(height, 2, width, 2, 3).mean(axis=(1, 3))
    return np.asarray(convert(means / 255, "srgb", "oklab"))


def worst_block(rgb: Rgb, made: Reduction) -> float:
    height, width = rgb.shape[0] // 32, rgb.shape[1] // 32
    return float(gaps(rgb, made, 1.5)[: 32 * height, : 32 * width].reshape(height, 32, width, 32).mean(axis=(1, 3)).max())


def disks(places: dict[tuple[int, int], tuple[int, int, int]], radius: float, ground: Rgb) -> Rgb:
    y, x = np.mgrid[: ground.shape[0], : ground.shape[1]]
    made = ground.copy()
    for (across, down), color in places.items():
        made[np.hypot(x - across, y - down) <= radius] = color
    return made


def night(width: int = 320, height: int = 240) -> Rgb:
    """A dark sky over darker hills."""
    y, x = np.mgrid[:height, :width].astype(float)
    rgb = np.stack([8 + 10 * y / height, 12 + 22 * y / height, 30 + 50 * y / height], axis=-1)
    rgb[y > 0.7 * height + 20 * np.sin(x / 40)] = (6, 9, 14)
    rgb += np.random.default_rng(1).normal(0, 1.2, rgb.shape)
    return np.clip(np.rint(rgb), 0, 255).astype(np.uint8)


def reduced(rgb: Rgb, **told: Any) -> Reduction:
    return reduce_picture(opaque(rgb), ReduceRecipe(**{"colors": 8, "dither": "floyd-steinberg", **told}))


PICTURES = {"painted": painted(180, 240)[..., :3], "other": painted(150, 200, 5)[..., :3], "night": night()}


@given(st.integers(FREE, FINEST), st.floats(0.4, 8))
def test_shares_of_the_distances_add_up_and_the_recipes_own_comes_first(grain: int, sigma: float) -> None:
    terms = terms_of(grain, sigma)
    assert sum(term.share for term in terms) == pytest.approx(1)
    assert all(term.share > 0 for term in terms)
    assert terms[0].sigma == sigma
    if grain == FREE:
        assert len(terms) == 1
    else:
        assert [term.sigma for term in terms[1:]] == [0, pytest.approx(CLOSE * sigma), pytest.approx(FAR * sigma)]


def test_the_finer_the_more_single_pixels_count_and_it_is_said() -> None:
    shares = [terms_of(grain, 1.5)[1].share for grain in range(1, FINEST + 1)]
    assert all(one < other for one, other in pairwise(shares))
    assert [grain_name(grain) for grain in (FREE, FINE, FINEST, 30)] == ["free grain", "fine grain", "finest grain", "grain of 30"]
    told = ReduceRecipe(dither="stucki")
    assert "grain" not in say(told)
    assert "colors tuned to it with free grain" in say(told.model_copy(update={"grain": FREE}))
    assert "grain" not in say(ReduceRecipe(grain=FREE))


@pytest.mark.parametrize("name", PICTURES)
@pytest.mark.parametrize("colors", [4, 8, 16])
def test_fine_grain_is_nearer_from_afar_and_no_worse_from_anywhere(name: str, colors: int) -> None:
    rgb = PICTURES[name]
    before, fine, free = (reduced(rgb, colors=colors, **told) for told in ({"tune": False}, {}, {"grain": FREE}))
    for sigma in SIGMAS[1:]:
        assert gaps(rgb, fine, sigma).mean() <= gaps(rgb, before, sigma).mean() * 1.005 + 0.005, sigma
    assert gaps(rgb, fine, 0).mean() <= 1.6 * gaps(rgb, before, 0).mean()
    gap_halved = [np.linalg.norm(halved(rgb) - halved(made.rgb[made.indices]), axis=-1).mean() for made in (before, fine)]
    assert gap_halved[1] <= 1.08 * gap_halved[0]
    assert gaps(rgb, free, 1.5).mean() <= gaps(rgb, before, 1.5).mean() * 1.005


@pytest.mark.parametrize("dither", [dither.id for dither in DITHERS if dither.id not in ("none", "floyd-steinberg")])
def test_no_part_gets_much_worse_with_any_dither(dither: str) -> None:
    rgb = disks({(60, 60): (244, 240, 214), (250, 90): (250, 140, 40)}, 9, night())
    before, after = (reduced(rgb, colors=6, dither=dither, tune=tune) for tune in (False, True))
    assert worst_block(rgb, after) <= 1.1 * worst_block(rgb, before) + 0.05
    assert gaps(rgb, after, 1.5).mean() <= gaps(rgb, before, 1.5).mean() * 1.005


@pytest.mark.parametrize("colors", [4, 5, 8])
@pytest.mark.parametrize("grain", [FREE, FINE])
def test_the_moon_of_a_night_is_kept(colors: int, grain: int) -> None:
    rgb = disks({(230, 60): (244, 240, 214)}, 15, night())
    made = reduced(rgb, colors=colors, grain=grain)
    moon = gaps(rgb, made, 1.5)[50:71, 220:241]
    assert moon.mean() < 3
    assert convert(made.rgb / 255, "srgb", "oklab")[:, 0].max() > 0.85, "a bright color is left for it"


@pytest.mark.parametrize("told", [{"colors": 16, "accent": 60}, {"colors": 16, "accent": 100}, {"colors": 24, "accent": 60}], ids=str)
def test_small_protected_disks_stay(told: dict[str, Any]) -> None:
    y, x = np.mgrid[:240, :320]
    gray = np.repeat((90 + 80 * x / 320 + 10 * np.sin(y / 30))[..., None], 3, axis=-1).round().astype(np.uint8)
    colors = [(220, 40, 40), (40, 180, 60), (50, 80, 220), (230, 200, 40), (200, 60, 200), (40, 200, 210)]
    places = {(40 + 48 * at, 120 + 40 * (-1) ** at): color for at, color in enumerate(colors)}
    rgb = disks(places, 5, gray)
    apart = gaps(rgb, reduced(rgb, **told), 1.5)
    for across, down in places:
        assert apart[down - 3 : down + 4, across - 3 : across + 4].mean() < 3


@settings(max_examples=12, deadline=None)
@given(
    st.lists(st.tuples(*[st.integers(0, 255)] * 3), min_size=1, max_size=5, unique=True),
    st.integers(6, 12),
    st.sampled_from([0, 50, 100]),
)
def test_what_is_held_is_never_lost(keep: list[tuple[int, int, int]], colors: int, grain: int) -> None:
    made = reduce_picture(painted(60, 80), ReduceRecipe(colors=colors, dither="burkes", grain=grain), keep)
    assert made.rgb[: len(keep)].tolist() == [list(color) for color in keep]
    assert len(np.unique(made.rgb, axis=0)) == colors


def test_a_rare_color_stands_in_the_sample_of_a_large_picture_and_counts_for_what_it_is() -> None:
    rgb = disks({(1207, 801): (250, 60, 40)}, 12, np.tile(night(), (4, 5, 1)))
    rgba = opaque(rgb)
    frame = prepare([rgba], ReduceRecipe()).frames[0]
    factors = np.ones(frame.histogram.distinct, np.float32)
    sample = take_sample([frame], frame.histogram, factors, terms_of(FINE, 1.5), 20_000)
    assert not sample.is_whole
    red = (sample.rgba[..., 0] > 200) & (sample.rgba[..., 3] == 255)
    assert red.sum() > 100
    view = sample.views[0]
    share = view.weights[red[view.ys, view.xs]].sum() / view.weights.sum()
    assert 0.2 < share / ((rgb[..., 0] > 200).mean()) < 5
    every = take_sample([frame], frame.histogram, factors, terms_of(FINE, 1.5), rgba.size)
    means = [float(np.average(each.views[0].oklab[:, 0], weights=each.views[0].weights)) for each in (sample, every)]
    assert means[0] == pytest.approx(means[1], abs=0.01), "all kinds of blocks in their proportions"


def test_the_errors_of_all_distances_are_those_of_scipys_blur() -> None:
    picture = painted(96, 128)
    made = reduced(picture[..., :3], colors=6, tune=False)
    histogram = build_histogram(picture)
    frame = prepare([picture], ReduceRecipe()).frames[0]
    terms = terms_of(FINE, 1.5)
    sample = take_sample([frame], histogram, np.ones(histogram.distinct, np.float32), terms, picture.size)
    found = gather(sample, made.indices, made.rgb, solves=False)
    for term, view, error in zip(terms, sample.views, found.errors, strict=True):
        inner = (view.ys > 12) & (view.ys < 84) & (view.xs > 12) & (view.xs < 116)
        wanted = gaps(picture[..., :3], made, term.sigma)[view.ys, view.xs] / 100
        assert error == pytest.approx(wanted.mean(), rel=0.03), term
        assert inner.any()
    assert found.error == pytest.approx(sum(term.share * error for term, error in zip(terms, found.errors, strict=True)))
    blocks = gaps(picture[..., :3], made, 1.5).reshape(3, 32, 4, 32).mean(axis=(1, 3)).reshape(-1) / 100
    assert found.cells == pytest.approx(blocks, rel=0.1)
    assert found.worst == pytest.approx(found.cells.max())


def test_a_halved_copy_is_compared_as_viewers_shrink_it() -> None:
    picture = painted(61, 83)
    picture[:20, :30, 3] = 0
    made = reduce_picture(picture, ReduceRecipe(colors=6, dither="floyd-steinberg", tune=False))
    shown = np.concatenate([made.rgb, np.zeros((1, 3), np.uint8)])[made.indices]
    clear = (picture[:60, :82, 3] < 128).reshape(30, 2, 41, 2).any(axis=(1, 3))
    wanted = np.linalg.norm(halved(picture[..., :3]) - halved(shown), axis=-1)[~clear].mean()
    # The means are rounded to whole bytes.
    assert gap_when_halved(picture, made.indices, made.rgb, 128) == pytest.approx(wanted, rel=0.03)
    assert gap_when_halved(picture[:1], made.indices[:1], made.rgb, 128) == 0


FIRST = Verdict(score=0.02, errors=(0.01, 0.05, 0.03, 0.008), worst=0.1, halved=0.04)


@pytest.mark.parametrize(
    ("part", "is_taken"),
    [
        ({}, True), ({"score": 0.021}, False), ({"worst": 0.109}, True), ({"worst": 0.111}, False), ({"halved": 0.0415}, True),
        ({"halved": 0.042}, False), ({"errors": (0.0101, 0.05, 0.029, 0.008)}, False),
        ({"errors": (0.01, 0.077, 0.029, 0.008)}, True),
        ({"errors": (0.01, 0.078, 0.029, 0.008)}, False), ({"errors": (0.01, 0.05, 0.0298, 0.008)}, False),
        ({"errors": (0.01, 0.05, 0.029, 0.0081)}, False),
    ],
)  # fmt: skip
def test_what_is_worse_from_a_distance_or_in_a_part_is_not_taken(part: dict[str, Any], is_taken: bool) -> None:
    rgb = np.zeros((2, 3), np.uint8)
    frames = prepare([opaque(PICTURES["night"][:8, :8])], ReduceRecipe()).frames
    task = Task(frames, frames[0].histogram, np.ones(1, np.float32), rgb, 0, lambda *_: rgb, terms_of(FINE, 1.5))
    found = replace(FIRST, score=0.019, errors=(0.01, 0.05, 0.029, 0.008))
    assert is_better(task, replace(found, **part), FIRST) is is_taken
    if "halved" in part:
        free = replace(task, terms=terms_of(FREE, 1.5))
        assert is_better(free, replace(found, **part, errors=(0.01,)), replace(FIRST, errors=(0.01,))), "from one distance alone"


def test_recipes_of_before_go_on_being_tuned_to_one_distance() -> None:
    document = recipe_to_document(ReduceRecipe(dither="ordered"))
    assert RECIPE.read(document).grain == FINE
    del document["grain"]
    assert RECIPE.read(document | {"version": 4}).grain == FREE


def test_with_very_few_colors_the_better_way_is_named() -> None:
    rgb = PICTURES["painted"]
    notes = {dither: reduced(rgb, colors=4, dither=dither).notes for dither in ("floyd-steinberg", "ordered")}
    afar = {dither: reduced(rgb, colors=4, dither=dither).figures.afar for dither in notes}
    worse, better = sorted(afar, key=lambda dither: -afar[dither])
    assert afar[better] < 0.95 * afar[worse]
    assert any(f"“{DITHERS[better].label}” comes nearer from afar" in note for note in notes[worse])
    assert not any("comes nearer" in note for note in notes[better])
    assert not any("comes nearer" in note for note in reduced(rgb, colors=5, dither=worse).notes)
