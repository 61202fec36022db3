"""Lock and unlock swatches."""

from dataclasses import replace
from typing import ClassVar, Literal

from huvren.core.palette.operations import UNUSED, Operation, Outcome, operation, said_swatches
from huvren.core.palette.values import Palette, Usage


@operation
class LockSwatches(Operation):
    """A locked swatch stays through the next reduction and cannot be deleted."""

    summary: ClassVar[str] = "Lock or unlock swatches"
    kind: Literal["lock_swatches"] = "lock_swatches"
    ids: list[str]
    locked: bool

    def label(self, palette: Palette) -> str:
        return f"{'Lock' if self.locked else 'Unlock'} {said_swatches(palette.pick(self.ids))}"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        wanted = {swatch.id for swatch in palette.pick(self.ids)}
        return Outcome(
            palette.with_swatches(
                replace(swatch, locked=self.locked) if swatch.id in wanted else swatch for swatch in palette.swatches
            )
        )
