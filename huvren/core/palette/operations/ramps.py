"""Ramps that are kept with the palette: keep, change, name, move and remove them."""

from dataclasses import replace
from typing import ClassVar, Literal

from pydantic import Field

from huvren.core.errors import BadInput
from huvren.core.palette.naming import suggest_name, unused_name
from huvren.core.palette.operations import UNUSED, Operation, Outcome, operation
from huvren.core.palette.values import KeptRamp, Palette, Usage, clean_name, clean_tags
from huvren.core.ramp.plan import PURPOSES, RampPlan
from huvren.core.ramp.recipe import RampRecipe


def stop_names(plan: RampPlan, palette: Palette) -> list[str]:
    """A name for every stop: its swatch's, or the code of its color."""
    by_id = {swatch.id: swatch.name or swatch.color.hex for swatch in palette.swatches}
    return [by_id.get(stop.swatch or "", "") or (stop.color.hex if stop.color else "a color") for stop in plan.stops]


def suggested_name(plan: RampPlan, palette: Palette) -> str:
    """“Dusk to Lamp”: the names of the end swatches, or words for their colors."""
    by_id = {swatch.id: swatch.name for swatch in palette.swatches}
    ends = [plan.stops[place] for place in (0, -1)]
    first, last = (by_id.get(s.swatch or "") or suggest_name(s.color or palette.color_of(s.swatch or "")) for s in ends)
    return f"{first} to {last}"[:180]


def _name(palette: Palette, wanted: str, but: str | None = None) -> str:
    name = clean_name(wanted, "ramp name")
    if not name:
        raise BadInput("A ramp needs a name. Type at least one letter.")
    if any(ramp.name == name and ramp.id != but for ramp in palette.ramps):
        raise BadInput(f"There is a ramp “{name}” in this palette already. Choose another name.")
    return name


def sound(recipe: RampRecipe, palette: Palette) -> RampPlan:
    """The plan of a recipe. Raises `BadInput` or `Unknown` where it is no ramp of this palette."""
    plan = recipe.plan()
    plan.ramp(palette.color_of)
    return plan


@operation
class KeepRamp(Operation):
    """Keep a ramp with the palette, under a name of its own or a suggested one."""

    summary: ClassVar[str] = "Keep a ramp"
    kind: Literal["keep_ramp"] = "keep_ramp"
    ramp: RampRecipe
    name: str = ""
    tags: list[str] = []
    after: str | None = Field(default=None, description="the kept ramp that it shall stand behind; else it is the last one")

    def _named(self, palette: Palette) -> str:
        if self.name.strip():
            return _name(palette, self.name)
        return unused_name(suggested_name(self.ramp.plan(), palette), [ramp.name for ramp in palette.ramps])

    def label(self, palette: Palette) -> str:
        sound(self.ramp, palette)
        return f"Keep the {PURPOSES[self.ramp.purpose].label} “{self._named(palette)}”"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        plan = sound(self.ramp, palette)
        made = KeptRamp(self._named(palette), plan, tags=clean_tags(self.tags))
        places = [ramp.id for ramp in palette.ramps]
        at = places.index(palette.ramp(self.after).id) + 1 if self.after is not None else len(places)
        return Outcome(palette.with_ramps([*palette.ramps[:at], made, *palette.ramps[at:]]))


@operation
class ChangeRamp(Operation):
    """Keep a ramp as it is now in the place of what it was."""

    summary: ClassVar[str] = "Change a kept ramp"
    kind: Literal["change_ramp"] = "change_ramp"
    id: str
    ramp: RampRecipe

    def label(self, palette: Palette) -> str:
        return f"Change the ramp “{palette.ramp(self.id).name}”"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        changed = replace(palette.ramp(self.id), plan=sound(self.ramp, palette))
        return Outcome(palette.with_ramps(changed if ramp.id == self.id else ramp for ramp in palette.ramps))


@operation
class RenameRamp(Operation):
    """Name a kept ramp, and tag it where tags are given."""

    summary: ClassVar[str] = "Rename a kept ramp"
    kind: Literal["rename_ramp"] = "rename_ramp"
    id: str
    name: str
    tags: list[str] | None = None

    def label(self, palette: Palette) -> str:
        before = palette.ramp(self.id)
        if clean_name(self.name) == before.name:
            return f"Tag the ramp “{before.name}”"
        return f"Rename the ramp “{before.name}” to “{clean_name(self.name)}”"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        before = palette.ramp(self.id)
        tags = before.tags if self.tags is None else clean_tags(self.tags)
        changed = replace(before, name=_name(palette, self.name, but=self.id), tags=tags)
        return Outcome(palette.with_ramps(changed if ramp.id == self.id else ramp for ramp in palette.ramps))


@operation
class RemoveRamp(Operation):
    """Take a kept ramp away; the swatches that were baked from it stay."""

    summary: ClassVar[str] = "Remove a kept ramp"
    kind: Literal["remove_ramp"] = "remove_ramp"
    id: str

    def label(self, palette: Palette) -> str:
        return f"Remove the ramp “{palette.ramp(self.id).name}”"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        gone = palette.ramp(self.id)
        return Outcome(palette.with_ramps(ramp for ramp in palette.ramps if ramp.id != gone.id))


@operation
class MoveRamp(Operation):
    """Put a kept ramp at another place among the kept ones."""

    summary: ClassVar[str] = "Move a kept ramp"
    kind: Literal["move_ramp"] = "move_ramp"
    id: str
    to: int = Field(ge=0)

    def label(self, palette: Palette) -> str:
        return f"Move the ramp “{palette.ramp(self.id).name}”"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        moved = palette.ramp(self.id)
        others = [ramp for ramp in palette.ramps if ramp.id != moved.id]
        return Outcome(palette.with_ramps([*others[: self.to], moved, *others[self.to :]]))


@operation
class FollowRamp(Operation):
    """Say whether the swatches that were baked from a kept ramp change with it by themselves."""

    summary: ClassVar[str] = "Let swatches follow a kept ramp, or stay"
    kind: Literal["follow_ramp"] = "follow_ramp"
    id: str
    following: bool

    def label(self, palette: Palette) -> str:
        name = palette.ramp(self.id).name
        return f"Let swatches follow the ramp “{name}”" if self.following else f"Let the swatches of “{name}” stay as they are"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        changed = replace(palette.ramp(self.id), following=self.following)
        return Outcome(palette.with_ramps(changed if ramp.id == self.id else ramp for ramp in palette.ramps))
