"""Rename a swatch or the palette."""

from dataclasses import replace
from typing import ClassVar, Literal

from huvren.core.errors import BadInput
from huvren.core.palette.naming import suggest_name
from huvren.core.palette.operations import UNUSED, Operation, Outcome, operation
from huvren.core.palette.values import Palette, Usage, clean_name


@operation
class RenameSwatch(Operation):
    """Name one swatch; an empty name gives the suggested one back."""

    summary: ClassVar[str] = "Rename a swatch"
    kind: Literal["rename_swatch"] = "rename_swatch"
    id: str
    name: str

    def label(self, palette: Palette) -> str:
        swatch = palette.swatches[palette.index_of(self.id)]
        return f"Rename “{swatch.name}” to “{clean_name(self.name) or suggest_name(swatch.color)}”"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        swatch = palette.swatches[palette.index_of(self.id)]
        return Outcome(palette.change(self.id, name=clean_name(self.name) or suggest_name(swatch.color)))


@operation
class RenamePalette(Operation):
    """Name the palette."""

    summary: ClassVar[str] = "Rename the palette"
    kind: Literal["rename_palette"] = "rename_palette"
    name: str

    def label(self, palette: Palette) -> str:
        return f"Rename the palette to “{clean_name(self.name)}”"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        name = clean_name(self.name, "palette name")
        if not name:
            raise BadInput("A palette needs a name. Type at least one letter.")
        return Outcome(replace(palette, name=name))
