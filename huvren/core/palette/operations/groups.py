"""Groups: make one from swatches, name it, move it, set its columns, dissolve it."""

from collections.abc import Sequence
from dataclasses import replace
from typing import ClassVar, Literal

from pydantic import Field

from huvren.core.errors import BadInput
from huvren.core.palette.operations import UNUSED, Operation, Outcome, operation, said_swatches
from huvren.core.palette.values import Group, Palette, Swatch, Usage, clean_name, new_id


def _group_name(palette: Palette, wanted: str, but: str | None = None) -> str:
    name = clean_name(wanted, "group name")
    if not name:
        raise BadInput("A group needs a name. Type at least one letter.")
    if any(group.name == name and group.id != but for group in palette.groups):
        raise BadInput(f"There is a group “{name}” in this palette already. Choose another name.")
    return name


def group_at(swatches: Sequence[Swatch], place: int) -> int:
    """`place`, moved behind the group that it would cut in two."""
    while 0 < place < len(swatches) and swatches[place].group is not None and swatches[place - 1].group == swatches[place].group:
        place += 1
    return place


@operation
class MakeGroup(Operation):
    """Gather the named swatches into a new group at the place of the first of them."""

    summary: ClassVar[str] = "Make a group"
    kind: Literal["make_group"] = "make_group"
    ids: list[str]
    name: str

    def label(self, palette: Palette) -> str:
        return f"Group {said_swatches(palette.pick(self.ids))} as “{clean_name(self.name)}”"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        picked = palette.pick(self.ids)
        group = Group(_group_name(palette, self.name), new_id())
        wanted = {swatch.id for swatch in picked}
        first = palette.index_of(picked[0].id)
        staying = [swatch for swatch in palette.swatches if swatch.id not in wanted]
        at = group_at(staying, first)
        made = [replace(swatch, group=group.id) for swatch in picked]
        grown = replace(palette, groups=(*palette.groups, group)).with_swatches([*staying[:at], *made, *staying[at:]])
        return Outcome(in_strip_order(grown))


def in_strip_order(palette: Palette) -> Palette:
    """The same palette with its groups listed as they come in the strip."""
    order = {group_id: place for place, group_id in enumerate(dict.fromkeys(s.group for s in palette.swatches))}
    return replace(palette, groups=tuple(sorted(palette.groups, key=lambda group: order[group.id])))


@operation
class RenameGroup(Operation):
    """Name a group."""

    summary: ClassVar[str] = "Rename a group"
    kind: Literal["rename_group"] = "rename_group"
    id: str
    name: str

    def label(self, palette: Palette) -> str:
        return f"Rename the group “{palette.group(self.id).name}” to “{clean_name(self.name)}”"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        renamed = replace(palette.group(self.id), name=_group_name(palette, self.name, but=self.id))
        return Outcome(replace(palette, groups=tuple(renamed if group.id == self.id else group for group in palette.groups)))


@operation
class DissolveGroup(Operation):
    """Take a group away; its swatches stay where they are."""

    summary: ClassVar[str] = "Dissolve a group"
    kind: Literal["dissolve_group"] = "dissolve_group"
    id: str

    def label(self, palette: Palette) -> str:
        return f"Dissolve the group “{palette.group(self.id).name}”"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        palette.group(self.id)
        return Outcome(
            palette.with_swatches(replace(swatch, group=None) if swatch.group == self.id else swatch for swatch in palette.swatches)
        )


@operation
class MoveGroup(Operation):
    """Move a group, so that it becomes the `to`-th group of the strip; what stands outside of groups stays around it."""

    summary: ClassVar[str] = "Move a group"
    kind: Literal["move_group"] = "move_group"
    id: str
    to: int = Field(ge=0)

    def label(self, palette: Palette) -> str:
        return f"Move the group “{palette.group(self.id).name}” to {min(self.to, len(palette.groups) - 1) + 1}"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        moving = [swatch for swatch in palette.swatches if swatch.group == palette.group(self.id).id]
        if palette.slots is not None and any(swatch.pinned for swatch in moving):
            raise BadInput("A swatch of that group is pinned to its place. Unpin it first.")
        others = [group.id for group in palette.groups if group.id != self.id]
        staying = [swatch for swatch in palette.swatches if swatch.group != self.id]
        at = len(staying)
        if self.to < len(others):
            at = next(place for place, swatch in enumerate(staying) if swatch.group == others[self.to])
        loose = [replace(swatch, slot=None) for swatch in moving]
        after = [swatch if swatch.pinned else replace(swatch, slot=None) for swatch in (*staying[:at], *loose, *staying[at:])]
        return Outcome(in_strip_order(palette.with_swatches(after)))


@operation
class SetColumns(Operation):
    """How many swatches stand in a row of the grid, for a group or, without one, for the palette; None leaves it open."""

    summary: ClassVar[str] = "Set columns"
    kind: Literal["set_columns"] = "set_columns"
    group: str | None = None
    columns: int | None = Field(ge=1, le=256)

    def label(self, palette: Palette) -> str:
        whose = f"the group “{palette.group(self.group).name}”" if self.group else "the palette"
        return f"Show {whose} in {self.columns} columns" if self.columns else f"Leave the columns of {whose} open"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        if self.group is None:
            return Outcome(replace(palette, columns=self.columns))
        changed = replace(palette.group(self.group), columns=self.columns)
        return Outcome(replace(palette, groups=tuple(changed if group.id == self.group else group for group in palette.groups)))
