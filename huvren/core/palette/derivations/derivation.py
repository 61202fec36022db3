"""What derives new swatches, and the registry of derivations."""

from abc import abstractmethod

from pydantic import ConfigDict, Field, model_validator

from huvren.core.bounded import Bounded
from huvren.core.color.notation import parse_color
from huvren.core.color.value import Color
from huvren.core.model_registry import ModelOfKind, ModelRegistry
from huvren.core.palette.values import Palette, Swatch, clean_name

Named = tuple[Color, str]


class ColorSource(Bounded):
    """A color by the swatch that has it, or as text."""

    model_config = ConfigDict(frozen=True, extra="forbid", defer_build=True)
    swatch: str | None = None
    text: str | None = Field(default=None, max_length=200)

    @model_validator(mode="after")
    def _one(self) -> "ColorSource":
        if (self.swatch is None) == (self.text is None):
            raise ValueError("Name a swatch or write a color, one of the two.")
        return self

    def color(self, palette: Palette) -> Color:
        if self.swatch is not None:
            return palette.swatches[palette.index_of(self.swatch)].color
        return parse_color(self.text or "")

    def name(self, palette: Palette) -> str:
        """What the history calls it."""
        if self.swatch is not None:
            swatch = palette.swatches[palette.index_of(self.swatch)]
            return swatch.name or swatch.color.hex
        return clean_name((self.text or "")[:60])


class Derivation(ModelOfKind):
    """Base of every derivation."""

    @abstractmethod
    def sentence(self, palette: Palette) -> str:
        """What the history says."""

    @abstractmethod
    def colors(self, palette: Palette) -> list[Named]:
        """The colors with names; an empty name takes the suggested one. Raises `BadInput` or `Unknown`."""


DERIVATIONS: ModelRegistry[Derivation] = ModelRegistry("derivation")
derivation = DERIVATIONS.model
"""Class decorator for a derivation."""


def chosen(palette: Palette, ids: list[str]) -> list[Swatch]:
    """The named swatches that are not clear."""
    return [swatch for swatch in palette.pick(ids) if swatch.color.alpha > 0]
