"""Move swatches to another place in the order."""

from dataclasses import replace
from typing import ClassVar, Literal

from pydantic import Field

from huvren.core.errors import BadInput
from huvren.core.palette.operations import UNUSED, Operation, Outcome, operation, said_swatches
from huvren.core.palette.values import Palette, Swatch, Usage


@operation
class MoveSwatches(Operation):
    """Move the named swatches, in their order, so that the first of them gets index `to` in the result.

    In a palette of numbered places `to` is such a place; swatches that stand there move on to the next free one.
    """

    summary: ClassVar[str] = "Move swatches"
    kind: Literal["move_swatches"] = "move_swatches"
    ids: list[str]
    to: int = Field(ge=0)

    def label(self, palette: Palette) -> str:
        picked = palette.pick(self.ids)
        what = said_swatches(picked)
        last = len(palette.swatches) if palette.slots is None else palette.slots
        return f"Move {what} to {min(self.to, last - len(picked))}"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        moving = palette.pick(self.ids)
        wanted = {swatch.id for swatch in moving}
        staying = [swatch for swatch in palette.swatches if swatch.id not in wanted]
        at = min(self.to, len(staying))
        if palette.slots is not None:
            if self.to + len(moving) > palette.slots:
                raise BadInput(f"This palette has the places 0 to {palette.slots - 1}; {self.to} is too far for that many swatches.")
            at = next((place for place, swatch in enumerate(staying) if (swatch.slot or 0) >= self.to), len(staying))
        group = _group_at(staying, at, moving)
        moved = [replace(s, group=group, slot=None if palette.slots is None else self.to + n) for n, s in enumerate(moving)]
        return Outcome(palette.with_swatches([*staying[:at], *moved, *staying[at:]]))


def _group_at(staying: list[Swatch], at: int, moving: list[Swatch]) -> str | None:
    """The group a swatch joins at a place: its own where that borders, else its left neighbor's, else its right's.

    Groups stay in one piece, since a swatch between two of the same group always joins that group.
    """
    sides = [side.group for side in (*staying[at - 1 : at], *staying[at : at + 1])] if at else [side.group for side in staying[:1]]
    own = {swatch.group for swatch in moving}
    if len(sides) == 2 and sides[0] == sides[1]:
        return sides[0]
    if len(own) == 1 and (group := own.pop()) in sides:
        return group
    return sides[0] if sides else moving[0].group
