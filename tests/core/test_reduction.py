"""Reduction: properties that hold for any picture, quality against an independent library."""

import itertools

import numpy as np
import pytest
from PIL import Image
from sklearn.cluster import KMeans
from sklearn.datasets import load_sample_images

from huvren.core.color.difference import DELTA_SCALE
from huvren.core.color.spaces import convert
from huvren.core.errors import BadInput
from huvren.core.palette.values import Palette
from huvren.core.reduction.adopt import adopt, kept_colors
from huvren.core.reduction.dithers import DITHERS
from huvren.core.reduction.dithers.ordered import bayer
from huvren.core.reduction.histogram import MOST_EXACT, bin_colors, build_histogram, oklab_of_rgb
from huvren.core.reduction.nearest import CLOSE, nearest_centers
from huvren.core.reduction.recipe import ReduceRecipe, say
from huvren.core.reduction.reduce import Reduction, reduce_picture
from tests.pictures import opaque, painted

PICTURE = painted()


def painted_with(reduction: Reduction) -> np.ndarray:
    return reduction.rgb[reduction.indices]


def test_histogram_counts_what_numpy_counts() -> None:
    histogram = build_histogram(PICTURE)
    keys = PICTURE.reshape(-1, 4)[:, :3].astype(np.uint32) @ np.array([1, 256, 65536], dtype=np.uint32)
    colors, counts = np.unique(keys, return_counts=True)
    assert np.array_equal(histogram.colors, colors)
    assert np.array_equal(histogram.counts, counts)
    assert histogram.transparent == 0


def test_histogram_of_the_very_corners() -> None:
    corners = np.array(list(itertools.product((0, 255), repeat=3)), dtype=np.uint8)[None]
    histogram = build_histogram(opaque(corners))
    assert histogram.distinct == 8
    assert {tuple(c) for c in histogram.rgb().tolist()} == {tuple(c) for c in corners[0].tolist()}


def test_transparent_pixels_are_left_out_of_the_histogram() -> None:
    rgba = PICTURE.copy()
    rgba[:10, :, 3] = 127
    histogram = build_histogram(rgba, 128)
    assert histogram.transparent == 10 * rgba.shape[1]
    assert histogram.opaque + histogram.transparent == rgba.shape[0] * rgba.shape[1]


def test_binning_keeps_weight_and_mean() -> None:
    noise = opaque(np.random.default_rng(1).integers(0, 256, (200, 300, 3)).astype(np.uint8))
    histogram = build_histogram(noise)
    assert histogram.distinct > MOST_EXACT
    points = bin_colors(histogram)
    assert points.weights.sum() == pytest.approx(histogram.opaque)
    mean = (histogram.oklab * histogram.counts[:, None]).sum(axis=0) / histogram.opaque
    assert np.allclose((points.places * points.weights[:, None]).sum(axis=0) / points.weights.sum(), mean, atol=1e-5)
    assert np.linalg.norm(points.places[points.bin_of] - histogram.oklab, axis=1).max() < 1 / 160 * 3**0.5 + 1e-6


@pytest.mark.parametrize("count", [1, 2, 7, CLOSE, CLOSE + 1, 256])
def test_nearest_agrees_with_brute_force(count: int) -> None:
    random = np.random.default_rng(count)
    points = random.uniform(-0.2, 1, (5000, 3)).astype(np.float32)
    centers = random.uniform(0, 0.8, (count, 3)).astype(np.float32)
    labels, spans = nearest_centers(points, centers)
    gaps = np.linalg.norm(points[:, None].astype(float) - centers[None], axis=-1)
    assert np.allclose(spans, gaps.min(axis=1), atol=1e-6)
    assert np.allclose(gaps[np.arange(len(points)), labels], gaps.min(axis=1), atol=1e-6)


def test_doubled_centers_give_the_lower_index() -> None:
    labels, _ = nearest_centers(np.zeros((3, 3)), np.array([[1.0, 0, 0], [0, 0, 0], [0, 0, 0]]))
    assert labels.tolist() == [1, 1, 1]


@pytest.mark.parametrize("dither", DITHERS.ids())
@pytest.mark.parametrize("colors", [1, 2, 5, 16, 64, 256])
def test_never_more_than_asked_and_the_same_every_time(colors: int, dither: str) -> None:
    recipe = ReduceRecipe(colors=colors, dither=dither)
    first, second = reduce_picture(PICTURE, recipe), reduce_picture(PICTURE, recipe)
    assert len(first.rgb) <= colors
    assert int(first.indices.max()) < len(first.rgb)
    assert np.array_equal(first.indices, second.indices)
    assert np.array_equal(first.rgb, second.rgb)
    assert first.figures.counts.sum() == PICTURE.shape[0] * PICTURE.shape[1]


