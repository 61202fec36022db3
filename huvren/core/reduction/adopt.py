"""Bring the colors of a reduction into a palette, so that swatches keep who they are."""

import uuid
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from huvren.core.color.arrays import Bytes, Integers
from huvren.core.color.value import TRANSPARENT, Color
from huvren.core.palette.following import with_fitting_names
from huvren.core.palette.naming import Namer, suggest_names
from huvren.core.palette.values import Palette, Swatch
from huvren.core.reduction.choosers import CHOOSERS
from huvren.core.reduction.choosing import ColorBytes
from huvren.core.reduction.histogram import oklab_of_rgb
from huvren.core.reduction.orders import ORDERS, Facts
from huvren.core.reduction.recipe import ReduceRecipe
from huvren.core.reduction.reduce import Reduction

SAME_WITHIN = 0.025
"""A chosen color this near in OKLab to a swatch of the palette before is that swatch, slightly recolored."""
_NAMESPACE = uuid.UUID("6f0b3f0e-54ad-4c7e-9d0c-6b7a6f0f2b11")


@dataclass(frozen=True)
class Adopted:
    """palette : the new one. table : for each index of the reduction's map, the id of its swatch."""

    palette: Palette
    table: tuple[str, ...]


def _takes_all(recipe: ReduceRecipe) -> bool:
    return CHOOSERS[recipe.chooser].needs == "palette"


def kept_colors(palette: Palette, recipe: ReduceRecipe) -> list[ColorBytes]:
    """8-bit colors of the opaque swatches that the recipe keeps, in order, doubles once: the locked ones, or all."""
    every = _takes_all(recipe)
    opaque = (swatch for swatch in palette.swatches if swatch.color.alpha > 0)
    return list(dict.fromkeys(swatch.color.bytes[:3] for swatch in opaque if every or swatch.locked))


def _match(colors: Sequence[ColorBytes], free: list[Swatch]) -> dict[int, Swatch]:
    """Greedily pair colors with near swatches, nearest pairs first."""
    if not colors or not free:
        return {}
    gaps = np.linalg.norm(
        oklab_of_rgb(np.array(colors, dtype=np.uint8))[:, None] - np.array([s.color.oklab for s in free])[None], axis=-1
    )
    pairs: dict[int, Swatch] = {}
    used: set[int] = set()
    for flat in np.argsort(gaps, axis=None, kind="stable"):
        color, place = divmod(int(flat), len(free))
        if gaps[color, place] > SAME_WITHIN:
            break
        if color not in pairs and place not in used:
            pairs[color] = free[place]
            used.add(place)
    return pairs


def _paint_with(palette: Palette, reduction: Reduction, seed: str) -> Adopted:
    """The palette in its own order; a transparent swatch comes to its end where the picture needs one and there is none."""
    first: dict[ColorBytes, str] = {}
    for swatch in palette.swatches:
        if swatch.color.alpha > 0:
            first.setdefault(swatch.color.bytes[:3], swatch.id)
    table = [first[int(red), int(green), int(blue)] for red, green, blue in reduction.rgb]
    if reduction.transparent >= 0:
        clear = next((swatch for swatch in palette.swatches if swatch.color.alpha == 0), None)
        if clear is None:
            clear = Swatch(TRANSPARENT, "Transparent", id=str(uuid.uuid5(_NAMESPACE, f"{seed}:clear")))
            palette = palette.with_swatches([*palette.swatches, clear])
        table.append(clear.id)
    return Adopted(palette, tuple(table))


def _first_places(indices: Bytes) -> Integers:
    """Where each index first appears in reading order: (256,) int64, the picture's size for those that do not."""
    flat = indices.reshape(-1)
    first = np.full(256, flat.size, dtype=np.int64)
    first[flat[::-1]] = np.arange(flat.size - 1, -1, -1)
    return first


