"""Duplicate swatches."""

from dataclasses import replace
from typing import ClassVar, Literal

from huvren.core.palette.fields import emptied_in_copies
from huvren.core.palette.naming import Namer
from huvren.core.palette.operations import UNUSED, Operation, Outcome, operation, said_swatches
from huvren.core.palette.values import Palette, Swatch, Usage, new_id


@operation
class DuplicateSwatches(Operation):
    """Put a copy with an id of its own right after each named swatch; the copies are neither locked nor pinned."""

    summary: ClassVar[str] = "Duplicate swatches"
    kind: Literal["duplicate_swatches"] = "duplicate_swatches"
    ids: list[str]

    def label(self, palette: Palette) -> str:
        return f"Duplicate {said_swatches(palette.pick(self.ids))}"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        wanted = {swatch.id for swatch in palette.pick(self.ids)}
        namer = Namer(swatch.name for swatch in palette.swatches)
        swatches: list[Swatch] = []
        for swatch in palette.swatches:
            swatches.append(swatch)
            if swatch.id in wanted:
                name = namer.give(f"{swatch.name[:180]} copy")
                after = None if swatch.slot is None else swatch.slot + 1
                swatches.append(replace(swatch, **emptied_in_copies(Swatch, "duplicated"), id=new_id(), name=name, slot=after))
        return Outcome(palette.with_swatches(swatches))
