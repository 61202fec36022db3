"""Merge swatches: the selected ones into one, or all near twins within a tolerance."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from huvren.core.choices import OneOf
from huvren.core.errors import BadInput
from huvren.core.palette.clusters import MOST_CLUSTERED, cut, merge_tree
from huvren.core.palette.merging import SURVIVORS, merge
from huvren.core.palette.operations import UNUSED, Operation, Outcome, count_swatches, operation, said_swatches
from huvren.core.palette.values import Palette, Usage


class _Merge(Operation):
    keep: Annotated[str, OneOf(SURVIVORS)] = "most-used"


@operation
class MergeSwatches(_Merge):
    """Merge the named swatches into one; their pixels follow. A locked swatch always stays."""

    summary: ClassVar[str] = "Merge the selected swatches"
    kind: Literal["merge_swatches"] = "merge_swatches"
    ids: list[str]

    def label(self, palette: Palette) -> str:
        return f"Merge {said_swatches(palette.pick(self.ids))}, keeping {SURVIVORS[self.keep].label}"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        picked = palette.pick(self.ids)
        if len(picked) < 2:
            raise BadInput("Merging needs two swatches or more. Select another one.")
        if all(swatch.locked for swatch in picked):
            raise BadInput("All of those are locked, and a locked swatch always stays. Unlock the ones that may go.")
        return Outcome(*merge(palette, [picked], self.keep, usage))


@operation
class MergeNearTwins(_Merge):
    """Merge swatches that differ by at most `tolerance` ΔE, among the named ones or all. Locked swatches always stay."""

    summary: ClassVar[str] = "Merge near twins"
    kind: Literal["merge_near_twins"] = "merge_near_twins"
    ids: list[str] | None = None
    tolerance: float = Field(ge=0, le=100, description="ΔEOK×100")

    def label(self, palette: Palette) -> str:
        if self.tolerance == 0:
            return f"Merge exact twins, keeping {SURVIVORS[self.keep].label}"
        return f"Merge near twins within ΔE {self.tolerance:g}, keeping {SURVIVORS[self.keep].label}"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        among = list(palette.swatches) if self.ids is None else palette.pick(self.ids)
        if len(among) > 1 and all(swatch.locked for swatch in among):
            raise BadInput("All of those swatches are locked, and a locked swatch always stays. Unlock the ones that may go.")
        clusters = cut(len(among), *merge_tree(among), self.tolerance)
        stacks = [[among[place] for place in cluster] for cluster in clusters if len(cluster) > 1]
        return Outcome(*merge(palette, stacks, self.keep, usage))


@operation
class MergeToCount(_Merge):
    """Merge the nearest twins, among the named swatches or all, until exactly `count` of them are left."""

    summary: ClassVar[str] = "Merge to a number of swatches"
    kind: Literal["merge_to_count"] = "merge_to_count"
    ids: list[str] | None = None
    count: int = Field(ge=1, le=MOST_CLUSTERED)

    def label(self, palette: Palette) -> str:
        return f"Merge to {count_swatches(self.count)}, keeping {SURVIVORS[self.keep].label}"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        among = list(palette.swatches) if self.ids is None else palette.pick(self.ids)
        if self.count >= len(among):
            raise BadInput(f"There are {len(among)} swatches, so merging to {self.count} leaves nothing to do. Ask for fewer.")
        pairs, heights = merge_tree(among)
        fewest = len(among) - len(pairs)
        if self.count < fewest:
            raise BadInput(
                f"No fewer than {fewest} can be left: locked swatches stay, and clear ones never merge with others. "
                "Unlock some, or ask for more."
            )
        joins = len(among) - self.count
        clusters = cut(len(among), pairs[:joins], heights[:joins], float("inf"))
        stacks = [[among[place] for place in cluster] for cluster in clusters if len(cluster) > 1]
        return Outcome(*merge(palette, stacks, self.keep, usage))
