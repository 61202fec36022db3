"""Change the color of a swatch."""

from typing import ClassVar, Literal

from pydantic import Field, model_validator

from huvren.core.color.notation import parse_color
from huvren.core.color.value import Color
from huvren.core.palette.operations import UNUSED, Operation, Outcome, operation
from huvren.core.palette.values import Palette, Usage


@operation
class RecolorSwatch(Operation):
    """Give one swatch another color, as text or as coordinates; it keeps its id, so linked pictures follow."""

    summary: ClassVar[str] = "Change a swatch's color"
    kind: Literal["recolor_swatch"] = "recolor_swatch"
    id: str
    text: str | None = Field(default=None, max_length=200)
    space: str | None = None
    coords: list[float] | None = None
    alpha: float | None = Field(default=None, ge=0, le=1, description="with coordinates; left out, it stays")

    @model_validator(mode="after")
    def _one_form(self) -> "RecolorSwatch":
        if (self.text is None) == (self.space is None or self.coords is None):
            raise ValueError("Give either text, or a space with coordinates.")
        return self

    def color(self, palette: Palette) -> Color:
        """The new color; coordinates keep the swatch's alpha, text brings its own."""
        if self.text is not None:
            return parse_color(self.text)
        old = palette.swatches[palette.index_of(self.id)].color
        return Color(self.space or "srgb", tuple(self.coords or ()), old.alpha if self.alpha is None else self.alpha)

    def label(self, palette: Palette) -> str:
        swatch = palette.swatches[palette.index_of(self.id)]
        return f"Recolor “{swatch.name}” to {self.color(palette).hex}"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        return Outcome(palette.change(self.id, color=self.color(palette)))
