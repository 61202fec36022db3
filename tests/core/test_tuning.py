"""Colors tuned to a dither: what must never happen, what must always hold, and brute force beside it."""

import itertools
from typing import Any

import numba
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from sklearn.cluster import KMeans

from huvren.core.color.spaces import convert
from huvren.core.errors import BadInput
from huvren.core.reduction.afar import mean_from_afar
from huvren.core.reduction.choosers.channel_depth import snap
from huvren.core.reduction.dithers import DITHERS
from huvren.core.reduction.grain import FREE, Term
from huvren.core.reduction.histogram import build_histogram, oklab_of_rgb
from huvren.core.reduction.medians import search_medians
from huvren.core.reduction.nearest import nearest_centers
from huvren.core.reduction.painting import paint
from huvren.core.reduction.recipe import ReduceRecipe, is_tuned, say, searches_longer
from huvren.core.reduction.reduce import choose, lay_out, prepare, reduce_picture
from huvren.core.reduction.tuning.equations import gather
from huvren.core.reduction.tuning.sample import Sample, take_sample
from huvren.core.reduction.tuning.settling import SKETCH
from huvren.core.reduction.weighing import RectangleMark, color_factors
from tests.pictures import opaque, painted

PICTURE = painted()
LIST = [f"#{r:02x}{g:02x}{b:02x}" for r in (0, 128, 255) for g in (0, 128, 255) for b in (0, 128, 255)]
MIXING = [dither.id for dither in DITHERS if dither.id != "none"]


def both(rgba: np.ndarray, keep: list[tuple[int, int, int]] | None = None, **told: Any) -> tuple[Any, Any]:
    """The reduction without tuning and with it."""
    recipe = ReduceRecipe(**{"colors": 8, "dither": "floyd-steinberg", **told})
    made = [reduce_picture(rgba, recipe.model_copy(update={"tune": tune}), keep or []) for tune in (False, True)]
    return made[0], made[1]


def whole(rgba: np.ndarray, sigma: float = 1.5) -> Sample:
    histogram = build_histogram(rgba)
    frame = prepare([rgba], ReduceRecipe()).frames[0]
    return take_sample([frame], histogram, np.ones(histogram.distinct, np.float32), [Term(sigma, 1.0)], rgba.size)


@pytest.mark.parametrize("dither", MIXING)
@pytest.mark.parametrize("colors", [2, 5, 12])
def test_never_worse_from_afar_than_untuned(dither: str, colors: int) -> None:
    for seed in (3, 8):
        before, after = both(painted(60, 80, seed), colors=colors, dither=dither)
        assert after.figures.afar <= before.figures.afar + 1e-3
        assert len(after.rgb) == len(before.rgb) == colors


@pytest.mark.parametrize("steps", range(8))
def test_hurried_on_at_any_step_it_ends_soon_and_not_worse(steps: int) -> None:
    """As when others come while it goes on: the best of what was tried by then, and no further step is begun."""
    rgba = painted(120, 160)
    recipe = ReduceRecipe(colors=8, dither="floyd-steinberg", grain=FREE)
    asked: list[int] = []
    begun: list[str] = []

    def hurry() -> bool:
        asked.append(len(begun))
        return len(asked) > steps

    def watch(step: str, share: float) -> None:
        begun.extend([step] if "tuning" in step else [])

    hurried = reduce_picture(rgba, recipe, watch=watch, hurry=hurry)
    before, after = both(rgba, grain=FREE)
    assert hurried.figures.afar <= before.figures.afar + 1e-3
    assert after.figures.afar <= hurried.figures.afar * 1.1
    if steps:
        assert len(asked) == steps + 1
        assert begun == begun[: asked[-1]], "once it is to hurry nothing further is tried"
    else:
        assert len(begun) == sum(many for _, many, _ in SKETCH.stages)


