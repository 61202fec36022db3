"""Bake ramps into swatches, once or again, and fill in between swatches."""

from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise
from typing import ClassVar, Literal

from pydantic import Field

from huvren.core.color.value import Color
from huvren.core.errors import BadInput
from huvren.core.palette.baking import baked_again, steps_of
from huvren.core.palette.naming import Namer, unused_name
from huvren.core.palette.operations import UNUSED, Operation, Outcome, count_swatches, operation
from huvren.core.palette.operations.groups import in_strip_order
from huvren.core.palette.operations.ramps import sound, stop_names, suggested_name
from huvren.core.palette.values import Group, Palette, Swatch, Usage, clean_name, new_id
from huvren.core.ramp.plan import PlanStop
from huvren.core.ramp.recipe import RampRecipe
from huvren.core.ramp.stops import MOST_STEPS


def _with_group(palette: Palette, colors: Sequence[Color], name: str) -> tuple[Palette, list[Swatch], Group]:
    """The palette with the colors behind the last swatch, as a group of their own."""
    group = Group(unused_name(name, [group.name for group in palette.groups]), new_id())
    namer = Namer(swatch.name for swatch in palette.swatches)
    made = [Swatch(color, namer.give(f"{name[:180]} {step}"), new_id(), group=group.id) for step, color in enumerate(colors, start=1)]
    grown = replace(palette, groups=(*palette.groups, group)).with_swatches([*palette.swatches, *made])
    return in_strip_order(grown), made, group


@operation
class BakeRamp(Operation):
    """Put exactly as many new swatches as the ramp has steps behind the last one, as a group of their own.

    Of a ramp that is kept (`id`), or of any (`ramp`), with more of them (`others`) as further groups.
    """

    summary: ClassVar[str] = "Bake a ramp into swatches"
    kind: Literal["bake_ramp"] = "bake_ramp"
    ramp: RampRecipe | None = None
    id: str | None = None
    others: list[RampRecipe] = Field(default=[], max_length=64)
    name: str = ""

    def label(self, palette: Palette) -> str:
        if self.id is not None:
            kept = palette.ramp(self.id)
            return f"Bake “{kept.name}” into {count_swatches(kept.plan.steps or 0)}"
        if self.ramp is None:
            return "Bake a ramp"
        if self.others:
            return f"Bake {len(self.others) + 1} ramps into {count_swatches(sum(r.steps or 0 for r in (self.ramp, *self.others)))}"
        plan = self.ramp.plan()
        return plan.sentence(stop_names(plan, palette)) if plan.stops else "Bake a ramp"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        if (self.ramp is None) == (self.id is None):
            raise BadInput("Say which ramp to bake: one that is kept, or another.")
        if self.id is not None:
            kept = palette.ramp(self.id)
            name = clean_name(self.name, "group name") or kept.name
            grown, made, group = _with_group(palette, steps_of(kept.plan, palette), name)
            marked = replace(kept, group=group.id, baked=tuple((swatch.id, swatch.color) for swatch in made))
            return Outcome(grown.with_ramps(marked if ramp.id == kept.id else ramp for ramp in grown.ramps))
        grown = palette
        for recipe in filter(None, (self.ramp, *self.others)):
            plan = sound(recipe, palette)
            name = clean_name(self.name, "group name") if not self.others else ""
            grown, _, _ = _with_group(grown, steps_of(plan, palette), name or suggested_name(plan, palette))
        return Outcome(grown)


@operation
class BakeAgain(Operation):
    """Let the swatches baked from a kept ramp follow it; those changed or taken out by hand since stay so, and are said.

    Of other counts, further swatches are added behind the last of them, and those that are too many are taken out.
    """

    summary: ClassVar[str] = "Bake a ramp again"
    kind: Literal["bake_again"] = "bake_again"
    id: str

    def label(self, palette: Palette) -> str:
        return f"Bake “{palette.ramp(self.id).name}” again"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        kept = palette.ramp(self.id)
        if not kept.baked:
            raise BadInput(f"“{kept.name}” has no swatches that were baked from it. Bake it first.")
        after, notes = baked_again(kept, palette)
        return Outcome(after, notes=notes)


@operation
class FillBetween(Operation):
    """Put colors in between: so many between each two of the named swatches that follow each other, or, without a number,
    into the empty places between them. The named swatches stay as they are; `ramp` says how, its stops do not count.
    """

    summary: ClassVar[str] = "Fill in between swatches"
    kind: Literal["fill_between"] = "fill_between"
    ids: list[str]
    count: int | None = Field(default=None, ge=1, le=MOST_STEPS)
    ramp: RampRecipe = RampRecipe.model_construct(stops=[])

    def label(self, palette: Palette) -> str:
        picked = palette.pick(self.ids)
        ends = f"between “{picked[0].name}” and “{picked[-1].name}”"
        return f"Fill the empty places {ends}" if self.count is None else f"Fill in {self.count} at a time {ends}"

    def _between(self, palette: Palette, left: Swatch, right: Swatch, count: int) -> list[Color]:
        settings = replace(self.ramp.plan(), stops=(PlanStop(swatch=left.id), PlanStop(swatch=right.id)), steps=None, closed=False)
        return settings.ramp(palette.color_of).baked(count + 2)[1:-1] if count else []

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        picked = palette.pick(self.ids)
        if len(picked) < 2:
            raise BadInput("Filling in between needs two swatches or more. Select another one.")
        if self.count is None and palette.slots is None:
            raise BadInput("This palette has no empty places. Say how many colors to put between each two swatches.")
        behind: dict[str, list[Swatch]] = {}
        namer = Namer(swatch.name for swatch in palette.swatches)
        taken = {swatch.slot for swatch in palette.swatches}
        for left, right in pairwise(picked):
            free: list[int | None] = []
            if palette.slots is not None and left.slot is not None and right.slot is not None:
                free = [slot for slot in range(left.slot + 1, right.slot) if slot not in taken]
            count = len(free) if self.count is None else self.count
            slots = free if self.count is None else [None] * count
            group = left.group if left.group == right.group else None
            names = f"{(left.name or left.color.hex)[:90]} to {(right.name or right.color.hex)[:90]}"
            behind[left.id] = [
                Swatch(color, namer.give(f"{names} {step}"), new_id(), group=group, slot=slot)
                for step, (color, slot) in enumerate(zip(self._between(palette, left, right, count), slots, strict=True), start=1)
            ]
        if not any(behind.values()):
            raise BadInput("There is no empty place between those swatches.")
        return Outcome(self._placed(palette, behind))

    def _placed(self, palette: Palette, behind: dict[str, list[Swatch]]) -> Palette:
        """New ones stand behind their left neighbor; one without a group behind that neighbor's whole group."""
        made: list[Swatch] = []
        waiting: list[Swatch] = []
        for place, swatch in enumerate(palette.swatches):
            made.append(swatch)
            new = behind.get(swatch.id, [])
            if new and new[0].group == swatch.group:
                made += new
            else:
                waiting += new
            following = palette.swatches[place + 1].group if place + 1 < len(palette.swatches) else None
            if waiting and (swatch.group is None or following != swatch.group):
                made += waiting
                waiting = []
        return palette.with_swatches(made)
