"""Sort keys: what swatches can be put in order by, and sorting by several of them."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from huvren.core.color.arrays import Floats
from huvren.core.color.spaces import convert
from huvren.core.errors import BadInput
from huvren.core.palette.values import Swatch
from huvren.core.registry import Registry

NEUTRAL_CHROMA = 0.02
"""Below this OKLCh chroma a swatch counts as neutral: it has no hue to be sorted by and comes first."""


@dataclass(frozen=True)
class SortKey:
    """A measure of swatches, low first. As any key but the last it counts in steps, so that the next one has a say."""

    id: str
    label: str
    use: str
    measure: Callable[[Floats], Floats]
    """(n, 3) OKLCh → (n,)"""
    step: float


SORT_KEYS: Registry[SortKey] = Registry("sort key")


def _hue(oklch: Floats) -> Floats:
    return np.where(oklch[:, 1] < NEUTRAL_CHROMA, -1.0, oklch[:, 2])


SORT_KEYS.register(SortKey("hue", "hue", "Round the hue circle from pink; neutrals first. Coarse: sections of 30°.", _hue, 30))
SORT_KEYS.register(SortKey("lightness", "lightness", "From dark to light. Coarse: tenths.", lambda oklch: oklch[:, 0], 0.1))
SORT_KEYS.register(SortKey("chroma", "chroma", "From dull to vivid. Coarse: steps of 0.04.", lambda oklch: oklch[:, 1], 0.04))


def sorted_places(swatches: Sequence[Swatch], keys: Sequence[str], descending: bool = False) -> list[int]:
    """Places of `swatches` in sorted order; ties keep their order. Raises `BadInput` for no key or one given twice."""
    if not keys:
        raise BadInput(f"Say what to sort by: {', '.join(SORT_KEYS.ids())}.")
    if len(set(keys)) != len(keys):
        raise BadInput("A sort key is given twice. Give each at most once.")
    chosen = [SORT_KEYS[key] for key in keys]
    if not swatches:
        return []
    oklch = convert(np.array([swatch.color.oklab for swatch in swatches]), "oklab", "oklch")
    columns = [key.measure(oklch) for key in chosen]
    coarse = [np.floor(column / key.step) for key, column in zip(chosen[:-1], columns[:-1], strict=True)]
    ranks = [*coarse, columns[-1]]
    if descending:
        ranks = [-rank for rank in ranks]
    return [int(place) for place in np.lexsort([np.arange(len(swatches)), *reversed(ranks)])]
