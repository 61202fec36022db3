"""Variants: the same swatches in other colors, such as by day, by lamplight and by night."""

from dataclasses import replace
from typing import ClassVar, Literal

from huvren.core.errors import BadInput
from huvren.core.palette.operations import UNUSED, Operation, Outcome, operation
from huvren.core.palette.values import Palette, Usage, Variant, clean_name, new_id

MOST_VARIANTS = 24
FIRST_NAME = "First"


def _variant(palette: Palette, variant_id: str) -> Variant:
    for variant in palette.variants:
        if variant.id == variant_id:
            return variant
    raise BadInput("That variant is no longer in the palette. Reload to see its present state.")


def _name(palette: Palette, wanted: str, but: str | None = None) -> str:
    name = clean_name(wanted, "variant name")
    if not name:
        raise BadInput("A variant needs a name. Type at least one letter.")
    if any(variant.name == name and variant.id != but for variant in palette.variants):
        raise BadInput(f"There is a variant “{name}” already. Choose another name.")
    return name


def _stored(palette: Palette) -> Palette:
    """The palette with its present colors written down in the variant that they belong to."""
    present = tuple((swatch.id, swatch.color) for swatch in palette.swatches)
    variants = tuple(replace(v, colors=present) if v.id == palette.variant else v for v in palette.variants)
    return replace(palette, variants=variants)


@operation
class AddVariant(Operation):
    """Begin another variant with the present colors, and show it. The first one names what was there before as well."""

    summary: ClassVar[str] = "Add a variant"
    kind: Literal["add_variant"] = "add_variant"
    name: str
    first_name: str = FIRST_NAME

    def label(self, palette: Palette) -> str:
        return f"Add the variant “{clean_name(self.name)}”"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        if len(palette.variants) >= MOST_VARIANTS:
            raise BadInput(f"A palette has at most {MOST_VARIANTS} variants.")
        if not palette.variants:
            first = Variant(_name(palette, self.first_name), new_id())
            palette = replace(palette, variants=(first,), variant=first.id)
        made = Variant(_name(palette, self.name), new_id())
        palette = _stored(palette)
        return Outcome(replace(palette, variants=(*palette.variants, made), variant=made.id))


def in_variant(palette: Palette, variant_id: str) -> Palette:
    """The palette with another variant shown. Raises `Unknown`."""
    return ShowVariant(id=variant_id).apply(palette).palette


@operation
class ShowVariant(Operation):
    """Show another variant; the present colors stay in theirs. Swatches added since keep their color there."""

    recolors: ClassVar[bool] = False
    summary: ClassVar[str] = "Show a variant"
    kind: Literal["show_variant"] = "show_variant"
    id: str

    def label(self, palette: Palette) -> str:
        return f"Show the variant “{_variant(palette, self.id).name}”"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        wanted = _variant(palette, self.id)
        if wanted.id == palette.variant:
            return Outcome(palette)
        colors = dict(wanted.colors)
        shown = [replace(swatch, color=colors.get(swatch.id, swatch.color)) for swatch in palette.swatches]
        return Outcome(replace(_stored(palette), variant=wanted.id).with_swatches(shown))


@operation
class RenameVariant(Operation):
    """Name a variant."""

    summary: ClassVar[str] = "Rename a variant"
    kind: Literal["rename_variant"] = "rename_variant"
    id: str
    name: str

    def label(self, palette: Palette) -> str:
        return f"Rename the variant “{_variant(palette, self.id).name}” to “{clean_name(self.name)}”"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        renamed = replace(_variant(palette, self.id), name=_name(palette, self.name, but=self.id))
        return Outcome(replace(palette, variants=tuple(renamed if v.id == self.id else v for v in palette.variants)))


@operation
class RemoveVariant(Operation):
    """Take away a variant that is not shown; with only one left, the palette has none."""

    recolors: ClassVar[bool] = False
    summary: ClassVar[str] = "Remove a variant"
    kind: Literal["remove_variant"] = "remove_variant"
    id: str

    def label(self, palette: Palette) -> str:
        return f"Remove the variant “{_variant(palette, self.id).name}”"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        gone = _variant(palette, self.id)
        if gone.id == palette.variant:
            raise BadInput(f"“{gone.name}” is the variant that is shown. Show another one before removing it.")
        left = tuple(variant for variant in palette.variants if variant.id != gone.id)
        if len(left) == 1:
            return Outcome(replace(palette, variants=(), variant=None))
        return Outcome(replace(palette, variants=left))
