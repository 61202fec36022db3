"""Pictures at another size: means of areas in linear light, against the sum written out, and what they leave as it is."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from huvren.core.color.spaces import convert
from huvren.core.pictures import scale_down
from huvren.core.scaling import scaled
from tests.pictures import opaque, painted

RANDOM = np.random.default_rng(5)


def overlaps(count: int, size: int, first: float, last: float) -> np.ndarray:
    """(count, size) how much of each old pixel lies under each new one."""
    edges = first + np.arange(count + 1) * (last - first) / count
    low, high = np.maximum(edges[:-1, None], np.arange(size)), np.minimum(edges[1:, None], np.arange(size) + 1)
    return np.maximum(high - low, 0)


def by_the_book(rgba: np.ndarray, width: int, height: int, box: tuple[float, float, float, float]) -> np.ndarray:
    """(h, w, 4) sRGB 0..255 and no rounding: areas of premultiplied light as two products of matrices."""
    left, top, right, bottom = box
    covered = rgba[..., 3:] / 255.0
    light = np.concatenate([convert(rgba[..., :3] / 255, "srgb", "srgb-linear") * covered, covered], axis=-1)
    down, across = overlaps(height, rgba.shape[0], top, bottom), overlaps(width, rgba.shape[1], left, right)
    sums = np.einsum("yr,rcn,xc->yxn", down, light, across)
    alpha = sums[..., 3:]
    rgb = convert(np.divide(sums[..., :3], alpha, out=np.zeros_like(sums[..., :3]), where=alpha > 0), "srgb-linear", "srgb")
    full = (right - left) / width * (bottom - top) / height
    return np.concatenate([rgb, np.minimum(alpha / full, 1)], axis=-1) * 255


@settings(max_examples=150, deadline=None)
@given(st.tuples(*[st.integers(1, 23)] * 4), st.tuples(*[st.floats(-3, 30)] * 4), st.integers(0, 2**32), st.booleans())
def test_each_new_pixel_is_the_mean_of_its_area(
    sizes: tuple[int, int, int, int], places: tuple[float, float, float, float], seed: int, is_opaque: bool
) -> None:
    rgba = np.random.default_rng(seed).integers(0, 256, (sizes[0], sizes[1], 4), dtype=np.uint8)
    if is_opaque:
        rgba[..., 3] = 255
    left, right = sorted((places[0], places[1]))
    top, bottom = sorted((places[2], places[3]))
    if right - left < 0.1 or bottom - top < 0.1:
        return
    box = (left, top, right, bottom)
    found, wanted = scaled(rgba, sizes[2], sizes[3], box), by_the_book(rgba, sizes[2], sizes[3], box)
    assert np.abs(found[..., 3] - wanted[..., 3]).max() <= 0.5 + 1e-6
    # Where hardly anything is covered, what is there is hardly known.
    shown = wanted[..., 3] > 1e-6
    assert np.abs(found[shown] - wanted[shown]).max(initial=0) <= 0.5 + 1e-5


def test_at_its_own_size_and_at_whole_steps_pixels_stay() -> None:
    rgba = RANDOM.integers(0, 256, (9, 14, 4), dtype=np.uint8)
    rgba[..., 3] = np.maximum(rgba[..., 3], 1)
    assert np.array_equal(scaled(rgba, 14, 9), rgba)
    assert np.array_equal(scaled(rgba, 42, 27), rgba.repeat(3, axis=0).repeat(3, axis=1))
    assert np.array_equal(scaled(rgba, 5, 4, (3, 2, 8, 6)), rgba[2:6, 3:8])
    assert np.array_equal(scaled(np.asfortranarray(rgba), 14, 9), rgba)


def test_half_black_and_half_white_is_half_the_light() -> None:
    board = opaque(np.where(np.indices((64, 64)).sum(axis=0)[..., None] % 2, 255, 0).astype(np.uint8).repeat(3, axis=-1))
    assert (scaled(board, 32, 32)[..., :3] == 188).all()
    assert (scaled(board, 1, 1) == [188, 188, 188, 255]).all()
    half_clear = board.copy()
    half_clear[board[..., 0] == 0] = 0
    assert (scaled(half_clear, 8, 8) == [255, 255, 255, 128]).all()
    assert (scaled(np.zeros((6, 6, 4), np.uint8), 2, 2) == 0).all()
    assert (scaled(board, 4, 4, (64, 0, 80, 16)) == 0).all(), "beyond the picture"


@pytest.mark.parametrize("is_opaque", [True, False])
def test_scaled_down_copies_have_the_size_that_was_asked_for(is_opaque: bool) -> None:
    wide = painted(70, 110)
    if not is_opaque:
        wide[::3, :, 3] = 90
    for most in (1, 77, 5_000):
        factor = (most / (70 * 110)) ** 0.5
        width, height = max(1, int(110 * factor)), max(1, int(70 * factor))
        wanted = by_the_book(wide, width, height, (0, 0, 110, 70))
        assert np.abs(scale_down(wide, most) - wanted).max() <= 0.5 + 1e-5
    assert scale_down(wide, 70 * 110) is wide