SETTINGS: list[dict[str, Any]] = [
    {"strength": 60}, {"pair_limit": 25.0}, {"pair_limit": 25.0, "dither": "ordered"}, {"working": "oklab"}, {"serpentine": False},
    {"flats": 3.0}, {"tile": {"width": 8, "height": 8, "colors": 3}}, {"chooser": "channel-depth", "depth": "3-3-2"},
    {"chooser": "best-of-list", "listed": LIST},
    {"chooser": "median-cut"}, {"space": "ciede2000"}, {"space": "srgb"}, {"distance": 10},
    {"distance": 200}, {"solid": ["black", "white"]},
]  # fmt: skip


@pytest.mark.parametrize("told", SETTINGS, ids=[str(each) for each in SETTINGS])
def test_never_worse_with_any_setting(told: dict[str, Any]) -> None:
    before, after = both(PICTURE, **told)
    assert after.figures.afar <= before.figures.afar + 1e-3


@pytest.mark.parametrize("dither", ["floyd-steinberg", "stucki", "blue-noise"])
def test_a_glow_gains_much_at_eight_colors(dither: str) -> None:
    before, after = both(painted(180, 240), dither=dither, grain=FREE)
    assert after.figures.afar < (0.85 if dither == "blue-noise" else 0.7) * before.figures.afar
    _, fine = both(painted(180, 240), dither=dither)
    assert after.figures.afar < fine.figures.afar < 0.95 * before.figures.afar
    assert fine.figures.mean < after.figures.mean, "calmer close up"


def test_a_large_picture_is_tuned_on_a_part_and_measured_on_the_whole() -> None:
    picture = np.tile(painted(120, 160), (5, 5, 1))
    before, after = both(picture, colors=12)
    assert after.figures.afar < 0.75 * before.figures.afar


def test_locked_colors_and_solid_ones_stay_and_come_first() -> None:
    keep = [(250, 3, 190), (17, 90, 20)]
    _, after = both(PICTURE, keep, solid=["white"])
    assert after.rgb[:3].tolist() == [[250, 3, 190], [17, 90, 20], [255, 255, 255]]
    assert (np.diff(oklab_of_rgb(after.rgb[3:])[:, 0]) >= 0).all()


@pytest.mark.parametrize("depth", ["2-2-2", "3-3-2", "4-4-4", "6x6x6"])
def test_colors_of_a_depth_stay_on_its_grid_and_apart(depth: str) -> None:
    before, after = both(PICTURE, [(1, 2, 3)], chooser="channel-depth", depth=depth)
    levels = {"2-2-2": (4, 4, 4), "3-3-2": (8, 8, 4), "4-4-4": (16, 16, 16), "6x6x6": (6, 6, 6)}[depth]
    assert after.rgb[0].tolist() == [1, 2, 3]
    assert np.array_equal(snap(after.rgb[1:], levels), after.rgb[1:])
    assert len(np.unique(after.rgb, axis=0)) == len(before.rgb)


def test_a_tile_limit_still_holds() -> None:
    _, after = both(PICTURE, tile={"width": 8, "height": 8, "colors": 3})
    for top in range(0, 96, 8):
        for left in range(0, 128, 8):
            assert len(np.unique(after.indices[top : top + 8, left : left + 8])) <= 3


def test_clear_pixels_keep_their_index_and_say_nothing() -> None:
    clear = PICTURE.copy()
    clear[:40, :60] = 0
    other = clear.copy()
    other[:40, :60, :3] = (255, 0, 255)
    results = [both(picture)[1] for picture in (clear, other)]
    for after in results:
        assert (after.indices[:40, :60] == after.transparent).all()
        assert after.transparent == 7
        assert len(after.rgb) == 7
    assert np.array_equal(results[0].rgb, results[1].rgb)


def test_marked_and_accented_parts_count_more() -> None:
    y, x = np.mgrid[0:96, 0:128] / 96
    rgb = np.stack([60 + 100 * x, 60 + 100 * x, 70 + 80 * y], axis=-1)
    rgb[10:26, 10:40] = np.stack([200 + 50 * x, 20 + 90 * y, 30 + 0 * x], axis=-1)[10:26, 10:40]
    picture = opaque(np.clip(rgb, 0, 255).astype(np.uint8))
    part = (slice(10, 26), slice(10, 40))

    def error_there(**told: Any) -> float:
        _, made = both(picture, colors=4, **told)
        return mean_from_afar(np.ascontiguousarray(picture[part]), np.ascontiguousarray(made.indices[part]), made.rgb, 128, 1.5)

    plain = error_there()
    assert error_there(marks=[RectangleMark(x=0.07, y=0.1, width=0.25, height=0.18, weight=8)]) < plain
    factors = color_factors(build_histogram(picture), None, 1.0)
    assert factors.max() > 1
    assert factors.min() == 1


