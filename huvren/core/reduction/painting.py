"""Painting one picture with colors that are chosen: the dither, and the limit of tiles, as a recipe says."""

from dataclasses import dataclass

import numpy as np

from huvren.core.color.arrays import Bytes, Floats, Integers
from huvren.core.color.difference import DELTA_SCALE
from huvren.core.reduction.dithers import DITHERS, Dither, Target
from huvren.core.reduction.histogram import Histogram, oklab_of_rgb
from huvren.core.reduction.metrics import METRICS
from huvren.core.reduction.recipe import ReduceRecipe
from huvren.core.reduction.tiles import limit_tiles


@dataclass(frozen=True)
class Painted:
    """indices : (h, w) uint8; losses : (rows, columns) mean ΔEOK×100 that a tile limit cost, or None

    nearest, spans : of each distinct color, the nearest of the palette and its distance in OKLab
    is_nearest : every pixel has the color nearest to it
    """

    indices: Bytes
    losses: Floats | None
    nearest: Integers
    spans: Floats
    is_nearest: bool


def dither_of(recipe: ReduceRecipe) -> Dither:
    """The dither that a recipe lays out with; one of no strength is none."""
    return DITHERS[recipe.dither if recipe.strength else "none"]


def paint(rgba: Bytes, histogram: Histogram, rgb: Bytes, transparent: int, recipe: ReduceRecipe) -> Painted:
    """Lay (k, 3) uint8 colors out over an (h, w, 4) uint8 picture. transparent : the index of clear pixels, or −1.

    Parameters
    ----------
    rgba : Bytes
        (h, w, 4) uint8.
    histogram : Histogram
        The distinct colors and their pixels.
    rgb : Bytes
        (k, 3) uint8 sRGB.
    transparent : int
        The index of clear pixels, or −1.
    recipe : ReduceRecipe
        The settings.

    Returns
    -------
    Painted
        The index map and its figures.
    """
    oklab = oklab_of_rgb(rgb)
    if histogram.distinct:
        nearest, spans = METRICS[recipe.space].nearest(histogram, rgb, oklab)
    else:
        nearest, spans = np.empty(0, dtype=np.int32), np.empty(0, dtype=np.float32)
    dither = dither_of(recipe) if histogram.distinct else DITHERS["none"]
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
    return Painted(indices, losses, nearest, spans, dither.id == "none" and losses is None)
