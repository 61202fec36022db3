"""Sort swatches: by keys, along the smoothest path, or into an order that is given."""

from dataclasses import replace
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from huvren.core.errors import BadInput
from huvren.core.palette.operations import UNUSED, Operation, Outcome, count_swatches, operation
from huvren.core.palette.paths import shortest_path
from huvren.core.palette.sorting import in_groups, said_sort, sorted_palette
from huvren.core.palette.values import Palette, Swatch, Usage, clean_name


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
        return said_sort(what, self.keys, self.descending)

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        return Outcome(sorted_palette(palette, self.keys, self.descending, self.ids, usage))


@operation
class SmoothOrder(Operation):
    """Put the named swatches, or all, on a short path through OKLab, so that neighbors differ as little as may be.

    first, last : swatches that begin or end their group's path. Groups stay together.
    """

    summary: ClassVar[str] = "Order along the smoothest path"
    kind: Literal["smooth_order"] = "smooth_order"
    ids: list[str] | None = None
    first: str | None = None
    last: str | None = None

    def label(self, palette: Palette) -> str:
        what = "all swatches" if self.ids is None else count_swatches(len(palette.pick(self.ids)))
        ends = [
            f"{word} “{palette.swatches[palette.index_of(end)].name}”"
            for word, end in (("from", self.first), ("to", self.last))
            if end
        ]
        return " ".join([f"Order {what} along the smoothest path", *ends])

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        for end in filter(None, (self.first, self.last)):
            palette.index_of(end)
        if self.first and self.first == self.last:
            raise BadInput("A path cannot begin and end with the same swatch. Choose another end.")

        def order(swatches: list[Swatch]) -> list[int]:
            ids = [swatch.id for swatch in swatches]
            first = ids.index(self.first) if self.first in ids else None
            last = ids.index(self.last) if self.last in ids else None
            return shortest_path(np.array([s.color.oklab for s in swatches]).reshape(-1, 3), first, last)

        return Outcome(in_groups(palette, self.ids, order))


@operation
class TakeOrder(Operation):
    """Put swatches into the order of `ids`, such as that of an earlier step; those not named follow as they stand."""

    summary: ClassVar[str] = "Take an order"
    kind: Literal["take_order"] = "take_order"
    ids: list[str]
    source: str = Field(default="", max_length=200, description="whose order it is, for the history")

    def label(self, palette: Palette) -> str:
        return f"Back to the order of {clean_name(self.source)}" if self.source else "Take another order"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        if len(set(self.ids)) != len(self.ids):
            raise BadInput("A swatch is named twice in that order.")
        rank = {swatch_id: number for number, swatch_id in enumerate(self.ids)}

        def order(swatches: list[Swatch]) -> list[int]:
            return sorted(range(len(swatches)), key=lambda place: rank.get(swatches[place].id, len(rank)))

        return Outcome(in_groups(palette, None, order))


@operation
class ReverseSwatches(Operation):
    """Turn the order of the named swatches, or of all, round; each group by itself."""

    summary: ClassVar[str] = "Reverse the order"
    kind: Literal["reverse_swatches"] = "reverse_swatches"
    ids: list[str] | None = None

    def label(self, palette: Palette) -> str:
        return f"Reverse {'all swatches' if self.ids is None else count_swatches(len(palette.pick(self.ids)))}"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        return Outcome(in_groups(palette, self.ids, lambda swatches: list(range(len(swatches)))[::-1]))


@operation
class SwapSwatches(Operation):
    """Two swatches change places, and groups where they stand in different ones."""

    summary: ClassVar[str] = "Swap two swatches"
    kind: Literal["swap_swatches"] = "swap_swatches"
    ids: list[str] = Field(min_length=2, max_length=2)

    def label(self, palette: Palette) -> str:
        first, second = palette.pick(self.ids)
        return f"Swap “{first.name}” and “{second.name}”"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        if len(palette.pick(self.ids)) != 2:
            raise BadInput("Swapping needs two different swatches.")
        left, right = sorted(palette.index_of(swatch_id) for swatch_id in self.ids)
        first, second = palette.swatches[left], palette.swatches[right]
        swatches = list(palette.swatches)
        swatches[left] = replace(second, group=first.group, slot=first.slot, pinned=first.pinned)
        swatches[right] = replace(first, group=second.group, slot=second.slot, pinned=second.pinned)
        return Outcome(palette.with_swatches(swatches))