@pytest.mark.parametrize("dither", DITHERS.ids())
def test_reducing_the_result_again_changes_nothing(dither: str) -> None:
    once = reduce_picture(PICTURE, ReduceRecipe(colors=16, dither=dither))
    shown = opaque(painted_with(once))
    again = reduce_picture(shown, ReduceRecipe(colors=16, dither=dither))
    assert np.array_equal(painted_with(again), shown[..., :3])
    assert again.figures.max == 0


@pytest.mark.parametrize("dither", DITHERS.ids())
def test_few_colors_are_kept_exactly(dither: str) -> None:
    tones = np.array([[0, 0, 0], [1, 0, 0], [2, 1, 0], [255, 255, 255], [254, 255, 255], [10, 200, 30]], dtype=np.uint8)
    flat = opaque(tones[np.random.default_rng(5).integers(0, 6, (40, 50))])
    reduction = reduce_picture(flat, ReduceRecipe(colors=6, dither=dither))
    assert {tuple(c) for c in reduction.rgb.tolist()} == {tuple(c) for c in tones.tolist()}
    assert np.array_equal(painted_with(reduction), flat[..., :3])


def test_kept_colors_come_first_and_exact() -> None:
    keep = [(255, 0, 255), (1, 2, 3)]
    reduction = reduce_picture(PICTURE, ReduceRecipe(colors=8), keep)
    assert [tuple(c) for c in reduction.rgb[:2].tolist()] == keep
    assert len(reduction.rgb) == 8


def test_only_kept_colors_when_they_fill_the_count() -> None:
    reduction = reduce_picture(PICTURE, ReduceRecipe(colors=2), [(0, 0, 0), (255, 255, 255)])
    assert reduction.rgb.tolist() == [[0, 0, 0], [255, 255, 255]]


def test_more_locked_than_asked_is_said() -> None:
    with pytest.raises(BadInput, match=r"3 colors are locked, but 2 colors leave room for 2\. Unlock some"):
        reduce_picture(PICTURE, ReduceRecipe(colors=2), [(0, 0, 0), (1, 1, 1), (2, 2, 2)])


def test_a_palette_is_used_as_it_is() -> None:
    fixed = [(0, 0, 0), (255, 255, 255), (200, 100, 50)]
    reduction = reduce_picture(PICTURE, ReduceRecipe(chooser="as-it-is"), fixed)
    assert [tuple(c) for c in reduction.rgb.tolist()] == fixed
    oklab = convert(PICTURE[..., :3] / 255, "srgb", "oklab")
    gaps = np.linalg.norm(oklab[:, :, None] - convert(np.array(fixed) / 255, "srgb", "oklab")[None, None], axis=-1)
    assert np.array_equal(reduction.indices, gaps.argmin(axis=-1))


def test_undithered_pixels_take_the_nearest_color_and_figures_are_true() -> None:
    reduction = reduce_picture(PICTURE, ReduceRecipe(colors=24))
    oklab = convert(PICTURE[..., :3] / 255, "srgb", "oklab")
    gaps = np.linalg.norm(oklab[:, :, None] - convert(reduction.rgb / 255, "srgb", "oklab")[None, None], axis=-1) * DELTA_SCALE
    chosen = np.take_along_axis(gaps, reduction.indices[..., None].astype(int), axis=-1)[..., 0]
    assert np.allclose(chosen, gaps.min(axis=-1), atol=1e-3)
    assert reduction.figures.mean == pytest.approx(chosen.mean(), abs=1e-3)
    assert reduction.figures.max == pytest.approx(chosen.max(), abs=1e-3)
    assert reduction.figures.p95 == pytest.approx(np.percentile(chosen, 95), abs=0.02)
    assert reduction.figures.distinct == len(np.unique(PICTURE[..., :3].reshape(-1, 3), axis=0))


@pytest.mark.parametrize("colors", [8, 32, 128])
def test_quality_is_at_least_that_of_plain_k_means(colors: int) -> None:
    """scikit-learn's KMeans, one start, on every pixel in OKLab; the mean difference of both 8-bit results.

    One start of either is luck within a few percent on so small and noisy a picture; ./run bench holds the photographs to 1.00.
    """
    oklab = convert(PICTURE[..., :3].reshape(-1, 3) / 255, "srgb", "oklab")
    model = KMeans(colors, n_init=1, random_state=0).fit(oklab)
    centers = convert(np.rint(np.clip(convert(model.cluster_centers_, "oklab", "srgb"), 0, 1) * 255) / 255, "srgb", "oklab")
    theirs = np.linalg.norm(oklab[:, None] - centers[None], axis=-1).min(axis=1).mean() * DELTA_SCALE
    assert reduce_picture(PICTURE, ReduceRecipe(colors=colors)).figures.mean <= theirs * 1.02