def test_the_same_for_the_same_whatever_the_number_of_threads() -> None:
    picture, seen = painted(300, 400), []
    before = numba.get_num_threads()
    try:
        for threads in (1, before, 1):
            numba.set_num_threads(threads)
            seen.append(both(picture, colors=10)[1])
    finally:
        numba.set_num_threads(before)
    for each in seen:
        assert np.array_equal(each.rgb, seen[0].rgb)
        assert np.array_equal(each.indices, seen[0].indices)


@pytest.mark.parametrize("colors", [2, 3, 9])
def test_a_flat_picture_of_few_colors_keeps_exactly_them(colors: int) -> None:
    flat = np.zeros((40, 50, 3), np.uint8)
    flat[:, 25:] = (200, 90, 30)
    before, after = both(opaque(flat), colors=colors)
    assert np.array_equal(before.rgb, after.rgb)
    assert np.array_equal(before.indices, after.indices)
    assert after.figures.afar == 0


def test_tuned_is_said_and_only_where_it_is_done() -> None:
    assert is_tuned(ReduceRecipe(dither="ordered"))
    assert not is_tuned(ReduceRecipe())
    for part in ({"tune": False}, {"strength": 0}, {"chooser": "most-used"}, {"chooser": "own"}, {"chooser": "as-it-is"}):
        assert not is_tuned(ReduceRecipe(dither="ordered", **part))
    assert say(ReduceRecipe(dither="burkes", search="longer")).endswith("dithered Burkes, colors tuned to it, searched longer.")
    assert searches_longer(ReduceRecipe(search="longer"))
    assert not searches_longer(ReduceRecipe(search="longer", chooser="median-cut"))
    for chooser in ("most-used", "most-different", "own"):
        flat = ReduceRecipe(colors=6, chooser=chooser, dither="stucki")
        picture = PICTURE[:12, :20] if chooser == "own" else PICTURE
        assert np.array_equal(reduce_picture(picture, flat).rgb, reduce_picture(picture, flat.model_copy(update={"tune": False})).rgb)


def test_frames_of_a_sequence_share_colors_tuned_on_all_of_them() -> None:
    frames = [painted(60, 80, seed) for seed in (1, 2, 3)]
    frames[1][:30] = 0
    recipe = ReduceRecipe(colors=7, dither="floyd-steinberg")

    def afar(tune: bool) -> float:
        told = recipe.model_copy(update={"tune": tune})
        prepared = prepare(frames, told)
        chosen = choose(prepared, told)
        return float(np.mean([lay_out(frame, chosen, told)[1].afar for frame in prepared.frames]))

    assert afar(True) < afar(False)


def shades(rows: int = 10, columns: int = 14) -> np.ndarray:
    """A tiny gray slope with a little noise."""
    y, x = np.mgrid[0:rows, 0:columns]
    gray = 40 + 11 * x + 3 * y + np.random.default_rng(2).integers(-6, 7, (rows, columns))
    return opaque(np.repeat(np.clip(gray, 0, 255).astype(np.uint8)[..., None], 3, axis=-1))


def from_afar(rgba: np.ndarray, rgb: np.ndarray, recipe: ReduceRecipe) -> float:
    indices = paint(rgba, build_histogram(rgba), rgb, -1, recipe).indices
    return mean_from_afar(rgba, indices, rgb, 128, 1.5)


