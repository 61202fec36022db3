"""Choosers, weights, metrics, dithers, tile limits and the error curve: against published tables, brute force and by hand."""

import itertools
import tracemalloc
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numba import njit

from huvren.core.color.difference import ciede2000
from huvren.core.color.kernels import linear_to_rough_oklab32
from huvren.core.color.spaces import convert
from huvren.core.errors import BadInput, Cancelled
from huvren.core.palette.values import Palette
from huvren.core.reduction.adopt import Adopted, adopt
from huvren.core.reduction.choosers import CHOOSERS, best_of_list
from huvren.core.reduction.choosers.channel_depth import snap
from huvren.core.reduction.choosing import choose_colors
from huvren.core.reduction.curve import error_curve, knee_of
from huvren.core.reduction.depth import parse_depth
from huvren.core.reduction.dithers import DITHERS, Target
from huvren.core.reduction.dithers import floyd_steinberg as fs
from huvren.core.reduction.dithers.blue_noise import tile as blue_noise_tile
from huvren.core.reduction.dithers.clustered_dot import dots
from huvren.core.reduction.dithers.diffusion import Kernel, carrying_range, carrying_reach, diffuse, grid_for
from huvren.core.reduction.dithers.kernels import KERNELS
from huvren.core.reduction.dithers.near_colors import GRID, PARTS, Grid, exact, grid_of_light, grid_of_oklab, near_table
from huvren.core.reduction.dithers.row_by_row import ROWS, rough_oklab
from huvren.core.reduction.histogram import LINEAR_OF_BYTE, build_histogram, oklab_of_rgb
from huvren.core.reduction.metrics import METRICS
from huvren.core.reduction.nearest import nearest_centers
from huvren.core.reduction.recipe import ReduceRecipe, TileLimit, say
from huvren.core.reduction.reduce import flatten_over, reduce_picture
from huvren.core.reduction.tiles import limit_tiles
from huvren.core.reduction.weighing import BrushMark, RectangleMark, draw_mask, protect_accents
from huvren.demo.plates import plate_lamplight
from tests.pictures import opaque, painted
from tools.blue_noise import make_tile

PICTURE = painted()
LIST = ["#102030", "#405060", "#c86428", "#f0d090", "#ffffff", "#7a1e5a"]


def rgb_of(codes: list[str]) -> set[tuple[int, ...]]:
    return {tuple(bytes.fromhex(code[1:])) for code in codes}


def as_set(rgb: np.ndarray) -> set[tuple[int, ...]]:
    return {tuple(color) for color in rgb.tolist()}


# Choosing


@pytest.mark.parametrize("chooser", [c.id for c in CHOOSERS if not c.sets_count])
@pytest.mark.parametrize("colors", [2, 5, 16])
def test_every_chooser_keeps_to_the_count_and_to_what_is_locked(chooser: str, colors: int) -> None:
    listed = [f"#{n * 9:02x}{255 - n * 7:02x}{n * 23 % 256:02x}" for n in range(28)]
    recipe = ReduceRecipe(colors=colors, chooser=chooser, listed=listed)
    once = reduce_picture(PICTURE, recipe, [(255, 0, 255)])
    assert len(once.rgb) <= colors
    assert tuple(once.rgb[0]) == (255, 0, 255)
    assert len(as_set(once.rgb)) == len(once.rgb)
    again = reduce_picture(PICTURE, recipe, [(255, 0, 255)])
    assert np.array_equal(once.indices, again.indices)


def test_most_used_are_the_exact_heaviest() -> None:
    tones = np.array([(200, 60, 20), (10, 20, 30), (90, 90, 91), (0, 255, 0)], np.uint8)
    flat = opaque(np.repeat(tones, [40, 30, 20, 10], axis=0).reshape(10, 10, 3))
    assert as_set(reduce_picture(flat, ReduceRecipe(colors=3, chooser="most-used")).rgb) == as_set(tones[:3])


def test_most_different_keeps_the_rare_accent_that_others_lose() -> None:
    x = np.arange(80)
    glow = opaque(np.stack([100 + x, 80 + x, 60 + x], axis=-1)[None].repeat(60, axis=0).astype(np.uint8))
    glow[30:32, 40:42, :3] = (20, 90, 240)
    assert (20, 90, 240) in as_set(reduce_picture(glow, ReduceRecipe(colors=3, chooser="most-different")).rgb)
    assert (20, 90, 240) not in as_set(reduce_picture(glow, ReduceRecipe(colors=3, chooser="median-cut")).rgb)


def test_median_cut_halves_the_pixels() -> None:
    ladder = opaque(np.arange(64, dtype=np.uint8).reshape(8, 8)[..., None].repeat(3, axis=2))
    rgb = reduce_picture(ladder, ReduceRecipe(colors=4, chooser="median-cut")).rgb
    assert [int(v) for v in rgb[:, 0]] == [8, 24, 40, 56], "four boxes of sixteen grays, their means rounded"


def test_own_colors_are_all_or_nothing() -> None:
    few = opaque(np.arange(75, dtype=np.uint8).reshape(5, 5, 3))
    own = reduce_picture(few, ReduceRecipe(colors=2, chooser="own"))
    assert np.array_equal(own.rgb[own.indices], few[..., :3])
    with pytest.raises(BadInput, match="colors of its own, and an indexed picture holds 256"):
        reduce_picture(PICTURE, ReduceRecipe(chooser="own"))


