"""Sort keys: what swatches can be put in order by, and sorting by several of them."""

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from huvren.core.color.arrays import Floats
from huvren.core.color.spaces import convert
from huvren.core.errors import BadInput
from huvren.core.palette.values import Palette, Swatch, Usage
from huvren.core.registry import Registry

NEUTRAL_CHROMA = 0.02
"""Below this OKLCh chroma a swatch counts as neutral: it has no hue to be sorted by and comes first."""


@dataclass(frozen=True)
class SortKey:
    """A measure of swatches, low first. As any key but the last it counts in steps, so that the next one has a say."""

    id: str
    """By which it is named in documents, addresses and commands."""
    label: str
    """As menus call it."""
    use: str
    """What it is for, in one sentence."""
    measure: Callable[[Sequence[Swatch], Floats, Usage], Floats]
    """n swatches, their (n, 3) OKLCh and the pixels that each paints → (n,)"""
    step: float
    """From one value to the next in the interface."""


SORT_KEYS: Registry[SortKey] = Registry("sort key")


def _hue(swatches: Sequence[Swatch], oklch: Floats, usage: Usage) -> Floats:
    return np.where(oklch[:, 1] < NEUTRAL_CHROMA, -1.0, oklch[:, 2])


def _lightness(swatches: Sequence[Swatch], oklch: Floats, usage: Usage) -> Floats:
    return oklch[:, 0]


def _chroma(swatches: Sequence[Swatch], oklch: Floats, usage: Usage) -> Floats:
    return oklch[:, 1]


def _family(swatches: Sequence[Swatch], oklch: Floats, usage: Usage) -> Floats:
    """Twelve families of 30° that begin between pink and red, neutrals before them."""
    return np.where(oklch[:, 1] < NEUTRAL_CHROMA, -1.0, np.floor((oklch[:, 2] + 15) % 360 / 30))


def _written(name: str) -> list[tuple[int, int, str]]:
    """A name as people order names: numbers in it by their value."""
    parts = re.findall(r"\d+|\D+", name.casefold())
    return [(0, int(part), "") if part.isdecimal() else (1, 0, part) for part in parts]


def _name(swatches: Sequence[Swatch], oklch: Floats, usage: Usage) -> Floats:
    written = [_written(swatch.name) for swatch in swatches]
    ranks = {name: rank for rank, name in enumerate(sorted({tuple(entry) for entry in written}))}
    return np.array([ranks[tuple(entry)] for entry in written], dtype=np.float64)


def _coverage(swatches: Sequence[Swatch], oklch: Floats, usage: Usage) -> Floats:
    return -np.array([usage.get(swatch.id, 0) for swatch in swatches], dtype=np.float64)


SORT_KEYS.register(SortKey("hue", "hue", "Round the hue circle from pink; neutrals first. Coarse: sections of 30°.", _hue, 30))
SORT_KEYS.register(SortKey("lightness", "lightness", "From dark to light. Coarse: tenths.", _lightness, 0.1))
SORT_KEYS.register(SortKey("chroma", "chroma", "From dull to vivid. Coarse: steps of 0.04.", _chroma, 0.04))
SORT_KEYS.register(SortKey("family", "hue family", "Reds, oranges, ambers … in turn, neutrals apart in front.", _family, 1))
SORT_KEYS.register(SortKey("coverage", "coverage", "From what paints most to what paints nothing.", _coverage, 1))
SORT_KEYS.register(SortKey("name", "name", "By the alphabet, numbers by their value.", _name, 1))


def sorted_places(swatches: Sequence[Swatch], keys: Sequence[str], descending: bool = False, usage: Usage | None = None) -> list[int]:
    """Places of `swatches` in sorted order; ties keep their order. Raises `BadInput` for no key or one given twice."""
    if not keys:
        raise BadInput(f"Say what to sort by: {', '.join(SORT_KEYS.ids())}.")
    if len(set(keys)) != len(keys):
        raise BadInput("A sort key is given twice. Give each at most once.")
    chosen = [SORT_KEYS[key] for key in keys]
    if not swatches:
        return []
    oklch = convert(np.array([swatch.color.oklab for swatch in swatches]), "oklab", "oklch")
    columns = [key.measure(swatches, oklch, usage or {}) for key in chosen]
    coarse = [np.floor(column / key.step) for key, column in zip(chosen[:-1], columns[:-1], strict=True)]
    ranks = [*coarse, columns[-1]]
    if descending:
        ranks = [-rank for rank in ranks]
    return [int(place) for place in np.lexsort([np.arange(len(swatches)), *reversed(ranks)])]


def in_groups(palette: Palette, ids: Sequence[str] | None, order: Callable[[list[Swatch]], list[int]]) -> Palette:
    """The palette with the swatches of each group in the order that `order` gives for them, among their own places."""
    places: list[int] = []
    sources: list[int] = []
    for group in palette.movable(ids).values() or [[]]:
        places += group
        sources += [group[rank] for rank in order([palette.swatches[place] for place in group])]
    return palette.permuted(places, sources)


def sorted_palette(
    palette: Palette, keys: Sequence[str], descending: bool = False, ids: Sequence[str] | None = None, usage: Usage | None = None
) -> Palette:
    """The palette with the named swatches, or all, sorted among the places they take, each group by itself.

    Raises `BadInput` as `sorted_places` does.
    """
    return in_groups(palette, ids, lambda swatches: sorted_places(swatches, keys, descending, usage))


def said_sort(what: str, keys: Sequence[str], descending: bool) -> str:
    """What the history says of a sort."""
    by = ", then ".join(SORT_KEYS[key].label for key in keys)
    return f"Sort {what} by {by}{', downward' if descending else ''}"
