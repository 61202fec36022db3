"""The reduction itself: picture + recipe + colors to keep → palette colors and an index map."""

import time
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from huvren.core.color.arrays import Bytes, Floats
from huvren.core.color.gamut import displayed
from huvren.core.errors import BadInput
from huvren.core.reduction.choosers import CHOOSERS
from huvren.core.reduction.dithers import DITHERS, Target
from huvren.core.reduction.histogram import Histogram, build_histogram, oklab_of_rgb
from huvren.core.reduction.nearest import nearest_centers
from huvren.core.reduction.recipe import MOST, ReduceRecipe
from huvren.core.reduction.report import Figures, measure, measure_nearest

ColorBytes = tuple[int, int, int]


@dataclass(frozen=True)
class Reduction:
    """rgb : (k, 3) uint8 in index order, kept colors first, then from dark to light, the transparent index last.

    indices : (h, w) uint8; transparent : its index or −1; notes : what a reader should know; seconds : per step
    """

    rgb: Bytes
    indices: Bytes
    transparent: int
    figures: Figures
    notes: tuple[str, ...] = ()
    seconds: dict[str, float] = field(default_factory=dict)


def _to_bytes(oklab: Floats) -> Bytes:
    """(k, 3) OKLab centers → (k, 3) uint8 sRGB, chroma reduced where a mean falls outside the gamut."""
    return np.rint(displayed(oklab, "oklab")[0] * 255).astype(np.uint8)


def _unique(rgb: Bytes, present: set[ColorBytes]) -> list[ColorBytes]:
    seen: dict[ColorBytes, None] = {}
    for row in rgb:
        color = (int(row[0]), int(row[1]), int(row[2]))
        if color not in present:
            seen.setdefault(color)
    return list(seen)


def choose_colors(histogram: Histogram, recipe: ReduceRecipe, keep: Sequence[ColorBytes], room: int) -> Bytes:
    """At most `room` opaque colors for a picture: those of `keep` first, then the chosen ones from dark to light.

    (k, 3) uint8. A picture with no more colors than there is room for gets exactly its own.
    """
    kept = list(dict.fromkeys(keep))
    own = histogram.rgb() if histogram.distinct <= room else None
    fresh = _unique(own, set(kept)) if own is not None else None
    if fresh is None or len(fresh) + len(kept) > room:
        fresh = []
        if room > len(kept) and histogram.distinct:
            chooser = CHOOSERS[recipe.chooser]
            present = oklab_of_rgb(np.array(kept, dtype=np.uint8).reshape(-1, 3))
            centers = chooser.choose(histogram, histogram.points, room - len(kept), present)
            fresh = _unique(_to_bytes(centers), set(kept))
    if fresh:
        lightness = oklab_of_rgb(np.array(fresh, dtype=np.uint8))[:, 0]
        fresh = [fresh[place] for place in np.lexsort((np.arange(len(fresh)), lightness))]
    return np.array(kept + fresh, dtype=np.uint8).reshape(-1, 3)


def reduce_picture(
    rgba: Bytes,
    recipe: ReduceRecipe,
    keep: Sequence[ColorBytes] = (),
    histogram: Histogram | None = None,
    fixed: Sequence[ColorBytes] | None = None,
) -> Reduction:
    """Reduce an (h, w, 4) uint8 picture.

    keep : 8-bit sRGB colors that must be in the palette. histogram : one built earlier from the same picture.
    fixed : use exactly these colors and choose none. Raises `BadInput` when more are kept than the recipe has room for.
    """
    seconds: dict[str, float] = {}
    notes: list[str] = []
    clock = time.perf_counter()

    def lap(step: str) -> None:
        nonlocal clock
        now = time.perf_counter()
        seconds[step] = now - clock
        clock = now

    if histogram is None or histogram.alpha_threshold != recipe.alpha_threshold:
        histogram = build_histogram(rgba, recipe.alpha_threshold)
        lap("count")
    wants_transparent = histogram.transparent > 0
    count = recipe.colors if fixed is None else min(len(dict.fromkeys(fixed)) + wants_transparent, MOST)
    if wants_transparent and count == 1 and histogram.distinct:
        # One index cannot show both; the shape of the picture is given up rather than its color.
        notes.append("One color leaves no index for transparency, so transparent pixels are painted too.")
        opaque = rgba.copy()
        opaque[..., 3] = 255
        rgba, histogram, wants_transparent = opaque, build_histogram(opaque, recipe.alpha_threshold), False
    room = count - wants_transparent
    if fixed is not None:
        rgb = np.array(list(dict.fromkeys(fixed))[:room], dtype=np.uint8).reshape(-1, 3)
        if len(rgb) == 0 and histogram.distinct:
            raise BadInput("The fixed list holds no color. Give at least one.")
    else:
        if len(set(keep)) > room:
            raise BadInput(
                f"{len(set(keep))} colors are locked, but {count} colors leave room for {room}. Unlock some, or ask for more colors."
            )
        rgb = choose_colors(histogram, recipe, keep, room)
    lap("choose")
    oklab = oklab_of_rgb(rgb)
    transparent = len(rgb) if wants_transparent else -1
    if histogram.distinct:
        nearest, spans = nearest_centers(histogram.oklab, oklab)
    else:
        nearest, spans = np.empty(0, dtype=np.int32), np.empty(0, dtype=np.float32)
    dither = DITHERS[recipe.dither if recipe.strength else "none"]
    if histogram.distinct == 0:
        dither = DITHERS["none"]
    indices = dither.lay_out(Target(np.ascontiguousarray(rgba), histogram, rgb, oklab, nearest, transparent, recipe.strength / 100))
    lap("map")
    if dither.id == "none":
        figures = measure_nearest(histogram, nearest, spans, transparent)
    else:
        figures = measure(rgba, histogram, indices, oklab)
    lap("measure")
    return Reduction(rgb, indices, transparent, figures, tuple(notes), seconds)