def test_fixed_lists_are_used_whole_and_empty_ones_refused() -> None:
    reduced = reduce_picture(PICTURE, ReduceRecipe(colors=2, chooser="fixed-list", listed=LIST))
    assert as_set(reduced.rgb) == rgb_of(LIST)
    with pytest.raises(BadInput, match="The list holds no color"):
        reduce_picture(PICTURE, ReduceRecipe(chooser="fixed-list"))
    with pytest.raises(BadInput, match="The list has 6 colors, but 7 are to be picked from it"):
        reduce_picture(PICTURE, ReduceRecipe(colors=7, chooser="best-of-list", listed=LIST))
    with pytest.raises(ValueError, match="“mud” is no color"):
        ReduceRecipe(listed=["mud"])


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10_000), st.integers(1, 4))
def test_the_best_of_a_list_is_that_of_brute_force(seed: int, count: int) -> None:
    random = np.random.default_rng(seed)
    gaps, weights = random.random((30, 8)), random.random(30)
    base = np.full(30, 1e3)

    def error(columns: tuple[int, ...] | list[int]) -> float:
        return float((weights * gaps[:, list(columns)].min(axis=1)).sum())

    best = min(error(columns) for columns in itertools.combinations(range(8), count))
    assert error(best_of_list.pick(gaps, base, weights, count)) == pytest.approx(best)
    swapped = best_of_list._search(gaps, base, weights, count)
    assert best - 1e-9 <= error(swapped) <= best * 1.1
    for place, other in itertools.product(range(count), range(8)):
        if other not in swapped:
            assert error([*swapped[:place], other, *swapped[place + 1 :]]) >= error(swapped) - 1e-9


def test_best_of_a_list_serves_this_picture() -> None:
    recipe = ReduceRecipe(colors=3, chooser="best-of-list", listed=LIST)
    chosen = reduce_picture(PICTURE, recipe).figures.mean
    for three in itertools.combinations(LIST, 3):
        fixed = reduce_picture(PICTURE, ReduceRecipe(chooser="fixed-list", listed=list(three)))
        assert chosen <= fixed.figures.mean + 0.02


@pytest.mark.parametrize(
    ("text", "levels"), [("3-3-2", (8, 8, 4)), ("5-6-5", (32, 64, 32)), ("6x6x6", (6, 6, 6)), ("2×3×4", (2, 3, 4))]
)
def test_channel_depth_stays_on_its_lattice(text: str, levels: tuple[int, int, int]) -> None:
    assert parse_depth(text) == levels
    reduced = reduce_picture(PICTURE, ReduceRecipe(colors=16, chooser="channel-depth", depth=text))
    assert np.array_equal(snap(reduced.rgb, levels), reduced.rgb)
    assert set(np.unique(snap(np.arange(256, dtype=np.uint8)[:, None].repeat(3, axis=1), levels)[:, 0])) == {
        round(255 * step / (levels[0] - 1)) for step in range(levels[0])
    }


def test_bad_depths_are_told() -> None:
    for text in ("9-9-9", "565", "1x2x3", "300x2x2"):
        with pytest.raises(ValueError, match="is no channel depth"):
            ReduceRecipe(depth=text)


# Weights


def test_eye_spots_survive_with_protection_and_are_lost_without() -> None:
    plate = opaque(plate_lamplight())

    def nearest_to_spot(accent: int) -> float:
        rgb = reduce_picture(plate, ReduceRecipe(colors=12, accent=accent)).rgb
        return float(np.linalg.norm(oklab_of_rgb(rgb) - oklab_of_rgb(np.array([[232, 84, 33]], np.uint8)), axis=1).min()) * 100

    assert nearest_to_spot(0) > 10
    assert nearest_to_spot(70) < 4


def test_protection_only_adds_weight_to_small_vivid_areas() -> None:
    places = np.array([[0.5, 0.2, 0.1], [0.5, 0.0, 0.0], [0.7, 0.15, 0.12]], np.float32)
    weights = np.array([1, 99, 900], np.float32)
    protected = protect_accents(places, weights, 1.0)
    assert protected[0] == pytest.approx(20, rel=1e-3), "as if it were 2 % of all"
    assert list(protected[1:]) == [99, 900]
    assert protect_accents(places, weights, 0) is weights


def test_marks_are_drawn_as_they_say() -> None:
    mask = draw_mask(
        [RectangleMark(x=0.5, y=0, width=0.5, height=0.5, weight=4), RectangleMark(x=0, y=0.5, width=1, height=0.5, weight=0)], 8, 4
    )
    assert mask.tolist() == [[16] * 4 + [64] * 4] * 2 + [[0] * 8] * 2
    soft = draw_mask([BrushMark(points=[(0.5, 0.5)], radius=0.25, weight=8)], 101, 101)
    assert soft[50, 50] == 128
    assert soft[50, 0] == 16
    assert 16 < soft[50, 29] < 128
    assert draw_mask([], 4000, 1000).shape == (128, 512)


def test_ignored_parts_get_no_color_and_heavy_ones_more() -> None:
    halves = opaque(np.zeros((40, 80, 3), np.uint8))
    halves[:, :40, :3] = np.random.default_rng(0).integers(0, 60, (40, 40, 3))
    halves[:, 40:, :3] = np.random.default_rng(1).integers(190, 255, (40, 40, 3))
    left = RectangleMark(x=0, y=0, width=0.5, height=1, weight=0)
    dark = [int((reduce_picture(halves, ReduceRecipe(colors=8, marks=marks)).rgb.max(axis=1) < 100).sum())
            for marks in ([left], [], [left.model_copy(update={"weight": 8.0})])]  # fmt: skip
    assert dark[0] == 0
    assert 0 < dark[1] < dark[2]
    everything = RectangleMark(x=0, y=0, width=1, height=1, weight=0)
    assert "ignore the whole picture" in reduce_picture(halves, ReduceRecipe(colors=4, marks=[everything])).notes[0]


