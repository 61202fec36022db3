"""The reduction itself: picture + recipe + colors to keep → palette colors and an index map."""

import time
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from huvren.core.color.arrays import Bytes, Floats
from huvren.core.color.difference import DELTA_SCALE
from huvren.core.color.kernels import decode_srgb_array, encode_srgb_array
from huvren.core.color.notation import parse_color
from huvren.core.errors import BadInput
from huvren.core.progress import Watch, unwatched
from huvren.core.reduction.choosers import CHOOSERS, Brief
from huvren.core.reduction.depth import parse_depth
from huvren.core.reduction.dithers import DITHERS, Target
from huvren.core.reduction.histogram import Histogram, build_histogram, oklab_of_rgb
from huvren.core.reduction.metrics import METRICS
from huvren.core.reduction.recipe import MOST, ReduceRecipe
from huvren.core.reduction.report import Figures, measure, measure_nearest
from huvren.core.reduction.tiles import limit_tiles
from huvren.core.reduction.weighing import draw_mask, weigh_by_marks, weighted_points

ColorBytes = tuple[int, int, int]
SOLID: dict[str, ColorBytes] = {"black": (0, 0, 0), "white": (255, 255, 255)}


@dataclass(frozen=True)
class Reduction:
    """rgb : (k, 3) uint8 in index order, kept colors first, then from dark to light, the transparent index last.

    indices : (h, w) uint8; transparent : its index or −1; notes : what a reader should know; seconds : per step
    tile_losses : (rows, columns) mean ΔEOK×100 that a tile limit cost, or None
    """

    rgb: Bytes
    indices: Bytes
    transparent: int
    figures: Figures
    notes: tuple[str, ...] = ()
    seconds: dict[str, float] = field(default_factory=dict)
    tile_losses: Floats | None = None


def _unique(rgb: Bytes, present: set[ColorBytes]) -> list[ColorBytes]:
    seen: dict[ColorBytes, None] = {}
    for row in rgb:
        color = (int(row[0]), int(row[1]), int(row[2]))
        if color not in present:
            seen.setdefault(color)
    return list(seen)


def listed_colors(recipe: ReduceRecipe) -> Bytes:
    """(n, 3) uint8, the colors of the recipe's list, clear ones and doubles left out."""
    colors = [parse_color(text) for text in recipe.listed]
    return np.array(list(dict.fromkeys(c.bytes[:3] for c in colors if c.alpha > 0)), dtype=np.uint8).reshape(-1, 3)


def choose_colors(
    histogram: Histogram, recipe: ReduceRecipe, keep: Sequence[ColorBytes], room: int, color_weights: Floats | None = None
) -> Bytes:
    """At most `room` opaque colors for a picture: those of `keep` first, then the chosen ones from dark to light.

    (k, 3) uint8. A picture with no more colors than there is room for gets exactly its own, unless the chooser is bound
    to others. color_weights : (d,) how much each distinct color counts, or None for its pixels.
    """
    kept = list(dict.fromkeys(keep))
    chooser = CHOOSERS[recipe.chooser]
    fresh: list[ColorBytes] | None = None
    if not chooser.needs and histogram.distinct <= room:
        fresh = _unique(histogram.rgb(), set(kept))
    if fresh is None or len(fresh) + len(kept) > room:
        fresh = []
        if (room > len(kept) or chooser.sets_count) and histogram.distinct:
            brief = Brief(
                histogram, weighted_points(histogram, color_weights, recipe.accent / 100), max(room - len(kept), 0),
                oklab_of_rgb(np.array(kept, dtype=np.uint8).reshape(-1, 3)), listed_colors(recipe), parse_depth(recipe.depth),
            )  # fmt: skip
            fresh = _unique(chooser.choose(brief), set(kept))
            if not chooser.sets_count:
                fresh = fresh[: brief.count]
    if fresh:
        lightness = oklab_of_rgb(np.array(fresh, dtype=np.uint8))[:, 0]
        fresh = [fresh[place] for place in np.lexsort((np.arange(len(fresh)), lightness))]
    return np.array(kept + fresh, dtype=np.uint8).reshape(-1, 3)


def flatten_over(rgba: Bytes, ground: str) -> Bytes:
    """(h, w, 4) uint8 laid over an opaque color, mixed in linear light."""
    under = decode_srgb_array(np.array(parse_color(ground).bytes[:3]) / 255)
    result = rgba.copy()
    partly = rgba[..., 3] < 255
    cover = rgba[partly, 3:].astype(np.float64) / 255
    mixed = decode_srgb_array(rgba[partly, :3] / 255) * cover + under * (1 - cover)
    result[partly, :3] = np.rint(encode_srgb_array(mixed) * 255)
    result[..., 3] = 255
    return result


