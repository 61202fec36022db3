"""Mixtures by parts."""

from typing import Annotated, ClassVar, Literal

from pydantic import ConfigDict, Field

from huvren.core.bounded import Bounded
from huvren.core.choices import OneOf
from huvren.core.color.mixing import MODELS, ladder, mix
from huvren.core.errors import BadInput
from huvren.core.palette.derivations.derivation import ColorSource, Derivation, Named, derivation
from huvren.core.palette.values import Palette

MOST_PAINTS = 12


class Paint(Bounded):
    """A color and how many parts of it."""

    model_config = ConfigDict(frozen=True, extra="forbid", defer_build=True)
    color: ColorSource
    parts: float = Field(default=1, ge=0, le=1000)


@derivation
class Mixture(Derivation):
    """Two or more colors mixed by parts, as paint or as light; or the ladder between two of them."""

    summary: ClassVar[str] = "Mix by parts"
    kind: Literal["mixture"] = "mixture"
    paints: list[Paint] = Field(max_length=MOST_PAINTS)
    model: Annotated[str, OneOf(MODELS)] = "pigment"
    steps: int = Field(default=0, ge=0, le=32, description="colors of the ladder between the first two; 0 for the mixture alone")
    only: int | None = Field(default=None, ge=0, description="one step of the ladder")

    def sentence(self, palette: Palette) -> str:
        names = " and ".join(paint.color.name(palette) for paint in self.paints)
        parts = " : ".join(f"{paint.parts:g}" for paint in self.paints)
        if self.steps:
            return f"Add the ladder from {names.replace(' and ', ' to ')}, as {MODELS[self.model].label}"
        return f"Mix {names} {parts} as {MODELS[self.model].label}"

    def colors(self, palette: Palette) -> list[Named]:
        if len(self.paints) < 2:
            raise BadInput("Mixing needs two colors or more. Choose another one.")
        colors = [paint.color.color(palette) for paint in self.paints]
        if not self.steps:
            return [(mix(colors, [paint.parts for paint in self.paints], self.model), "")]
        if len(colors) != 2:
            raise BadInput(f"A ladder goes between two colors; {len(colors)} were given.")
        made: list[Named] = [(color, "") for color in ladder(colors[0], colors[1], self.steps, self.model)]
        if self.only is None:
            return made
        if self.only >= len(made):
            raise BadInput(f"The ladder has {len(made)} steps; there is no step {self.only + 1}.")
        return [made[self.only]]