def test_solid_black_and_white_and_a_ground_for_clear_pixels() -> None:
    solid = reduce_picture(PICTURE, ReduceRecipe(colors=6, solid=["black", "white"]))
    assert {(0, 0, 0), (255, 255, 255)} <= as_set(solid.rgb)
    clear = np.zeros((2, 3, 4), np.uint8)
    clear[..., :3] = 200
    clear[0, :, 3] = (0, 128, 255)
    flat = flatten_over(clear, "#ffffff")
    assert [tuple(c) for c in flat[0].tolist()] == [(255, 255, 255, 255), (230, 230, 230, 255), (200, 200, 200, 255)]
    reduced = reduce_picture(clear, ReduceRecipe(colors=4, flatten="white"))
    assert reduced.transparent == -1
    assert (255, 255, 255) in as_set(reduced.rgb)


def test_the_strip_can_be_ordered() -> None:
    def ordered(picture: np.ndarray, palette: Palette, **settings: Any) -> Adopted:
        recipe = ReduceRecipe(**settings)
        return adopt(palette, reduce_picture(picture, recipe), recipe, "s")

    by_use = ordered(PICTURE, Palette("P"), colors=9, order="use")
    counts = reduce_picture(PICTURE, ReduceRecipe(colors=9)).figures.counts
    share = {swatch_id: int(counts[index]) for index, swatch_id in enumerate(by_use.table)}
    assert [share[s.id] for s in by_use.palette.swatches] == sorted(share.values(), reverse=True)
    shuffled = Palette("P", tuple(reversed(by_use.palette.swatches)))
    same = ordered(PICTURE, shuffled, colors=9, order="same")
    assert [s.id for s in same.palette.swatches] == [s.id for s in shuffled.swatches]
    hues = [np.degrees(np.arctan2(s.color.oklab[2], s.color.oklab[1])) % 360 // 30
            for s in ordered(PICTURE, Palette("P"), colors=12, order="hue").palette.swatches
            if np.hypot(*s.color.oklab[1:]) >= 0.02]  # fmt: skip
    assert hues == sorted(hues)
    stripes = opaque(np.repeat(np.array([[200, 30, 30], [10, 10, 10], [250, 250, 250], [90, 140, 60]], np.uint8), 5, axis=0)[None])
    first = ordered(stripes, Palette("P"), chooser="own", order="appearance").palette
    assert [s.color.hex for s in first.swatches] == ["#c81e1e", "#0a0a0a", "#fafafa", "#5a8c3c"]


# Metrics


@pytest.mark.parametrize("metric", METRICS.ids())
def test_the_nearest_color_is_that_of_brute_force(metric: str) -> None:
    rgb = np.random.default_rng(3).integers(0, 256, (20, 3)).astype(np.uint8)
    histogram = build_histogram(PICTURE[::4, ::4])
    nearest, spans = METRICS[metric].nearest(histogram, rgb, oklab_of_rgb(rgb))
    colors = histogram.rgb()
    if metric == "ciede2000":
        lab, own = convert(colors / 255, "srgb", "lab-d65"), convert(rgb / 255, "srgb", "lab-d65")
        gaps = ciede2000(lab[:, None], own[None])
    else:
        spaces = {"oklab": "oklab", "srgb": "srgb", "srgb-linear": "srgb-linear"}
        gaps = np.linalg.norm(
            convert(colors / 255, "srgb", spaces[metric])[:, None] - convert(rgb / 255, "srgb", spaces[metric])[None], axis=-1
        )
    chosen = gaps[np.arange(len(gaps)), nearest]
    assert np.allclose(chosen, gaps.min(axis=1), atol=1e-5)
    assert np.allclose(spans, np.linalg.norm(histogram.oklab - oklab_of_rgb(rgb)[nearest], axis=1), atol=1e-5)


# Dithers


def target_of(rgba: np.ndarray, rgb: np.ndarray, **more: object) -> Target:
    histogram = build_histogram(rgba)
    oklab = oklab_of_rgb(rgb)
    return Target(rgba, histogram, rgb, oklab, nearest_centers(histogram.oklab, oklab)[0], -1, 1.0, **more)  # type: ignore[arg-type]


BLACK_WHITE = np.array([[0, 0, 0], [255, 255, 255]], np.uint8)


def by_hand(rgba: np.ndarray, kernel: Kernel, divisor: int, serpentine: bool, working: str) -> np.ndarray:
    """Error diffusion between black and white as it is published, pixel by pixel in Python; to and fro four rows by four.

    The nearer of the two is looked up for the middle of a grid cell, as the loop does.
    """
    target = target_of(rgba, BLACK_WHITE, working=working)
    light = LINEAR_OF_BYTE[np.arange(256, dtype=np.uint8)[:, None].repeat(3, axis=1)]
    reach = carrying_reach(target)
    grid, values = (grid_for(target, reach), rough_oklab(light)) if working == "oklab" else (grid_of_light(), light)
    ranges = carrying_range(target)[:, 1:] if working == "linear" else values[:, :1] + np.array([-1, 1]) * reach[0]
    palette = values[[0, 255], 0]
    height, width = rgba.shape[:2]
    errors = np.zeros((height + 4, width + 8))
    result = np.zeros((height, width), int)
    for y in range(height):
        step = -1 if serpentine and y % (2 * ROWS) >= ROWS else 1
        for x in range(width)[::step]:
            byte = rgba[y, x, 0]
            value = np.clip(values[byte, 0] + errors[y, x + 4], *ranges[byte])
            color = np.full(3, value) if working == "linear" else np.array([value, *values[byte, 1:]])
            cell = grid.cell_levels[grid.steps(color[None])[0].astype(int)].astype(int)
            middle = grid.points[(cell[0] * GRID + cell[1]) * GRID + cell[2]]
            result[y, x] = np.linalg.norm(target.oklab - middle, axis=1).argmin()
            for down, onward, part in kernel:
                errors[y + down, x + 4 + step * onward] += (value - palette[result[y, x]]) * part / divisor
    return result


