"""The three steps of a reduction called apart: one choice of colors for several frames."""

import numpy as np
import pytest

from huvren.core.color.spaces import convert
from huvren.core.errors import BadInput
from huvren.core.reduction.histogram import build_histogram, unite
from huvren.core.reduction.recipe import ReduceRecipe
from huvren.core.reduction.reduce import choose, lay_out, prepare, reduce_picture
from huvren.core.reduction.weighing import RectangleMark
from tests.pictures import opaque, painted


def frames() -> list[np.ndarray]:
    return [painted(48, 64, seed=seed) for seed in (3, 4, 5)]


def test_frames_counted_together_are_one_picture_of_all_their_pixels() -> None:
    pictures = frames()
    pictures[1][:8] = 0
    together, stacked = unite([build_histogram(p) for p in pictures]), build_histogram(np.concatenate(pictures))
    for field in ("bits", "ranks", "colors", "counts", "oklab"):
        assert np.array_equal(getattr(together, field), getattr(stacked, field)), field
    assert (together.transparent, together.alpha_threshold) == (stacked.transparent, 128)


@pytest.mark.parametrize("recipe", [ReduceRecipe(colors=9), ReduceRecipe(colors=7, chooser="median-cut", accent=50, order="use")])
def test_the_colors_for_several_frames_are_those_of_all_their_pixels(recipe: ReduceRecipe) -> None:
    pictures = frames()
    chosen = choose(prepare(pictures, recipe), recipe, [(1, 2, 3)])
    whole = reduce_picture(np.concatenate(pictures), recipe, [(1, 2, 3)])
    assert np.array_equal(chosen.rgb, whole.rgb)
    prepared = prepare(pictures, recipe)
    laid = [lay_out(frame, chosen, recipe) for frame in prepared.frames]
    assert np.array_equal(np.concatenate([indices for indices, _, _ in laid]), whole.indices)
    assert np.mean([figures.mean for _, figures, _ in laid]) == pytest.approx(whole.figures.mean, rel=1e-5)


def test_each_frame_is_dithered_by_itself_with_the_shared_colors() -> None:
    recipe = ReduceRecipe(colors=6, dither="floyd-steinberg")
    pictures = frames()
    prepared = prepare(pictures, recipe)
    chosen = choose(prepared, recipe)
    fixed = [tuple(color) for color in chosen.rgb.tolist()]
    for frame, picture in zip(prepared.frames, pictures, strict=True):
        alone = reduce_picture(picture, recipe.model_copy(update={"chooser": "as-it-is"}), fixed)
        assert np.array_equal(lay_out(frame, chosen, recipe)[0], alone.indices)


def test_one_clear_frame_gives_all_of_them_a_transparent_index() -> None:
    pictures = frames()
    pictures[2][:4, :4, 3] = 0
    recipe = ReduceRecipe(colors=5)
    prepared = prepare(pictures, recipe)
    chosen = choose(prepared, recipe)
    assert (prepared.room, chosen.transparent, len(chosen.rgb)) == (4, 4, 4)
    clear = [int((lay_out(frame, chosen, recipe)[0] == 4).sum()) for frame in prepared.frames]
    assert clear == [0, 0, 16]


def test_marks_count_in_every_frame() -> None:
    left, right = np.zeros((20, 40, 3), np.uint8), np.zeros((20, 40, 3), np.uint8)
    left[:, :20], left[:, 20:] = (200, 30, 30), (30, 200, 30)
    right[:, :20], right[:, 20:] = (200, 60, 30), (30, 30, 200)
    only_left = ReduceRecipe(colors=2, marks=[RectangleMark(x=0.5, y=0, width=0.5, height=1, weight=0)])
    chosen = choose(prepare([opaque(left), opaque(right)], only_left), only_left)
    assert {tuple(color) for color in chosen.rgb.tolist()} == {(200, 30, 30), (200, 60, 30)}
    nothing = ReduceRecipe(colors=2, marks=[RectangleMark(x=0, y=0, width=1, height=1, weight=0)])
    assert "ignore the whole picture" in prepare([opaque(left)], nothing).notes[0]


def test_no_frame_is_told() -> None:
    with pytest.raises(BadInput, match="There is no picture to reduce"):
        prepare([], ReduceRecipe())


def test_a_histogram_of_another_threshold_is_counted_anew() -> None:
    half = painted(16, 16)
    half[..., 3] = 100
    recipe = ReduceRecipe(colors=4, alpha_threshold=50)
    assert prepare([half], recipe, [build_histogram(half, 128)]).histogram.transparent == 0
    over = ReduceRecipe(colors=4, flatten="#ff0000")
    flat = prepare([half], over, [build_histogram(half, 128)])
    assert flat.frames[0].rgba[..., 3].min() == 255
    assert convert(flat.frames[0].rgba[0, 0, :3] / 255, "srgb", "oklch")[0] > 0.4
