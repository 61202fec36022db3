"""Seen from afar: the figure, its map, and the piece that shows what a setting does."""

import numpy as np
import pytest
from scipy.ndimage import gaussian_filter

from huvren.core.color.spaces import convert
from huvren.core.reduction.afar import ARMS_LENGTH, distance_name, gaps_from_afar, mean_from_afar, sigma_of
from huvren.core.reduction.pieces import HEIGHT, WIDTH, telling_piece
from huvren.core.reduction.recipe import ReduceRecipe, say
from huvren.core.reduction.reduce import reduce_picture
from huvren.core.reduction.views import AFAR_WHITE_AT, afar_map
from tests.pictures import opaque, painted

RNG = np.random.default_rng(7)


def by_scipy(rgba: np.ndarray, indices: np.ndarray, rgb: np.ndarray, threshold: int, sigma: float) -> np.ndarray:
    """ΔEOK of both pictures blurred by SciPy, clear pixels and the outside left out of every mean."""
    cover = (rgba[..., 3] >= threshold).astype(float)
    weight = np.maximum(gaussian_filter(cover, sigma, mode="constant", truncate=3.0), 1e-12)
    seen = []
    for shown in (rgba[..., :3], rgb[indices]):
        light = convert(shown / 255, "srgb", "srgb-linear") * cover[..., None]
        blurred = [gaussian_filter(light[..., channel], sigma, mode="constant", truncate=3.0) / weight for channel in range(3)]
        seen.append(convert(np.stack(blurred, axis=-1), "srgb-linear", "oklab"))
    return np.asarray(np.linalg.norm(seen[0] - seen[1], axis=-1) * cover)


def test_every_second_pixel_of_every_second_row_is_what_it_is_among_all() -> None:
    for height, width in ((31, 47), (32, 46), (1, 9), (700, 33)):
        random = np.random.default_rng(height)
        rgba = random.integers(0, 256, (height, width, 4), dtype=np.uint8)
        indices, rgb = random.integers(0, 5, (height, width), dtype=np.uint8), random.integers(0, 256, (5, 3), dtype=np.uint8)
        for sigma in (0.6, 1.5, 4.0):
            every = gaps_from_afar(rgba, indices, rgb, 90, sigma)
            assert gaps_from_afar(rgba, indices, rgb, 90, sigma, 2) == pytest.approx(every[::2, ::2], abs=2e-6)


def test_the_mean_of_a_large_picture_is_that_of_all_its_pixels() -> None:
    rgba = painted(500, 600)
    made = reduce_picture(rgba, ReduceRecipe(colors=8, dither="floyd-steinberg", tune=False))
    every = float(gaps_from_afar(rgba, made.indices, made.rgb, 128, 1.5).mean()) * 100
    assert mean_from_afar(rgba, made.indices, made.rgb, 128, 1.5) == pytest.approx(every, rel=0.003)
    assert mean_from_afar(rgba, made.indices, made.rgb, 128, 0.5) == pytest.approx(
        float(gaps_from_afar(rgba, made.indices, made.rgb, 128, 0.5).mean()) * 100, rel=1e-6
    )


@pytest.mark.parametrize("sigma", [0.375, 1.0, 1.5, 3.0, 7.5])
@pytest.mark.parametrize("shape", [(96, 128), (1, 200), (200, 1), (600, 40), (1, 1)])
def test_the_figure_is_that_of_scipys_blur(shape: tuple[int, int], sigma: float) -> None:
    rgba = RNG.integers(0, 256, (*shape, 4), dtype=np.uint8)
    rgba[0, 0, 3] = 255
    rgb = RNG.integers(0, 256, (5, 3), dtype=np.uint8)
    indices = RNG.integers(0, 5, shape, dtype=np.uint8)
    wanted = by_scipy(rgba, indices, rgb, 100, sigma)
    # SciPy rounds the reach of its kernel, ours is rounded up; they agree where 3 σ is a whole number and a half.
    if abs(3 * sigma - round(3 * sigma)) < 1e-9 or int(3 * sigma + 0.5) == int(np.ceil(3 * sigma)):
        assert gaps_from_afar(rgba, indices, rgb, 100, sigma) == pytest.approx(wanted, abs=2e-5)
    pixels = int((rgba[..., 3] >= 100).sum())
    assert mean_from_afar(rgba, indices, rgb, 100, sigma) == pytest.approx(wanted.sum() / pixels * 100, rel=0.02, abs=1e-3)