@pytest.mark.parametrize("working", ["linear", "oklab"])
@pytest.mark.parametrize("serpentine", [True, False])
@pytest.mark.parametrize("shape", [(9, 11), (10, 70), (3, 1), (1, 33), (6, 34), (13, 5)])
@pytest.mark.parametrize("name", ["floyd-steinberg", *KERNELS])
def test_diffusion_is_the_published_one(name: str, shape: tuple[int, int], serpentine: bool, working: str) -> None:
    kernel, divisor = (fs.KERNEL, 16) if name == "floyd-steinberg" else KERNELS[name][2:]
    gray = np.random.default_rng(7).integers(40, 200, shape).astype(np.uint8)
    rgba = opaque(gray[..., None].repeat(3, axis=2))
    ours = diffuse(target_of(rgba, BLACK_WHITE, serpentine=serpentine, working=working), kernel, divisor)
    assert np.array_equal(ours, by_hand(rgba, kernel, divisor, serpentine, working))


def exactly(target: Target, kernel: Kernel, divisor: int) -> np.ndarray:
    """Error diffusion to and fro that looks for the nearest color without rounding, pixel by pixel in Python."""
    in_oklab = target.working == "oklab"
    height, width = target.rgba.shape[:2]
    space = "oklab" if in_oklab else "srgb-linear"
    values = convert(target.rgba[..., :3] / 255, "srgb", space)
    palette = convert(target.rgb / 255, "srgb", space)
    ranges, reach = carrying_range(target)[:, 1:3], carrying_reach(target)
    own = np.linalg.norm(convert(target.rgba[..., :3] / 255, "srgb", "oklab")[..., None, :] - target.oklab, axis=-1).argmin(axis=-1)
    stays = target.rgba[..., 3] < 128
    if target.flat is not None:
        still = target.histogram.rgb()[target.flat]
        stays = stays | (target.rgba[..., None, :3] == still).all(axis=-1).any(axis=-1)
    result = np.where(target.rgba[..., 3] < 128, max(target.transparent, 0), own)
    errors = np.zeros((height + 4, width + 8, 3))
    for y in range(height):
        step = -1 if y % (2 * ROWS) >= ROWS else 1
        for x in range(width)[::step]:
            if stays[y, x]:
                continue
            low, high = (values[y, x] - reach, values[y, x] + reach) if in_oklab else ranges[target.rgba[y, x, :3]].T
            value = np.clip(values[y, x] + errors[y, x + 4], low, high)
            seen = value if in_oklab else convert(np.clip(value, 0, 1), "srgb-linear", "oklab")
            best = np.linalg.norm(target.oklab - seen, axis=1).argmin()
            if np.linalg.norm(target.oklab[best] - target.oklab[own[y, x]]) <= target.pair_limit:
                result[y, x] = best
            for down, onward, part in kernel:
                errors[y + down, x + 4 + step * onward] += (value - palette[result[y, x]]) * part / divisor
    return result


@pytest.mark.parametrize("working", ["linear", "oklab"])
@pytest.mark.parametrize("colors", [5, 24])
def test_a_rounded_nearest_color_costs_nothing_from_afar(working: str, colors: int) -> None:
    """8×8 means of the result lie as near to those of the picture as without the grid's rounding.

    Of four patches together: of one, by which way the weave happens to fall, some are a third further off and others nearer.
    """
    rounded = unrounded = 0.0
    for top, left in ((150, 380), (150, 300), (60, 100), (200, 200)):
        rgba = opaque(plate_lamplight()[top : top + 48, left : left + 80])
        rgb = reduce_picture(rgba, ReduceRecipe(colors=colors)).rgb
        target = target_of(rgba, rgb, working=working)

        def afar(shown: np.ndarray) -> np.ndarray:
            space = "srgb-linear" if working == "linear" else "oklab"
            return np.asarray(convert(shown / 255, "srgb", space)).reshape(6, 8, 10, 8, 3).mean(axis=(1, 3))

        def off(indices: np.ndarray, rgb: np.ndarray = rgb, rgba: np.ndarray = rgba) -> float:
            return float(np.linalg.norm(afar(rgb[indices]) - afar(rgba[..., :3]), axis=-1).mean())

        exact_one = off(exactly(target, fs.KERNEL, 16))
        rounded, unrounded = rounded + off(diffuse(target, fs.KERNEL, 16)), unrounded + exact_one
        assert exact_one < off(DITHERS["none"].lay_out(target))
    assert rounded < unrounded * 1.1


