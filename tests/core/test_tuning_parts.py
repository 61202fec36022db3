"""What tuning is made of: the sample, the equations, the grid and the model of mixtures."""

import itertools

import numpy as np
import pytest
from scipy.ndimage import gaussian_filter

from huvren.core.color.spaces import convert
from huvren.core.reduction.grain import Term
from huvren.core.reduction.histogram import LINEAR_OF_BYTE, build_histogram
from huvren.core.reduction.recipe import ReduceRecipe
from huvren.core.reduction.reduce import prepare, reduce_picture
from huvren.core.reduction.tuning.equations import gather, solve
from huvren.core.reduction.tuning.grid import levels_of, onto_grid
from huvren.core.reduction.tuning.mixing import mixing_error, pick_greedily, swap_by_model, wants_of
from huvren.core.reduction.tuning.sample import Sample, take_sample
from tests.pictures import opaque, painted

PICTURE = painted()
LIST = [f"#{r:02x}{g:02x}{b:02x}" for r in (0, 128, 255) for g in (0, 128, 255) for b in (0, 128, 255)]


def whole(rgba: np.ndarray, sigma: float = 1.5) -> Sample:
    histogram = build_histogram(rgba)
    frame = prepare([rgba], ReduceRecipe()).frames[0]
    return take_sample([frame], histogram, np.ones(histogram.distinct, np.float32), [Term(sigma, 1.0)], rgba.size)


def test_the_equations_give_back_the_colors_a_picture_was_painted_with() -> None:
    random = np.random.default_rng(11)
    truth = random.integers(10, 245, (5, 3), dtype=np.uint8)
    indices = random.integers(0, 5, (60, 80), dtype=np.uint8)
    sample = whole(opaque(truth[indices]))
    begun = np.clip(truth.astype(int) + random.integers(-40, 41, truth.shape), 0, 255).astype(np.uint8)
    begun[0] = truth[0]
    equations = gather(sample, indices, begun)
    assert solve(equations, begun, 1) == pytest.approx(LINEAR_OF_BYTE[truth], abs=2e-3)
    assert gather(sample, indices, truth).error < 1e-4 < equations.error


def test_the_error_of_a_sample_is_that_of_scipys_blur() -> None:
    picture, recipe = PICTURE, ReduceRecipe(colors=6, dither="floyd-steinberg", tune=False)
    made = reduce_picture(picture, recipe)
    sample = whole(picture)
    seen = []
    for shown in (picture[..., :3], made.rgb[made.indices]):
        light = convert(shown / 255, "srgb", "srgb-linear")
        cover = gaussian_filter(np.ones(light.shape[:2]), 1.5, mode="constant", truncate=8 / 3)
        blurred = [gaussian_filter(light[..., axis], 1.5, mode="constant", truncate=8 / 3) / cover for axis in range(3)]
        seen.append(convert(np.stack(blurred, axis=-1), "srgb-linear", "oklab"))
    wanted = np.linalg.norm(seen[0] - seen[1], axis=-1)[sample.views[0].ys, sample.views[0].xs].mean()
    assert gather(sample, made.indices, made.rgb).error == pytest.approx(wanted, rel=2e-3)


def test_the_grid_is_stepped_along_until_no_single_step_helps() -> None:
    made = reduce_picture(
        PICTURE, ReduceRecipe(colors=6, dither="floyd-steinberg", chooser="channel-depth", depth="3-3-2", tune=False)
    )
    equations = gather(whole(PICTURE), made.indices, made.rgb)
    found = onto_grid(equations, solve(equations, made.rgb, 1), made.rgb, 1, (8, 8, 4))
    matrix, right = equations.matrix.reshape(18, 18), equations.right.reshape(-1)

    def cost(rgb: np.ndarray) -> float:
        light = LINEAR_OF_BYTE[rgb].astype(float).reshape(-1)
        return float(light @ matrix @ light - 2 * right @ light)

    assert cost(found) <= cost(made.rgb)
    assert found[0].tolist() == made.rgb[0].tolist()
    levels = levels_of((8, 8, 4))
    for row, channel in itertools.product(range(1, 6), range(3)):
        place = int(np.searchsorted(levels[channel], found[row, channel]))
        for other in (place - 1, place + 1):
            if 0 <= other < len(levels[channel]):
                moved = found.copy()
                moved[row, channel] = levels[channel][other]
                if len(np.unique(moved, axis=0)) == 6:
                    assert cost(moved) >= cost(found) - 1e-6


def test_the_model_knows_that_the_corners_of_the_cube_mix_everything() -> None:
    wants = wants_of(whole(PICTURE), 200)
    corners = np.array(list(itertools.product((0.0, 1.0), repeat=3)))
    assert mixing_error(wants, corners, grain=0.0) < 2e-3
    assert mixing_error(wants, corners) > 0.01
    errors = [mixing_error(wants, corners[pick_greedily(wants, corners, 0, count)]) for count in (2, 4, 6, 8)]
    assert errors == sorted(errors, reverse=True)


def test_swaps_by_the_model_never_raise_its_error_and_keep_what_is_present() -> None:
    wants = wants_of(whole(PICTURE), 200)
    colors = LINEAR_OF_BYTE[np.array([[int(text[at : at + 2], 16) for at in (1, 3, 5)] for text in LIST])].astype(float)
    chosen = [0, 1, 2, 3, 4]
    after = swap_by_model(wants, colors, chosen, 2)
    assert after[:2] == [0, 1]
    assert len(set(after)) == 5
    assert mixing_error(wants, colors[after]) < mixing_error(wants, colors[chosen])


@pytest.mark.parametrize(("shape", "tile"), [((900, 1300), (1, 1)), ((40, 5000), (8, 8)), ((3000, 20), (16, 24)), ((33, 33), (7, 5))])
def test_a_sample_is_made_of_whole_blocks_of_the_picture(shape: tuple[int, int], tile: tuple[int, int]) -> None:
    random = np.random.default_rng(4)
    rgba = random.integers(0, 256, (*shape, 4), dtype=np.uint8)
    rgba[..., 3] = 255
    frame = prepare([rgba], ReduceRecipe()).frames[0]
    sample = take_sample([frame], frame.histogram, np.ones(frame.histogram.distinct, np.float32), [Term(1.5, 1.0)], 20_000, tile)
    assert sample.is_whole == (shape[0] * shape[1] <= 20_000)
    opaque_pixels = int((sample.rgba[..., 3] == 255).sum())
    assert min(9_000, shape[0] * shape[1] // 2) <= opaque_pixels <= 22_000
    known = set(frame.histogram.colors.tolist())
    assert set(sample.histogram.colors.tolist()) <= known


@pytest.mark.parametrize("picture", [opaque(np.random.default_rng(6).integers(0, 9, (33, 65, 3), dtype=np.uint8)), painted(40, 50)])
def test_the_medians_never_end_worse_in_8_bits_and_lose_no_color(picture: np.ndarray) -> None:
    recipe = ReduceRecipe(colors=48)
    usual, longer = reduce_picture(picture, recipe), reduce_picture(picture, recipe.model_copy(update={"search": "longer"}))
    assert longer.figures.mean <= usual.figures.mean + 1e-6
    assert len(longer.rgb) == len(usual.rgb) == 48
