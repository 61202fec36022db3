"""Companions of a base color, and colors drawn to go with the locked ones."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from huvren.core.choices import OneOf
from huvren.core.color.harmony import SCHEMES, companions, reroll
from huvren.core.palette.derivations.derivation import ColorSource, Derivation, Named, derivation
from huvren.core.palette.values import Palette


@derivation
class Harmony(Derivation):
    """The companions of a base color in a scheme, at its lightness."""

    summary: ClassVar[str] = "Companions of a base color"
    kind: Literal["harmony"] = "harmony"
    base: ColorSource
    scheme: Annotated[str, OneOf(SCHEMES)] = "complement"
    spread: float | None = Field(default=None, ge=0, le=180, description="degrees")
    count: int | None = Field(default=None, ge=2, le=32)
    with_base: bool = Field(default=False, description="whether a typed base color comes in as well")

    def sentence(self, palette: Palette) -> str:
        return f"Add the {SCHEMES[self.scheme].label} of {self.base.name(palette)}"

    def colors(self, palette: Palette) -> list[Named]:
        made = companions(self.base.color(palette), self.scheme, self.spread, self.count)
        begin = 0 if SCHEMES[self.scheme].by_lightness or (self.with_base and self.base.swatch is None) else 1
        return [(color, "") for color in made[begin:]]


@derivation
class Drawn(Derivation):
    """Colors drawn to go with the palette's locked swatches; another seed gives others."""

    summary: ClassVar[str] = "Colors drawn to go with the locked ones"
    kind: Literal["drawn"] = "drawn"
    scheme: Annotated[str, OneOf(SCHEMES)] = "analogous"
    spread: float | None = Field(default=None, ge=0, le=180, description="degrees")
    count: int = Field(default=5, ge=1, le=64)
    seed: int = Field(default=1, ge=0, le=2**31 - 1)

    def sentence(self, palette: Palette) -> str:
        return f"Draw {self.count} colors in {SCHEMES[self.scheme].label}, seed {self.seed}"

    def colors(self, palette: Palette) -> list[Named]:
        kept = [swatch.color for swatch in palette.swatches if swatch.locked and swatch.color.alpha > 0]
        return [(color, "") for color in reroll(kept, self.count, self.seed, self.scheme, self.spread)]