def test_flats_pass_no_error_on() -> None:
    """A clean flat between two dithered parts: what the one part passes on ends at its edge."""
    rgba = opaque(np.full((16, 48, 3), 120, np.uint8))
    rgba[:, 16:32, :3] = 255
    for working in ("linear", "oklab"):
        target = target_of(rgba, BLACK_WHITE, working=working)
        flat = target.histogram.rgb()[:, 0] == 255
        indices = diffuse(replace(target, flat=flat, serpentine=False), fs.KERNEL, 16)
        assert (indices[:, 16:32] == 1).all()
        # The same bytes alone, with as many colors to be carried between.
        alone = diffuse(replace(target, flat=flat, serpentine=False, rgba=np.ascontiguousarray(rgba[:, :16])), fs.KERNEL, 16)
        assert np.array_equal(indices[:, :16], alone)


@pytest.mark.parametrize("working", ["linear", "oklab"])
@pytest.mark.parametrize("name", ["floyd-steinberg", *KERNELS])
def test_clear_pixels_clean_flats_and_limits_are_as_pixel_by_pixel(name: str, working: str) -> None:
    """Against plain Python, but for what rounding does to a few pixels: then what follows is another weave of the same tone."""
    kernel, divisor = (fs.KERNEL, 16) if name == "floyd-steinberg" else KERNELS[name][2:]
    rgba = opaque(plate_lamplight()[150:191, 300:369])
    rgba[5:9, 20:40, 3] = 0
    rgba[20:32, 40:60] = (200, 120, 40, 255)
    rgb = np.array([[10, 8, 20], [200, 120, 40], [244, 240, 214], [90, 60, 40], [60, 70, 110], [0, 0, 0]], np.uint8)
    target = target_of(rgba, rgb, working=working)
    flat = np.linalg.norm(target.histogram.oklab - target.oklab[target.nearest], axis=1) < 0.02
    for each in (replace(target, transparent=5), replace(target, transparent=5, flat=flat, pair_limit=0.3)):
        ours, plain = diffuse(each, kernel, divisor), exactly(each, kernel, divisor)
        assert (ours[5:9, 20:40] == 5).all()
        assert (ours[20:32, 40:60] == 1).mean() > (0.9 if each.flat is None else 0.999)
        means = [rgb[indices][:40, :64].reshape(5, 8, 8, 8, 3).mean(axis=(1, 3)) for indices in (ours, plain)]
        assert np.abs(means[0] - means[1]).mean() < (2.5 if working == "linear" else 3.5)
        away = np.linalg.norm(
            each.oklab[ours] - each.oklab[exactly(replace(each, flat=np.ones_like(flat)), kernel, divisor)], axis=-1
        )
        assert (away[rgba[..., 3] > 0] <= each.pair_limit).all()


def near(grid: Grid, palette: np.ndarray, colors: np.ndarray) -> list[int]:
    """What the table says of (n, 3) colors in the grid's channels, one after the other."""
    oklab = oklab_of_rgb(palette)
    table = near_table(grid, rough_oklab(LINEAR_OF_BYTE[palette]) if grid.is_oklab else LINEAR_OF_BYTE[palette], oklab)
    found = []
    for steps in grid.steps(colors.astype(np.float32)):
        level = grid.levels[steps.astype(int)].astype(int)
        first, second, third = level // PARTS
        entry = int(table.cells[(first * GRID + second) * GRID + third])
        if entry < 0:
            first, second, third = level % PARTS
            part = int(table.parts[(((-2 - entry) * PARTS + first) * PARTS + second) * PARTS + third])
            rest = table.channels, table.own_lists, table.own_counts, table.room, table.near
            entry = part if part >= 0 else int(exact(tuple(steps), entry, grid.is_oklab, grid.lows, grid.widths, *rest))
        found.append(entry)
    return found


@settings(max_examples=40, deadline=None)
@given(st.data())
def test_the_table_of_near_colors_is_exact_for_the_middle_of_every_cell_and_part(data: st.DataObject) -> None:
    """For sparse palettes and dense ones, over light and OKLab, against looking at every color, in float32 as it is stored."""
    seed, count = data.draw(st.integers(0, 2**32 - 1)), data.draw(st.sampled_from([1, 2, 3, 16, 31, 32, 33, 64, 255, 256]))
    random = np.random.default_rng(seed)
    spread = data.draw(st.sampled_from([1, 3, 30, 128]))
    palette = np.clip(random.integers(0, 256, 3) + random.integers(-spread, spread + 1, (count, 3)), 0, 255).astype(np.uint8)
    oklab, light = oklab_of_rgb(palette), LINEAR_OF_BYTE[palette]
    if data.draw(st.booleans()):
        lows, highs = oklab.min(axis=0) - np.float32(0.001), oklab.max(axis=0) + random.uniform(0.001, 0.3, 3).astype(np.float32)
        grid, own = grid_of_oklab(lows, highs - lows), rough_oklab(light)
    else:
        grid, own = grid_of_light(), light
    own_level = grid.levels[grid.steps(own).astype(int)].astype(int)
    wanted = random.integers(0, GRID * PARTS, (400, 3))
    wanted[:200] = own_level[random.integers(0, count, 200)] // PARTS * PARTS + random.integers(0, PARTS, (200, 3))
    colors = np.stack([grid.middles[channel][wanted[:, channel]] for channel in range(3)], axis=1)
    # A part at the very end is looked up from its inner half alone.
    level = grid.levels[grid.steps(colors).astype(int)].astype(int)
    cell, owners = level // PARTS, (own_level // PARTS)[None]
    sharing = (owners == cell[:, None]).all(axis=2).sum(axis=1)
    parted = (own_level[None] == level[:, None]).all(axis=2).any(axis=1)
    middles = grid.points[(cell[:, 0] * GRID + cell[:, 1]) * GRID + cell[:, 2]]
    parts = np.stack([grid.middles[channel][level[:, channel]] for channel in range(3)], axis=1)
    seen = parts if grid.is_oklab else convert(parts, "srgb-linear", "oklab")
    for place, index in enumerate(near(grid, palette, colors)):
        if sharing[place] == 1 or (sharing[place] > 1 and parted[place]):
            continue
        spans = np.linalg.norm(oklab - (middles if sharing[place] == 0 else seen)[place], axis=1)
        assert spans[index] <= spans.min() + 2e-6


