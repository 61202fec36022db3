"""Softened copies."""

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from huvren.core.color.adjusting import over
from huvren.core.color.value import Color
from huvren.core.palette.derivations.derivation import ColorSource, Derivation, Named, chosen, derivation
from huvren.core.palette.values import Palette


@derivation
class Softened(Derivation):
    """The named swatches as they look at an opacity over a ground."""

    summary: ClassVar[str] = "A softened copy"
    kind: Literal["softened"] = "softened"
    ids: list[str]
    ground: ColorSource
    opacity: float = Field(default=50, ge=0, le=100, description="percent")

    def sentence(self, palette: Palette) -> str:
        return f"Add {len(palette.pick(self.ids))} colors softened to {self.opacity:g} % over {self.ground.name(palette)}"

    def colors(self, palette: Palette) -> list[Named]:
        ground = np.array(self.ground.color(palette).srgb)
        made = []
        for swatch in chosen(palette, self.ids):
            red, green, blue = over(np.array(swatch.color.srgb), ground, self.opacity / 100)
            made.append((Color("srgb", (float(red), float(green), float(blue))), f"{swatch.name[:170]} {self.opacity:g} %"))
        return made