def test_small_saturated_spots_survive_at_moderate_counts() -> None:
    flat = np.full((100, 100, 3), (120, 100, 90), np.uint8)
    flat += np.random.default_rng(0).integers(0, 20, flat.shape).astype(np.uint8)
    flat[50:53, 50:53] = (20, 60, 240)
    reduction = reduce_picture(opaque(flat), ReduceRecipe(colors=16))
    gaps = np.linalg.norm(oklab_of_rgb(reduction.rgb) - oklab_of_rgb(np.array([[20, 60, 240]], dtype=np.uint8)), axis=1)
    assert gaps.min() < 0.02


@pytest.mark.parametrize("dither", ["floyd-steinberg", "ordered"])
def test_dithers_keep_the_mean_light_of_a_gray(dither: str) -> None:
    gray = opaque(np.full((64, 64, 3), 110, np.uint8))
    reduction = reduce_picture(gray, ReduceRecipe(colors=2, dither=dither), [(0, 0, 0), (255, 255, 255)])
    wanted = convert([110 / 255] * 3, "srgb", "srgb-linear")[0]
    assert (reduction.indices == 1).mean() == pytest.approx(wanted, abs=0.02)


def test_dithers_bring_smooth_areas_nearer_from_afar() -> None:
    ramp = np.repeat(np.linspace(40, 220, 256)[None], 128, axis=0)
    picture = opaque(np.repeat(ramp[..., None], 3, axis=-1).astype(np.uint8))

    def afar(dither: str) -> float:
        reduction = reduce_picture(picture, ReduceRecipe(colors=4, dither=dither))

        def light(rgb: np.ndarray) -> np.ndarray:
            return convert(rgb / 255, "srgb", "srgb-linear").reshape(16, 8, 32, 8, 3).mean(axis=(1, 3))

        return float(np.abs(light(painted_with(reduction)) - light(picture[..., :3])).mean())

    for dither in ("floyd-steinberg", "ordered"):
        assert afar(dither) < afar("none") / 2


def test_strength_zero_is_no_dither() -> None:
    plain = reduce_picture(PICTURE, ReduceRecipe(colors=8)).indices
    for dither in ("floyd-steinberg", "ordered"):
        assert np.array_equal(reduce_picture(PICTURE, ReduceRecipe(colors=8, dither=dither, strength=0)).indices, plain)


def test_ordered_dither_is_stable_where_the_picture_is() -> None:
    """The same color at the same place of the matrix gives the same index, whatever surrounds it."""
    recipe = ReduceRecipe(colors=9, dither="ordered")
    fixed = [tuple(c) for c in reduce_picture(PICTURE, recipe).rgb.tolist()]
    painting = ReduceRecipe(chooser="as-it-is", dither="ordered")
    whole = reduce_picture(PICTURE, painting, fixed).indices
    part = reduce_picture(PICTURE[16:64, 24:88], painting, fixed).indices
    assert np.array_equal(part, whole[16:64, 24:88])


def test_bayer_matrix_is_the_published_one() -> None:
    """Bayer 1973: the 4×4 index matrix."""
    assert bayer(4).tolist() == [[0, 8, 2, 10], [12, 4, 14, 6], [3, 11, 1, 9], [15, 7, 13, 5]]
    assert sorted(bayer(8).ravel().tolist()) == list(range(64))


@pytest.mark.parametrize("dither", DITHERS.ids())
def test_transparency_takes_one_index_of_the_count(dither: str) -> None:
    rgba = PICTURE.copy()
    rgba[20:50, 20:70, 3] = 0
    reduction = reduce_picture(rgba, ReduceRecipe(colors=8, dither=dither))
    assert reduction.transparent == len(reduction.rgb) == 7
    assert np.array_equal(reduction.indices == reduction.transparent, rgba[..., 3] == 0)


