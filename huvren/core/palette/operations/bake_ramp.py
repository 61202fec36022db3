"""Bake a ramp into the palette."""

from dataclasses import replace
from typing import ClassVar, Literal

from huvren.core.palette.naming import Namer, suggest_name, unused_name
from huvren.core.palette.operations import UNUSED, Operation, Outcome, operation
from huvren.core.palette.operations.groups import in_strip_order
from huvren.core.palette.values import Group, Palette, Swatch, Usage, clean_name, new_id
from huvren.core.ramp.recipe import RampRecipe, ramp_of, say
from huvren.core.ramp.values import Ramp


def ramp_names(recipe: RampRecipe, palette: Palette) -> list[str]:
    """A name for every stop: its swatch's, or the text as typed."""
    by_id = {swatch.id: swatch.name or swatch.color.hex for swatch in palette.swatches}
    return [by_id.get(stop.swatch or "", "") or clean_name(stop.text or "a color") for stop in recipe.stops]


def ramp_in(recipe: RampRecipe, palette: Palette) -> Ramp:
    """The ramp of a recipe, with the colors that its swatches have in this palette."""
    return ramp_of(recipe, lambda swatch_id: palette.swatches[palette.index_of(swatch_id)].color)


@operation
class BakeRamp(Operation):
    """Put exactly as many new swatches as the ramp has steps behind the last one, as a group of their own."""

    summary: ClassVar[str] = "Bake a ramp into swatches"
    kind: Literal["bake_ramp"] = "bake_ramp"
    ramp: RampRecipe
    name: str = ""

    def label(self, palette: Palette) -> str:
        return say(self.ramp, ramp_names(self.ramp, palette)) if self.ramp.stops else "Bake a ramp"

    def _suggested(self, palette: Palette, ramp: Ramp) -> str:
        """“Dusk to Lamp”: the names of the end swatches, or words for a typed color."""
        by_id = {swatch.id: swatch.name for swatch in palette.swatches}
        ends = [(self.ramp.stops[place].swatch, ramp.stops[place].color) for place in (0, -1)]
        first, last = (by_id.get(swatch_id or "") or suggest_name(color) for swatch_id, color in ends)
        return f"{first} to {last}"[:180]

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        ramp = ramp_in(self.ramp, palette)
        colors = ramp.baked(self.ramp.steps)
        wanted = clean_name(self.name, "group name") or self._suggested(palette, ramp)
        group = Group(unused_name(wanted, [group.name for group in palette.groups]), new_id())
        namer = Namer(swatch.name for swatch in palette.swatches)
        made = [
            Swatch(color, namer.give(f"{wanted[:180]} {step}"), new_id(), group=group.id)
            for step, color in enumerate(colors, start=1)
        ]
        grown = replace(palette, groups=(*palette.groups, group))
        return Outcome(in_strip_order(grown.with_swatches([*palette.swatches, *made])))
