"""Delete swatches."""

from typing import ClassVar, Literal

from huvren.core.errors import BadInput
from huvren.core.palette.operations import UNUSED, Operation, Outcome, operation, said_swatches
from huvren.core.palette.values import Palette, Usage


@operation
class DeleteSwatches(Operation):
    """Delete the named swatches; pixels they painted go to the nearest color that stays."""

    summary: ClassVar[str] = "Delete swatches"
    kind: Literal["delete_swatches"] = "delete_swatches"
    ids: list[str]

    def label(self, palette: Palette) -> str:
        return f"Delete {said_swatches(palette.pick(self.ids))}"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        picked = palette.pick(self.ids)
        if locked := [swatch for swatch in picked if swatch.locked]:
            raise BadInput(f"“{locked[0].name}” is locked. Unlock it before deleting it.")
        gone = {swatch.id for swatch in picked}
        return Outcome(palette.with_swatches(swatch for swatch in palette.swatches if swatch.id not in gone))