@pytest.mark.parametrize(("colors", "steps"), [(2, 52), (3, 18)])
def test_two_and_three_grays_come_near_the_best_of_all(colors: int, steps: int) -> None:
    picture, recipe = shades(), ReduceRecipe(colors=colors, dither="floyd-steinberg", search="longer", grain=FREE)
    levels = np.unique(np.linspace(0, 255, steps).astype(np.uint8))
    best = min(
        from_afar(picture, np.repeat(np.array(pick)[:, None], 3, axis=1), recipe) for pick in itertools.combinations(levels, colors)
    )
    made = reduce_picture(picture, recipe)
    assert made.figures.afar <= 1.05 * best + 0.02


@pytest.mark.parametrize("colors", [2, 3])
def test_of_a_short_list_the_very_best_are_taken(colors: int) -> None:
    picture, listed = painted(40, 60), LIST[::4]
    recipe = ReduceRecipe(colors=colors, dither="floyd-steinberg", chooser="best-of-list", listed=listed, grain=FREE)
    rgb = np.array([[int(text[at : at + 2], 16) for at in (1, 3, 5)] for text in listed], np.uint8)
    sample, histogram = whole(picture), build_histogram(picture)

    def error(rows: tuple[int, ...]) -> float:
        picked = rgb[list(rows)]
        return gather(sample, paint(picture, histogram, picked, -1, recipe).indices, picked).score

    best = min(itertools.combinations(range(len(rgb)), colors), key=error)
    assert {tuple(row) for row in reduce_picture(picture, recipe).rgb.tolist()} == {tuple(row) for row in rgb[list(best)].tolist()}


def test_of_a_long_list_only_its_own_are_taken_and_they_mix_better() -> None:
    before, after = both(painted(120, 160), [(9, 9, 9)], chooser="best-of-list", listed=LIST, colors=6, grain=FREE)
    own = set(LIST)
    assert after.rgb[0].tolist() == [9, 9, 9]
    assert len(after.rgb) == 6
    assert all("#{:02x}{:02x}{:02x}".format(*row) in own for row in after.rgb[1:].tolist())
    assert after.figures.afar < 0.9 * before.figures.afar


@pytest.mark.parametrize("told", [{"dither": "floyd-steinberg"}, {"dither": "ordered"}, {"dither": "none"},
                                      {"dither": "stucki", "chooser": "best-of-list", "listed": LIST}], ids=str)  # fmt: skip
def test_a_longer_search_never_ends_worse_and_can_be_called_off(told: dict[str, Any]) -> None:
    picture = painted(120, 160)
    usual = ReduceRecipe(colors=6, **told)
    longer = usual.model_copy(update={"search": "longer"})
    shares: list[float] = []
    first, after = reduce_picture(picture, usual), reduce_picture(picture, longer, watch=lambda _, share: shares.append(share))
    figure = "mean" if told["dither"] == "none" else "afar"
    assert getattr(after.figures, figure) <= getattr(first.figures, figure) + 1e-3
    assert len(shares) > 8
    assert [0, *shares, 1] == sorted([0, *shares, 1])

    class Off(Exception):
        pass

    def call_off(step: str, share: float) -> None:
        if share > 0.3:
            raise Off

    with pytest.raises(Off):
        reduce_picture(picture, longer, watch=call_off)


@pytest.mark.parametrize("colors", [8, 16])
def test_a_longer_search_reaches_the_medians(colors: int) -> None:
    picture = painted(150, 200)
    oklab = convert(picture[..., :3].reshape(-1, 3) / 255, "srgb", "oklab").astype(np.float32)
    best = np.inf
    for seed in range(4):
        centers = KMeans(colors, n_init=1, random_state=seed).fit(oklab).cluster_centers_.astype(np.float32)
        for _ in range(150):
            labels, gaps = nearest_centers(oklab, centers)
            pull = 1 / np.maximum(gaps, 1e-6)
            total = np.bincount(labels, weights=pull, minlength=colors)
            sums = [np.bincount(labels, weights=pull * oklab[:, axis], minlength=colors) for axis in range(3)]
            centers = (np.stack(sums, axis=-1) / np.maximum(total, 1e-9)[:, None]).astype(np.float32)
        best = min(best, float(nearest_centers(oklab, centers)[1].mean()) * 100)
    made = reduce_picture(picture, ReduceRecipe(colors=colors, search="longer"))
    # The colors are in 8 bits, those of the other are not.
    assert made.figures.mean <= 1.004 * best


