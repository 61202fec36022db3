"""What derives new swatches, and the registry of derivations."""

from abc import abstractmethod
from dataclasses import dataclass
from typing import ClassVar, TypeVar

from pydantic import BaseModel, ConfigDict, Field, model_validator

from huvren.core.color.notation import parse_color
from huvren.core.color.value import Color
from huvren.core.palette.values import Palette, Swatch, clean_name
from huvren.core.registry import Registry

Named = tuple[Color, str]


class ColorSource(BaseModel):
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


class Derivation(BaseModel):
    """Base of every derivation."""

    model_config = ConfigDict(frozen=True, extra="forbid", defer_build=True)
    summary: ClassVar[str] = ""

    @abstractmethod
    def sentence(self, palette: Palette) -> str:
        """What the history says."""

    @abstractmethod
    def colors(self, palette: Palette) -> list[Named]:
        """The colors with names; an empty name takes the suggested one. Raises `BadInput` or `Unknown`."""


@dataclass(frozen=True)
class DerivationEntry:
    id: str
    """By which it is named in documents, addresses and commands."""
    model: type[Derivation]
    """Its settings."""


DERIVATIONS: Registry[DerivationEntry] = Registry("derivation")
DerivationType = TypeVar("DerivationType", bound=type[Derivation])


def derivation(model: DerivationType) -> DerivationType:
    """Class decorator: register under the default of the model's `kind`."""
    if not model.summary:
        raise TypeError(f"The derivation {model.__name__} has no summary.")
    kind = getattr(model, "model_fields")["kind"].default  # noqa: B009  (mypy has no overload for a type variable)
    DERIVATIONS.register(DerivationEntry(kind, model))
    return model


def chosen(palette: Palette, ids: list[str]) -> list[Swatch]:
    """The named swatches that are not clear."""
    return [swatch for swatch in palette.pick(ids) if swatch.color.alpha > 0]