def _must_keep(recipe: ReduceRecipe, keep: Sequence[ColorBytes], room: int, count: int) -> list[ColorBytes]:
    """Locked colors and solid ones. Raises `BadInput` where the recipe has no room for them."""
    chooser = CHOOSERS[recipe.chooser]
    if chooser.needs == "palette":
        return list(dict.fromkeys(keep))
    wanted = list(dict.fromkeys([*keep, *(SOLID[name] for name in recipe.solid)]))
    if len(wanted) > room and not chooser.sets_count:
        raise BadInput(
            f"{len(wanted)} colors are locked, but {count} colors leave room for {room}. Unlock some, or ask for more colors."
        )
    return wanted


def reduce_picture(
    rgba: Bytes,
    recipe: ReduceRecipe,
    keep: Sequence[ColorBytes] = (),
    histogram: Histogram | None = None,
    watch: Watch = unwatched,
    mask: Bytes | None = None,
) -> Reduction:
    """Reduce an (h, w, 4) uint8 picture.

    keep : 8-bit sRGB colors that must be in the palette. histogram : one built earlier from the same picture.
    watch : told of every step. mask : see `mask_of_gray`, in place of the recipe's marks. Raises
    `BadInput` for settings that contradict each other, and whatever the watch raises.
    """
    seconds: dict[str, float] = {}
    notes: list[str] = []
    clock = time.perf_counter()

    def lap(step: str) -> None:
        nonlocal clock
        now = time.perf_counter()
        seconds[step] = now - clock
        clock = now

    watch("counting colors", 0.0)
    if recipe.flatten is not None and int(rgba[..., 3].min()) < 255:
        rgba, histogram = flatten_over(rgba, recipe.flatten), None
    if histogram is None or histogram.alpha_threshold != recipe.alpha_threshold:
        histogram = build_histogram(rgba, recipe.alpha_threshold)
        lap("count")
    wants_transparent = histogram.transparent > 0
    count = recipe.colors
    if wants_transparent and count == 1 and histogram.distinct and not CHOOSERS[recipe.chooser].sets_count:
        # One index cannot show both; the shape of the picture is given up rather than its color.
        notes.append("One color leaves no index for transparency, so transparent pixels are painted too.")
        opaque = rgba.copy()
        opaque[..., 3] = 255
        rgba, histogram, wants_transparent = opaque, build_histogram(opaque, recipe.alpha_threshold), False
    room = count - wants_transparent
    watch("choosing colors", 0.1)
    if mask is None and recipe.marks:
        mask = draw_mask(recipe.marks, rgba.shape[1], rgba.shape[0])
    weights = None if mask is None else weigh_by_marks(rgba, histogram, mask)
    if weights is not None and not weights.any():
        notes.append("The marks ignore the whole picture, so all of it counts.")
    rgb = choose_colors(histogram, recipe, _must_keep(recipe, keep, room, count), room, weights)
    if len(rgb) + wants_transparent > MOST:
        raise BadInput(f"That makes {len(rgb) + wants_transparent} colors; an indexed picture holds {MOST}. Take fewer.")
    if recipe.tile is not None and recipe.tile.colors > len(rgb) and len(rgb):
        notes.append(f"The limit of {recipe.tile.colors} colors a tile has no effect: there are {len(rgb)} in all.")
    lap("choose")
    watch("laying out pixels", 0.4)
    oklab = oklab_of_rgb(rgb)
    transparent = len(rgb) if wants_transparent else -1
    if histogram.distinct:
        nearest, spans = METRICS[recipe.space].nearest(histogram, rgb, oklab)
    else:
        nearest, spans = np.empty(0, dtype=np.int32), np.empty(0, dtype=np.float32)
    dither = DITHERS[recipe.dither if recipe.strength else "none"]
    if histogram.distinct == 0:
        dither = DITHERS["none"]
    target = Target(
        np.ascontiguousarray(rgba), histogram, rgb, oklab, nearest, transparent, recipe.strength / 100,
        flat=spans * DELTA_SCALE <= recipe.flats if recipe.flats else None, working=recipe.working, serpentine=recipe.serpentine,
        pair_limit=recipe.pair_limit / DELTA_SCALE if recipe.pair_limit else float("inf"),
    )  # fmt: skip
    indices = dither.lay_out(target)
    losses = None
    if recipe.tile is not None and len(rgb):
        tiled = limit_tiles(indices, oklab, transparent, recipe.tile.width, recipe.tile.height, recipe.tile.colors)
        indices, losses = tiled.indices, tiled.losses
    lap("map")
    watch("measuring the result", 0.85)
    if dither.id == "none" and losses is None:
        figures = measure_nearest(histogram, nearest, spans, transparent)
    else:
        figures = measure(rgba, histogram, indices, oklab)
    lap("measure")
    return Reduction(rgb, indices, transparent, figures, tuple(notes), seconds, losses)
