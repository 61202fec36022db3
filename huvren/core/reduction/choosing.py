"""Which colors a picture, or several frames of one, are painted with: those that must stay, then the chosen ones."""

from collections.abc import Sequence

import numpy as np

from huvren.core.color.arrays import Bytes, Floats
from huvren.core.color.notation import parse_color
from huvren.core.errors import BadInput
from huvren.core.reduction.choosers import CHOOSERS, Brief
from huvren.core.reduction.depth import parse_depth
from huvren.core.reduction.histogram import Histogram, oklab_of_rgb
from huvren.core.reduction.recipe import ReduceRecipe
from huvren.core.reduction.weighing import weighted_points

ColorBytes = tuple[int, int, int]
SOLID: dict[str, ColorBytes] = {"black": (0, 0, 0), "white": (255, 255, 255)}


def _unique(rgb: Bytes, present: set[ColorBytes]) -> list[ColorBytes]:
    seen: dict[ColorBytes, None] = {}
    for row in rgb:
        color = (int(row[0]), int(row[1]), int(row[2]))
        if color not in present:
            seen.setdefault(color)
    return list(seen)


def listed_colors(recipe: ReduceRecipe) -> Bytes:
    """(n, 3) uint8, the colors of the recipe's list, clear ones and doubles left out.

    Parameters
    ----------
    recipe : ReduceRecipe
        The settings.

    Returns
    -------
    Bytes
        (n, 3) uint8.
    """
    colors = [parse_color(text) for text in recipe.listed]
    return np.array(list(dict.fromkeys(c.bytes[:3] for c in colors if c.alpha > 0)), dtype=np.uint8).reshape(-1, 3)


def choose_colors(
    histogram: Histogram, recipe: ReduceRecipe, keep: Sequence[ColorBytes], room: int, color_weights: Floats | None = None
) -> Bytes:
    """At most `room` opaque colors for a picture: those of `keep` first, then the chosen ones from dark to light.

    (k, 3) uint8. A picture with no more colors than there is room for gets exactly its own, unless the chooser is bound to
    others.

    Parameters
    ----------
    histogram : Histogram
        The distinct colors and their pixels.
    recipe : ReduceRecipe
        The settings.
    keep : Sequence[ColorBytes]
        8-bit sRGB colors that come first.
    room : int
        Colors at the most.
    color_weights : Floats | None
        (d,) how much each distinct color counts; None for its pixels.

    Returns
    -------
    Bytes
        (k, 3) uint8.
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


def must_keep(recipe: ReduceRecipe, keep: Sequence[ColorBytes], room: int, count: int) -> list[ColorBytes]:
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
