"""Put derived colors into the palette."""

from dataclasses import replace
from typing import ClassVar, Literal

from pydantic import Field

from huvren.core.palette.derivations import AnyDerivation
from huvren.core.palette.naming import Namer, suggest_names
from huvren.core.palette.operations import UNUSED, Operation, Outcome, operation
from huvren.core.palette.operations.groups import in_strip_order
from huvren.core.palette.values import Group, Palette, Swatch, Usage, clean_name, new_id


@operation
class DeriveSwatches(Operation):
    """Work colors out and add them at the end, or as a group of their own where `group` names one."""

    summary: ClassVar[str] = "Add colors worked out from others"
    kind: Literal["derive_swatches"] = "derive_swatches"
    derivation: AnyDerivation
    group: str = Field(default="", max_length=200)

    def label(self, palette: Palette) -> str:
        said: str = self.derivation.sentence(palette)
        return said

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        named = self.derivation.colors(palette)
        words = suggest_names([color for color, _ in named])
        namer = Namer(swatch.name for swatch in palette.swatches)
        wanted = clean_name(self.group, "group name")
        group = Group(Namer(g.name for g in palette.groups).give(wanted), new_id()) if wanted else None
        made = [
            Swatch(color, namer.give(name or word), group=group.id if group else None)
            for (color, name), word in zip(named, words, strict=True)
        ]
        if group is None:
            return Outcome(palette.with_swatches([*palette.swatches, *made]))
        grown = replace(palette, groups=(*palette.groups, group))
        return Outcome(in_strip_order(grown.with_swatches([*palette.swatches, *made])))