def test_fully_transparent_single_pixel_and_one_color() -> None:
    clear = np.zeros((5, 4, 4), np.uint8)
    reduction = reduce_picture(clear, ReduceRecipe(colors=16, dither="floyd-steinberg"))
    assert (len(reduction.rgb), reduction.transparent, reduction.figures.mean) == (0, 0, 0)
    dot = reduce_picture(np.array([[[7, 8, 9, 255]]], np.uint8), ReduceRecipe(colors=2, dither="ordered"))
    assert dot.rgb.tolist() == [[7, 8, 9]]
    half = PICTURE.copy()
    half[:30, :, 3] = 0
    single = reduce_picture(half, ReduceRecipe(colors=1))
    assert len(single.rgb) == 1
    assert "leaves no index for transparency" in single.notes[0]


def test_gray_pictures_get_gray_colors() -> None:
    gray = np.repeat(np.random.default_rng(2).integers(0, 256, (60, 60, 1)), 3, axis=-1).astype(np.uint8)
    rgb = reduce_picture(opaque(gray), ReduceRecipe(colors=12)).rgb.astype(int)
    assert (rgb.max(axis=1) - rgb.min(axis=1)).max() <= 1


def test_empty_pictures_are_refused() -> None:
    with pytest.raises(BadInput, match="The picture has no pixels"):
        reduce_picture(np.zeros((0, 4, 4), np.uint8), ReduceRecipe())


def test_adopting_keeps_who_swatches_are() -> None:
    twelve, fourteen = ReduceRecipe(colors=12), ReduceRecipe(colors=14)
    first = adopt(Palette("P"), reduce_picture(PICTURE, twelve), twelve, "one")
    assert len({swatch.id for swatch in first.palette.swatches}) == 12
    again = adopt(first.palette, reduce_picture(PICTURE, twelve), twelve, "two")
    assert again.palette == first.palette
    more = adopt(first.palette, reduce_picture(PICTURE, fourteen), fourteen, "three")
    shared = {s.id for s in first.palette.swatches} & {s.id for s in more.palette.swatches}
    assert len(shared) >= 4
    assert set(more.table) == {swatch.id for swatch in more.palette.swatches}


def test_adopting_keeps_locked_swatches_whole() -> None:
    ten, five = ReduceRecipe(colors=10), ReduceRecipe(colors=5)
    first = adopt(Palette("P"), reduce_picture(PICTURE, ten), ten, "one").palette
    locked = first.change(first.swatches[3].id, locked=True, name="Keep me")
    reduction = reduce_picture(PICTURE, five, kept_colors(locked, five))
    after = adopt(locked, reduction, five, "two").palette
    assert locked.swatches[3] in after.swatches
    assert len(after.swatches) == 5


def test_the_sentence_says_the_recipe() -> None:
    assert say(ReduceRecipe(colors=24), 3) == (
        "Reduce to 24 colors chosen by perceptual split, keeping 3 locked, dithered not at all."
    )
    assert say(ReduceRecipe(colors=1, dither="ordered", strength=40)) == (
        "Reduce to 1 color chosen by perceptual split, dithered ordered 8×8 at 40 %, colors tuned to it."
    )


def test_bad_recipes_are_told_the_choices() -> None:
    with pytest.raises(ValueError, match="There is no dither “snow”"):
        ReduceRecipe(dither="snow")
    with pytest.raises(ValueError, match="less than or equal to 256"):
        ReduceRecipe(colors=257)


@pytest.mark.parametrize("photograph", [0, 1])
@pytest.mark.parametrize("colors", [16, 64, 256])
def test_error_diffusion_looks_closer_from_afar_than_an_independent_one(photograph: int, colors: int) -> None:
    """The same palette, 8×8 pixels averaged in linear light, ΔE in OKLab: Pillow's diffuses in plain RGB."""
    picture = opaque(np.asarray(load_sample_images().images[photograph])[:424, :640])
    reduction = reduce_picture(picture, ReduceRecipe(colors=colors, dither="floyd-steinberg"))
    holder = Image.new("P", (1, 1))
    holder.putpalette(reduction.rgb.ravel().tolist())
    theirs = Image.fromarray(picture[..., :3]).quantize(palette=holder, dither=Image.Dither.FLOYDSTEINBERG).convert("RGB")

    def afar(rgb: np.ndarray) -> np.ndarray:
        light = convert(rgb / 255, "srgb", "srgb-linear").reshape(53, 8, 80, 8, 3).mean(axis=(1, 3))
        return convert(light, "srgb-linear", "oklab")

    wanted = afar(picture[..., :3])
    ours = np.linalg.norm(afar(painted_with(reduction)) - wanted, axis=-1).mean()
    assert ours <= np.linalg.norm(afar(np.array(theirs)) - wanted, axis=-1).mean()
