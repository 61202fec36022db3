"""Lock and unlock swatches."""

from dataclasses import replace
from typing import ClassVar, Literal

from huvren.core.palette.operations import UNUSED, Operation, Outcome, count_swatches, operation
from huvren.core.palette.values import Palette, Usage


@operation
class LockSwatches(Operation):
    """A locked swatch stays through the next reduction and cannot be deleted."""

    summary: ClassVar[str] = "Lock or unlock swatches"
    kind: Literal["lock_swatches"] = "lock_swatches"
    ids: list[str]
    locked: bool

    def label(self, palette: Palette) -> str:
        picked = palette.pick(self.ids)
        verb = "Lock" if self.locked else "Unlock"
        return f"{verb} “{picked[0].name}”" if len(picked) == 1 else f"{verb} {count_swatches(len(picked))}"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        wanted = {swatch.id for swatch in palette.pick(self.ids)}
        return Outcome(
            palette.with_swatches(
                replace(swatch, locked=self.locked) if swatch.id in wanted else swatch for swatch in palette.swatches
            )
        )
