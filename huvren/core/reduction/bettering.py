"""Chosen colors made better: tuned to the dither, and looked for longer where a recipe says so."""

from collections.abc import Sequence

import numpy as np

from huvren.core.color.arrays import Bytes, Floats
from huvren.core.progress import Hurry, Watch, never, unwatched
from huvren.core.reduction.afar import sigma_of
from huvren.core.reduction.choosers import CHOOSERS
from huvren.core.reduction.choosing import listed_colors
from huvren.core.reduction.depth import parse_depth
from huvren.core.reduction.grain import terms_of
from huvren.core.reduction.histogram import Histogram, oklab_of_rgb
from huvren.core.reduction.medians import search_medians
from huvren.core.reduction.metrics import METRICS
from huvren.core.reduction.painting import paint
from huvren.core.reduction.recipe import ReduceRecipe, is_tuned, searches_longer
from huvren.core.reduction.tuning.listed import tune_of_list
from huvren.core.reduction.tuning.longer import tune_longer
from huvren.core.reduction.tuning.sample import Framed
from huvren.core.reduction.tuning.task import Task
from huvren.core.reduction.tuning.tune import tune
from huvren.core.reduction.weighing import color_factors, weighted_points


def _in_order(rgb: Bytes, fixed: int) -> Bytes:
    """The first `fixed` colors, then the others from dark to light, none twice."""
    rows = list(dict.fromkeys(map(tuple, rgb.tolist())))
    free = np.array(rows[fixed:], dtype=np.uint8).reshape(-1, 3)
    lightness = oklab_of_rgb(free)[:, 0] if len(free) else np.empty(0)
    order = np.lexsort((np.arange(len(free)), lightness))
    return np.concatenate([np.array(rows[:fixed], dtype=np.uint8).reshape(-1, 3), free[order]])


def better(
    frames: Sequence[Framed], histogram: Histogram, weights: Floats | None, recipe: ReduceRecipe, rgb: Bytes, fixed: int,
    has_clear: bool, watch: Watch = unwatched, hurry: Hurry = never,
) -> Bytes:  # fmt: skip
    """(k, 3) uint8 colors for the frames, the first `fixed` as they are.

    A picture that has no more colors than there are keeps them. Raises whatever the watch raises.

    Parameters
    ----------
    frames : Sequence[Framed]
        Pictures with their colors counted.
    histogram : Histogram
        The distinct colors and their pixels.
    weights : Floats | None
        (d,) how much each distinct color counts; None for its pixels.
    recipe : ReduceRecipe
        The settings.
    rgb : Bytes
        (k, 3) uint8 sRGB.
    fixed : int
        How many of the first colors stay as they are.
    has_clear : bool
        Whether an index is left for clear pixels.
    watch : Watch
        Told of every step; what it raises is passed on.
    hurry : Hurry
        Quickly, to show what a setting does or while others wait; of a list not at all.

    Returns
    -------
    Bytes
        (k, 3) uint8.
    """
    longer = searches_longer(recipe)
    if len(rgb) == fixed or histogram.distinct <= len(rgb) or not (longer or is_tuned(recipe)):
        return rgb
    protection = recipe.accent / 100
    if not is_tuned(recipe):
        points = weighted_points(histogram, weights, protection)
        oklab = oklab_of_rgb(rgb)
        found = search_medians(points.places, points.weights, oklab[fixed:], oklab[:fixed], watch)
        return _in_order(np.concatenate([rgb[:fixed], found]), fixed)
    clear = len(rgb) if has_clear else -1

    stand_in = METRICS[recipe.space].stand_in
    quick = recipe.model_copy(update={"space": stand_in}) if stand_in else recipe

    def lay_out(rgba: Bytes, counted: Histogram, colors: Bytes, is_verdict: bool) -> Bytes:
        return paint(rgba, counted, colors, clear, recipe if is_verdict else quick).indices

    tile = (recipe.tile.height, recipe.tile.width) if recipe.tile else (1, 1)
    tunes = CHOOSERS[recipe.chooser].tunes
    task = Task(
        frames, histogram, color_factors(histogram, weights, protection), rgb, fixed, lay_out,
        terms_of(recipe.grain, sigma_of(recipe.distance)), tile,
        parse_depth(recipe.depth) if tunes == "on-grid" else None,
    )  # fmt: skip
    if tunes == "in-list" and hurry():
        return rgb
    if tunes == "in-list":
        return _in_order(tune_of_list(task, listed_colors(recipe), longer, watch), fixed)
    if longer:
        return _in_order(tune_longer(task, watch), fixed)
    return _in_order(tune(task, watch, hurry), fixed)
