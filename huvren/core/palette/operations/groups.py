"""Groups: make one from swatches, name it, dissolve it."""

from collections.abc import Sequence
from dataclasses import replace
from typing import ClassVar, Literal

from huvren.core.errors import BadInput
from huvren.core.palette.operations import UNUSED, Operation, Outcome, count_swatches, operation
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
        return f"Group {count_swatches(len(palette.pick(self.ids)))} as “{clean_name(self.name)}”"

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
