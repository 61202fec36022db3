"""Colors picked from a picture or from the screen."""

from typing import ClassVar, Literal

from pydantic import Field

from huvren.core.color.notation import parse_color
from huvren.core.errors import BadInput
from huvren.core.palette.derivations.derivation import Derivation, Named, derivation
from huvren.core.palette.values import Palette, clean_name


@derivation
class Samples(Derivation):
    """Colors picked somewhere, as text."""

    summary: ClassVar[str] = "Colors picked"
    kind: Literal["samples"] = "samples"
    texts: list[str] = Field(max_length=512)
    source: str = Field(default="", max_length=200, description="where they were picked")

    def sentence(self, palette: Palette) -> str:
        noun = "color" if len(self.texts) == 1 else "colors"
        return f"Pick {len(self.texts)} {noun}" + (f" from “{clean_name(self.source[:100])}”" if self.source else "")

    def colors(self, palette: Palette) -> list[Named]:
        if not self.texts:
            raise BadInput("Nothing was picked yet.")
        return [(parse_color(text), "") for text in self.texts]