def _in_order(order: str, palette: Palette, swatches: list[Swatch], counts: dict[str, int], places: dict[str, int]) -> list[Swatch]:
    """Swatches group by group, within each by lightness, use, hue (neutrals first), first place, or as they stood before."""
    section = {group.id: place for place, group in enumerate(palette.groups)}
    before = {swatch.id: place for place, swatch in enumerate(palette.swatches)}
    rgb = np.array([swatch.color.bytes[:3] for swatch in swatches], dtype=np.uint8)
    oklab = dict(zip((swatch.id for swatch in swatches), oklab_of_rgb(rgb).tolist(), strict=True)) if swatches else {}

    def key(swatch: Swatch) -> tuple[float, float]:
        lightness, a, b = oklab[swatch.id]
        facts = Facts(lightness, a, b, counts.get(swatch.id, 0), places.get(swatch.id, np.inf), before.get(swatch.id, len(before)))
        return ORDERS[order].key(facts), lightness

    return sorted(swatches, key=lambda swatch: (section.get(swatch.group or "", len(section)), *key(swatch)))


def adopt(palette: Palette, reduction: Reduction, recipe: ReduceRecipe, seed: str) -> Adopted:
    """The palette after a reduction by a recipe. One that takes the palette as it is leaves it so.

    Otherwise locked swatches stay as they are. A chosen color close to a swatch of before takes over its id, name and
    group; any other gets an id made from `seed` and its place, so that a preview and the step that keeps it agree. Within
    each group, and among those without one, the order is that of the recipe; the transparent swatch comes first.
    """
    if _takes_all(recipe):
        return _paint_with(palette, reduction, seed)
    order = recipe.order
    locked = [swatch for swatch in palette.swatches if swatch.locked]
    by_color: dict[ColorBytes, Swatch] = {}
    for swatch in locked:
        if swatch.color.alpha > 0:
            by_color.setdefault(swatch.color.bytes[:3], swatch)
    colors: list[ColorBytes] = [(int(r), int(g), int(b)) for r, g, b in reduction.rgb]
    fresh = [color for color in colors if color not in by_color]
    free = [swatch for swatch in palette.swatches if not swatch.locked and swatch.color.alpha > 0]
    known = _match(fresh, free)
    namer = Namer(swatch.name for swatch in (*locked, *known.values()))
    table: list[str] = []
    made: list[Swatch] = []
    words = suggest_names([Color.from_bytes(*rgb) for rgb in colors])
    for index, rgb in enumerate(colors):
        if rgb in by_color:
            table.append(by_color[rgb].id)
            continue
        color = Color.from_bytes(*rgb)
        before = known.get(fresh.index(rgb))
        if before is not None:
            swatch = before if before.color.bytes[:3] == rgb else replace(before, color=color)
        else:
            swatch = Swatch(color, namer.give(words[index]), id=str(uuid.uuid5(_NAMESPACE, f"{seed}:{index}")))
        made.append(swatch)
        table.append(swatch.id)
    clear = next((s for s in palette.swatches if s.color.alpha == 0), None)
    if reduction.transparent >= 0:
        if clear is None:
            clear = Swatch(TRANSPARENT, "Transparent", id=str(uuid.uuid5(_NAMESPACE, f"{seed}:clear")))
        table.append(clear.id)
    elif clear is not None and not clear.locked:
        clear = None
    counts = {swatch_id: int(reduction.figures.counts[index]) for index, swatch_id in enumerate(table)}
    first = _first_places(reduction.indices) if ORDERS[order].needs_appearance else np.zeros(256, dtype=np.int64)
    places = {swatch_id: int(first[index]) for index, swatch_id in enumerate(table)}
    opaque = [swatch for swatch in [*locked, *made] if swatch.color.alpha > 0]
    ordered = _in_order(order, palette, opaque, counts, places)
    front = [replace(clear, group=None)] if clear is not None else []
    arranged = [*front, *ordered]
    if palette.slots is not None:
        arranged = [swatch if swatch.pinned else replace(swatch, slot=None) for swatch in arranged]
    return Adopted(with_fitting_names(palette, palette.with_swatches(arranged)), tuple(table))
