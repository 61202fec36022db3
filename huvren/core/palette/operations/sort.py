"""Sort swatches."""

from typing import ClassVar, Literal

from pydantic import Field

from huvren.core.palette.operations import UNUSED, Operation, Outcome, count_swatches, operation
from huvren.core.palette.sorting import SORT_KEYS, sorted_places
from huvren.core.palette.values import Palette, Usage


@operation
class SortSwatches(Operation):
    """Sort the named swatches, or all, among the places they take. Groups stay together: each is sorted by itself."""

    summary: ClassVar[str] = "Sort swatches"
    kind: Literal["sort_swatches"] = "sort_swatches"
    ids: list[str] | None = None
    keys: list[str] = Field(max_length=8)
    descending: bool = False

    def label(self, palette: Palette) -> str:
        what = "all swatches" if self.ids is None else count_swatches(len(palette.pick(self.ids)))
        by = ", then ".join(SORT_KEYS[key].label for key in self.keys)
        return f"Sort {what} by {by}{', downward' if self.descending else ''}"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        wanted = None if self.ids is None else {swatch.id for swatch in palette.pick(self.ids)}
        by_group: dict[str | None, list[int]] = {}
        for place, swatch in enumerate(palette.swatches):
            if wanted is None or swatch.id in wanted:
                by_group.setdefault(swatch.group, []).append(place)
        swatches = list(palette.swatches)
        for places in by_group.values() or [[]]:
            order = sorted_places([palette.swatches[place] for place in places], self.keys, self.descending)
            for place, rank in zip(places, order, strict=True):
                swatches[place] = palette.swatches[places[rank]]
        return Outcome(palette.with_swatches(swatches))