def test_every_reduction_says_it_and_it_is_of_what_was_painted() -> None:
    rgba = painted()
    rgba[:20, :30, 3] = 0
    for recipe in (ReduceRecipe(colors=9), ReduceRecipe(colors=9, dither="ordered"), ReduceRecipe(colors=5, distance=80)):
        made = reduce_picture(rgba, recipe)
        rgb = np.concatenate([made.rgb, [[0, 0, 0]]]).astype(np.uint8)
        gaps = by_scipy(rgba, made.indices, rgb, 128, sigma_of(recipe.distance))
        assert made.figures.afar == pytest.approx(gaps.sum() / (rgba[..., 3] >= 128).sum() * 100, rel=1e-3)


def test_equal_pictures_have_no_difference_and_clear_ones_none_either() -> None:
    flat = np.zeros((9, 14, 4), np.uint8)
    flat[..., :3], flat[..., 3] = (30, 160, 90), 255
    rgb = np.array([[30, 160, 90]], np.uint8)
    assert mean_from_afar(flat, np.zeros((9, 14), np.uint8), rgb, 128, 1.5) == 0
    flat[..., 3] = 0
    assert mean_from_afar(flat, np.zeros((9, 14), np.uint8), np.array([[255, 0, 0]], np.uint8), 128, 1.5) == 0


def test_a_checker_of_two_colors_is_their_mixture_in_light_from_afar() -> None:
    indices = (np.indices((64, 64)).sum(axis=0) % 2).astype(np.uint8)
    gray = 188  # half of the light of white
    picture = opaque(np.full((64, 64, 3), gray, np.uint8))
    rgb = np.array([[0, 0, 0], [255, 255, 255]], np.uint8)
    near, far = (mean_from_afar(picture, indices, rgb, 128, sigma) for sigma in (0.375, 3.0))
    assert far < 0.5 < 10 < near


def test_the_map_is_white_from_its_limit_on_and_black_where_nothing_differs() -> None:
    rgba, indices = opaque(np.zeros((20, 60, 3), np.uint8)), np.zeros((20, 60), np.uint8)
    indices[:, 30:] = 1
    rgb = np.array([[0, 0, 0], [60, 60, 60]], np.uint8)
    shades = afar_map(rgba, indices, rgb, 128, 1.5)
    gaps = gaps_from_afar(rgba, indices, rgb, 128, 1.5) * 100
    assert (shades[:, :20] == 0).all()
    assert (shades[gaps >= AFAR_WHITE_AT] == 255).all()
    part = (gaps > 0) & (gaps < AFAR_WHITE_AT)
    assert shades[part] == pytest.approx(gaps[part] / AFAR_WHITE_AT * 255, abs=0.51)


def test_the_distance_is_said_where_it_is_not_the_usual_one() -> None:
    assert "seen" not in say(ReduceRecipe(dither="ordered"))
    assert say(ReduceRecipe(distance=80)).endswith("dithered not at all, seen from two steps back.")
    assert say(ReduceRecipe(distance=55)).endswith("seen from 55 pixels a degree.")
    assert (distance_name(ARMS_LENGTH), sigma_of(ARMS_LENGTH)) == ("arm's length", 1.5)


def test_a_telling_piece_lies_where_light_changes_softly() -> None:
    y, x = np.mgrid[0:300, 0:400]
    rgb = np.full((300, 400, 3), 128.0) + RNG.normal(0, 60, (300, 400, 1))
    rgb[160:, 220:] = ((x + y)[160:, 220:, None] - 380) * 0.9
    rows, columns = telling_piece(opaque(np.clip(rgb, 0, 255).astype(np.uint8)))
    assert (rows.stop - rows.start, columns.stop - columns.start) == (HEIGHT, WIDTH)
    assert rows.start >= 150
    assert columns.start >= 210
    small = telling_piece(opaque(np.zeros((5, 7, 3), np.uint8)))
    assert small == (slice(0, 5), slice(0, 7))