@pytest.mark.parametrize("gray", [0, 1, 18, 119, 254, 255])
@pytest.mark.parametrize("palette", [[[0, 0, 0], [255, 255, 255]], [[120, 120, 120]], [[0, 0, 0]], [[255, 0, 255], [0, 255, 0]]])
def test_wherever_error_carries_a_pixel_it_is_looked_up_within_the_table(gray: int, palette: list[list[int]]) -> None:
    """In OKLab, where a box is narrow as grays are alike: neither end of the steps is passed."""
    rgba = opaque(np.full((4, 9, 3), gray, np.uint8))
    rgba[:, ::2, :3] = min(255, gray + 1)
    target = target_of(rgba, np.array(palette, np.uint8), working="oklab")
    reach = carrying_reach(target)
    grid = grid_for(target, reach)
    for colors in (rough_oklab(LINEAR_OF_BYTE[target.rgb]), rough_oklab(LINEAR_OF_BYTE[rgba[0, :, :3]])):
        for carried in (grid.steps(colors - reach), grid.steps(colors + reach)):
            assert carried.min() >= 0
            assert carried.max() < len(grid.levels)
    assert set(np.unique(diffuse(target, fs.KERNEL, 16))) <= set(range(len(palette)))


@settings(max_examples=50, deadline=None)
@given(st.lists(st.tuples(*[st.integers(0, 255)] * 3), min_size=1, max_size=60, unique=True), st.integers(0, 2))
def test_a_color_of_the_palette_is_always_its_own_nearest(colors: list[tuple[int, int, int]], closeness: int) -> None:
    """Though others be a single step of a byte away: in one cell, in one part of it, in the dark."""
    near_by = [tuple(min(255, value + step) for value in color) for color in colors for step in range(closeness + 1)]
    palette = np.array(sorted(set(near_by)), np.uint8)[:256]
    every = list(range(len(palette)))
    assert near(grid_of_light(), palette, LINEAR_OF_BYTE[palette]) == every
    rgba = opaque(palette[None].repeat(3, axis=0))
    for working in ("linear", "oklab"):
        assert np.array_equal(diffuse(target_of(rgba, palette, working=working), fs.KERNEL, 16), np.array([every] * 3))


@njit
def _roughly(light: np.ndarray, result: np.ndarray) -> None:
    for row in range(len(light)):
        result[row, 0], result[row, 1], result[row, 2] = linear_to_rough_oklab32(light[row, 0], light[row, 1], light[row, 2])


def test_rough_oklab_is_as_near_as_it_says() -> None:
    light = np.random.default_rng(4).random((50_000, 3)).astype(np.float32) ** 3
    light[:2] = [[0, 0, 0], [1, 1, 1]]
    result = np.empty_like(light)
    _roughly(light, result)
    assert np.abs(result - convert(light, "srgb-linear", "oklab")).max() < 1e-4


def test_of_equal_colors_the_first_is_taken() -> None:
    """A palette that is painted with as it is may hold one twice."""
    palette = np.array([[90, 10, 10], [90, 10, 10], [91, 10, 10], [91, 10, 10]], np.uint8)
    assert near(grid_of_light(), palette, LINEAR_OF_BYTE[palette]) == [0, 0, 2, 2]


def test_error_goes_further_where_there_are_three_colors_or_fewer() -> None:
    rgba = opaque(plate_lamplight()[150:170, 300:330])
    three = target_of(rgba, np.array([[10, 8, 20], [200, 120, 40], [244, 240, 214]], np.uint8))
    four = target_of(rgba, np.array([[10, 8, 20], [200, 120, 40], [244, 240, 214], [245, 240, 214]], np.uint8))
    assert carrying_reach(three) == pytest.approx(carrying_reach(four) * 4 / 3, rel=0.2)
    assert (carrying_range(three)[:100, 2] > carrying_range(four)[:100, 2]).all()


@pytest.mark.parametrize(
    ("name", "rows", "divisor"),
    [
        ("jarvis-judice-ninke", ["# 7 5", "3 5 7 5 3", "1 3 5 3 1"], 48),
        ("stucki", ["# 8 4", "2 4 8 4 2", "1 2 4 2 1"], 42),
        ("burkes", ["# 8 4", "2 4 8 4 2"], 32),
        ("sierra", ["# 5 3", "2 4 5 4 2", ". 2 3 2 ."], 32),
        ("sierra-lite", ["# 2 .", ". 1 1 . ."], 4),
        ("atkinson", ["# 1 1", ". 1 1 1 .", ". . 1 . ."], 8),
    ],
)
def test_kernels_are_the_published_tables(name: str, rows: list[str], divisor: int) -> None:
    """As printed: `#` is the pixel, dots are zeros, rows below are centered under it."""
    wanted = {}
    for down, row in enumerate(rows):
        cells = row.split()
        middle = cells.index("#") if down == 0 else 2
        wanted.update({(down, place - middle): int(cell) for place, cell in enumerate(cells) if cell not in "#."})
    _, _, kernel, parts = KERNELS[name]
    assert {(down, onward): part for down, onward, part in kernel} == wanted
    assert parts == divisor
    assert sum(wanted.values()) == (6 if name == "atkinson" else divisor)