def test_the_medians_leave_what_is_fixed() -> None:
    points = build_histogram(PICTURE).points
    present = oklab_of_rgb(np.array([[255, 0, 255]], np.uint8))
    begun = oklab_of_rgb(reduce_picture(PICTURE, ReduceRecipe(colors=5)).rgb)
    found = search_medians(points.places, points.weights, begun, present)
    assert found.shape == (5, 3)
    assert [255, 0, 255] not in found.tolist()


def dark() -> np.ndarray:
    """Nearly black noise: few colors of 8 bits lie near it, so that steps often meet."""
    return opaque(np.random.default_rng(6).integers(0, 9, (33, 65, 3), dtype=np.uint8))


@pytest.mark.parametrize(
    ("picture", "told"),
    [
        (dark(), {"colors": 64, "dither": "stucki"}),
        (dark(), {"colors": 64, "dither": "atkinson", "search": "longer"}),
        (painted(40, 50), {"colors": 200, "dither": "checker", "accent": 50}),
        (PICTURE, {"colors": 11, "chooser": "channel-depth", "depth": "1-1-1"}),
        (PICTURE, {"colors": 20, "chooser": "best-of-list", "listed": LIST, "dither": "sierra"}),
    ],
    ids=["dark", "dark, longer", "checker", "a small grid", "most of a list"],
)
def test_no_color_is_lost_where_two_would_meet(picture: np.ndarray, told: dict[str, Any]) -> None:
    before, after = both(picture, [(47, 192, 197), (255, 255, 255)], **told)
    assert len(after.rgb) == len(before.rgb)
    assert len(np.unique(after.rgb, axis=0)) == len(after.rgb)
    assert after.rgb[:2].tolist() == before.rgb[:2].tolist()


@settings(max_examples=40, deadline=None, derandomize=True)
@given(data=st.data())
def test_any_recipe_for_any_picture_is_kept_to_and_never_worse(data: st.DataObject) -> None:
    draw = data.draw
    height, width = draw(st.sampled_from([(1, 1), (1, 60), (2, 2), (7, 90), (90, 7), (40, 50), (33, 65)]))
    random = np.random.default_rng(draw(st.integers(0, 99)))
    smooth = painted(max(height, 8), max(width, 8), draw(st.integers(0, 9)))[:height, :width]
    picture = np.ascontiguousarray(smooth) if draw(st.booleans()) else random.integers(0, 256, (height, width, 4), dtype=np.uint8)
    keep = [(int(row[0]), int(row[1]), int(row[2])) for row in random.integers(0, 256, (draw(st.integers(0, 3)), 3))]
    told = {
        "colors": draw(st.integers(1, 40)), "dither": draw(st.sampled_from(MIXING)), "strength": draw(st.sampled_from([1, 60, 100])),
        "chooser": draw(st.sampled_from(["perceptual", "median-cut", "channel-depth", "best-of-list", "most-used"])),
        "listed": LIST, "depth": draw(st.sampled_from(["1-1-1", "3-3-2", "2x3x4"])),
        "working": draw(st.sampled_from(["linear", "oklab"])), "flats": draw(st.sampled_from([0, 3])),
        "pair_limit": draw(st.sampled_from([0, 0.5, 30])), "distance": draw(st.integers(10, 200)),
        "tile": draw(st.sampled_from([None, {"width": 8, "height": 8, "colors": 2}, {"width": 256, "height": 3, "colors": 1}])),
        "alpha_threshold": draw(st.sampled_from([0, 1, 128, 255])), "flatten": draw(st.sampled_from([None, "#fff"])),
    }  # fmt: skip
    try:
        before, after = both(picture, keep, **told)
    except BadInput:
        return
    assert len(after.rgb) == len(before.rgb)
    assert after.transparent == before.transparent
    assert int(after.indices.max()) < len(after.rgb) + (after.transparent >= 0)
    assert set(keep) & set(map(tuple, before.rgb.tolist())) <= set(map(tuple, after.rgb.tolist()))
    assert after.figures.afar <= 1.02 * before.figures.afar + 0.02
