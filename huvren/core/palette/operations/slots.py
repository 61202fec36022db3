"""Numbered places: a fixed number of them, some of which may be empty, and swatches that stay where they are pinned."""

from dataclasses import replace
from typing import ClassVar, Literal

from pydantic import Field

from huvren.core.errors import BadInput
from huvren.core.palette.operations import UNUSED, Operation, Outcome, count_swatches, operation
from huvren.core.palette.values import MOST_SWATCHES, Palette, Usage, into_slots


@operation
class SetSlots(Operation):
    """Give the palette a fixed number of numbered places, or none: then the swatches close up and nothing is pinned."""

    summary: ClassVar[str] = "Set the number of places"
    kind: Literal["set_slots"] = "set_slots"
    slots: int | None = Field(ge=1, le=MOST_SWATCHES)

    def label(self, palette: Palette) -> str:
        return "Give up numbered places" if self.slots is None else f"Give the palette {self.slots} numbered places"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        if self.slots is None:
            loose = tuple(replace(swatch, slot=None, pinned=False) for swatch in palette.swatches)
            return Outcome(replace(palette, slots=None, swatches=loose))
        return Outcome(replace(palette, slots=self.slots, swatches=into_slots(palette.swatches, self.slots)))


@operation
class PinSwatches(Operation):
    """Pin swatches to their numbered places, or let them go."""

    summary: ClassVar[str] = "Pin swatches to their places"
    kind: Literal["pin_swatches"] = "pin_swatches"
    ids: list[str]
    pinned: bool

    def label(self, palette: Palette) -> str:
        picked = palette.pick(self.ids)
        what = f"“{picked[0].name}”" if len(picked) == 1 else count_swatches(len(picked))
        at = f" to place {picked[0].slot}" if self.pinned and len(picked) == 1 and picked[0].slot is not None else ""
        return f"{'Pin' if self.pinned else 'Unpin'} {what}{at}"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        if palette.slots is None:
            raise BadInput("Only a palette of numbered places can pin swatches. Give it such places first.")
        changed = {swatch.id: replace(swatch, pinned=self.pinned) for swatch in palette.pick(self.ids)}
        return Outcome(palette.change_all(changed))