@pytest.mark.parametrize("dither", [d.id for d in DITHERS if d.is_diffusion or (d.is_mixing and d.has_strength)])
@pytest.mark.parametrize("tone", [90, 150, 188])
def test_dithers_keep_the_mean_light(dither: str, tone: int) -> None:
    flat = opaque(np.full((96, 96, 3), tone, np.uint8))
    # Away from the edges, over which error is lost.
    indices = DITHERS[dither].lay_out(target_of(flat, BLACK_WHITE))[16:-16, 16:-16]
    wanted = float(LINEAR_OF_BYTE[tone])
    slack = {"atkinson": 0.2, "ordered-2": 0.13, "ordered-4": 0.04, "clustered-dot": 0.02}.get(dither, 0.012)
    assert float(indices.mean()) == pytest.approx(wanted, abs=slack)


@pytest.mark.parametrize("dither", [d.id for d in DITHERS if d.is_mixing])
def test_ordered_dithers_do_not_change_under_cropping_by_tiles(dither: str) -> None:
    rgba = painted(160, 192)
    rgb = reduce_picture(rgba, ReduceRecipe(colors=7)).rgb
    whole = DITHERS[dither].lay_out(target_of(rgba, rgb))
    crop = DITHERS[dither].lay_out(target_of(np.ascontiguousarray(rgba[64:, 128:]), rgb))
    assert np.array_equal(whole[64:, 128:], crop)


def test_the_blue_noise_tile_is_that_of_its_script_and_has_no_low_frequencies() -> None:
    ranks = blue_noise_tile()
    assert np.array_equal(ranks, make_tile())
    assert np.array_equal(np.sort(ranks, axis=None), np.arange(4096))
    y, x = np.meshgrid(np.fft.fftfreq(64), np.fft.fftfreq(64), indexing="ij")
    radius = np.hypot(x, y)
    for share in (0.1, 0.25, 0.5):
        power = np.abs(np.fft.fft2((ranks < 4096 * share) - share)) ** 2
        low = power[(radius > 0) & (radius < 0.3 * np.sqrt(share))].mean()
        assert low < 0.12 * power[radius > 0.6 * np.sqrt(share)].mean()


def test_clustered_dots_grow_from_their_middle() -> None:
    ranks = dots(8)
    assert np.array_equal(np.sort(ranks, axis=None), np.arange(64))
    for share in range(4, 60, 4):
        lit = np.tile(ranks < share, (3, 3))
        touching = sum(np.roll(lit, step, axis) & lit for axis in (0, 1) for step in (1, -1))
        assert (touching[8:16, 8:16][lit[8:16, 8:16]] > 0).all() or share == 4


def test_checker_mixes_one_to_one_or_not_at_all() -> None:
    flat = opaque(np.full((8, 8, 3), 188, np.uint8))
    board = DITHERS["checker"].lay_out(target_of(flat, BLACK_WHITE))
    assert np.array_equal(board, np.indices((8, 8)).sum(axis=0) % 2) or np.array_equal(board, 1 - np.indices((8, 8)).sum(axis=0) % 2)
    assert DITHERS["checker"].lay_out(target_of(opaque(np.full((8, 8, 3), 250, np.uint8)), BLACK_WHITE)).min() == 1


@pytest.mark.parametrize("dither", [d.id for d in DITHERS if d.id != "none"])
def test_clean_flats_and_pair_limits(dither: str) -> None:
    rgba = painted(64, 64)
    rgba[:20, :20, :3] = (250, 250, 250)
    recipe = ReduceRecipe(chooser="fixed-list", listed=["#ffffff", "#000000", "#b06030", "#302040"], dither=dither)
    flat = reduce_picture(rgba, recipe.model_copy(update={"flats": 3.0}))
    assert len(np.unique(flat.indices[:20, :20])) == 1, "a color within the tolerance of a swatch stays that swatch"
    tight = reduce_picture(rgba, recipe.model_copy(update={"pair_limit": 1.0}))
    plain = reduce_picture(rgba, recipe.model_copy(update={"dither": "none"}))
    assert np.array_equal(tight.indices, plain.indices), "no pair is that close"


@pytest.mark.parametrize("dither", [d.id for d in DITHERS if d.id not in ("none", "checker")])
def test_working_in_oklab_keeps_the_mean_lightness_instead(dither: str) -> None:
    flat = opaque(np.full((64, 64, 3), 119, np.uint8))
    indices = DITHERS[dither].lay_out(target_of(flat, BLACK_WHITE, working="oklab"))
    lightness = float(oklab_of_rgb(flat[0, :1, :3])[0, 0])
    slack = {"atkinson": 0.2, "ordered-2": 0.13, "ordered-4": 0.04}.get(dither, 0.02)
    assert float(indices.mean()) == pytest.approx(lightness, abs=slack)


# Tiles


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10_000), st.integers(1, 3))
def test_the_tile_limit_is_obeyed_and_served_best(seed: int, most: int) -> None:
    random = np.random.default_rng(seed)
    indices = random.integers(0, 5, (7, 9)).astype(np.uint8)
    oklab = random.random((5, 3)).astype(np.float32)
    gaps = np.linalg.norm(oklab[:, None] - oklab[None], axis=-1)
    tiled = limit_tiles(indices, oklab, -1, 4, 3, most)
    for row, column in itertools.product(range(0, 7, 3), range(0, 9, 4)):
        before, after = indices[row : row + 3, column : column + 4], tiled.indices[row : row + 3, column : column + 4]
        assert len(np.unique(after)) <= most
        best = min(
            gaps[before][..., list(kept)].min(axis=-1).sum()
            for kept in itertools.combinations(np.unique(before), min(most, len(np.unique(before))))
        )
        assert gaps[before, after].sum() == pytest.approx(best, abs=1e-5)
        assert tiled.losses[row // 3, column // 4] == pytest.approx(best / before.size * 100, abs=1e-4)


def test_clear_pixels_do_not_count_in_a_tile() -> None:
    indices = np.array([[0, 1, 2, 3]], np.uint8)
    oklab = np.eye(3, dtype=np.float32)
    tiled = limit_tiles(indices, oklab, 3, 4, 1, 2)
    assert tiled.indices[0, 3] == 3
    assert len(np.unique(tiled.indices[0, :3])) == 2


def test_a_tile_limit_in_the_recipe() -> None:
    limited = reduce_picture(PICTURE, ReduceRecipe(colors=16, dither="floyd-steinberg", tile=TileLimit(width=8, height=8, colors=4)))
    for row, column in itertools.product(range(0, 96, 8), range(0, 128, 8)):
        assert len(np.unique(limited.indices[row : row + 8, column : column + 8])) <= 4
    assert limited.tile_losses is not None
    assert limited.tile_losses.shape == (12, 16)
    assert limited.figures.mean > reduce_picture(PICTURE, ReduceRecipe(colors=16)).figures.mean
    loose = reduce_picture(PICTURE, ReduceRecipe(colors=4, tile=TileLimit(width=8, height=8, colors=9)))
    assert "has no effect: there are 4 in all" in loose.notes[0]


# The curve


def test_the_curve_falls_and_agrees_with_reductions() -> None:
    curve = error_curve(build_histogram(PICTURE))
    assert curve.distinct == build_histogram(PICTURE).distinct
    assert curve.counts[0] == 2
    assert curve.counts[-1] == 256
    assert all(a >= b for a, b in itertools.pairwise(curve.mean))
    assert all(mean <= p95 for mean, p95 in zip(curve.mean, curve.p95, strict=True))
    for colors in (4, 16, 64):
        real = reduce_picture(PICTURE, ReduceRecipe(colors=colors)).figures
        assert curve.mean[curve.counts.index(colors)] == pytest.approx(real.mean, rel=0.35)
    few = error_curve(build_histogram(opaque(np.arange(30, dtype=np.uint8).reshape(2, 5, 3))))
    assert few.mean[-1] == pytest.approx(0, abs=1e-4)
    assert few.counts[-1] >= 10


def test_the_knee_is_where_the_curve_bends() -> None:
    assert knee_of((2, 4, 8, 16, 32), (10, 9, 1, 0.5, 0)) == 8
    assert knee_of((2, 4), (1, 0)) is None


def test_the_sentence_says_every_choice() -> None:
    recipe = ReduceRecipe(
        colors=12, accent=60, solid=["black"], dither="stucki", strength=80, working="oklab", serpentine=False, flats=2,
        pair_limit=20, space="ciede2000", tile=TileLimit(width=8, height=8, colors=4), flatten="#fff", order="use",
        marks=[RectangleMark(x=0, y=0, width=1, height=1, weight=2)],
    )  # fmt: skip
    assert say(recipe, 3) == (
        "Reduce to 12 colors chosen by perceptual split, accents protected 60 %, 1 mark weighed, keeping 3 locked, with solid black, "
        "matched in CIELAB, CIEDE2000, dithered Stucki at 80 % in OKLab one way, flats clean within 2, pairs within 20, "
        "colors tuned to it, "
        "at most 4 in each 8×8 tile, laid over #ffffff, ordered by use."
    )
    assert say(ReduceRecipe(chooser="fixed-list", listed=["#000"], list_name="Press")).startswith(
        "Reduce chosen by a fixed list, “Press”"
    )


# Progress and memory


def test_the_watch_is_told_of_rising_shares_and_may_end_the_work() -> None:
    told: list[tuple[str, float]] = []
    reduce_picture(PICTURE, ReduceRecipe(colors=5), watch=lambda step, share: told.append((step, share)))
    assert [share for _, share in told] == sorted({share for _, share in told})

    def called_off(step: str, share: float) -> None:
        if share > 0.3:
            raise Cancelled("Enough.")

    with pytest.raises(Cancelled):
        reduce_picture(PICTURE, ReduceRecipe(colors=5), watch=called_off)


@pytest.mark.parametrize("chooser", [c.id for c in CHOOSERS if c.id != "own" and c.needs != "palette"])
def test_no_chooser_needs_more_than_a_few_bytes_a_pixel(chooser: str) -> None:
    """A picture of 1.5 million pixels and some 400 thousand colors; the histogram is there before, as it is in use."""
    rgba = painted(1000, 1500)
    rgba[..., :3] ^= np.random.default_rng(5).integers(0, 8, (1000, 1500, 3)).astype(np.uint8)
    histogram = build_histogram(rgba)
    assert histogram.distinct > 100_000
    listed = [f"#{r:02x}{g:02x}{b:02x}" for r in (0, 90, 180, 250) for g in (0, 90, 180, 250) for b in (0, 128, 250)]
    recipe = ReduceRecipe(colors=32, chooser=chooser, listed=listed)
    tracemalloc.start()
    choose_colors(histogram, recipe, [], 32)
    peak = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    assert peak / (1000 * 1500) < 16
