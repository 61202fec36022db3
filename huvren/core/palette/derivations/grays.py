"""Gray ladders."""

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from huvren.core.color.value import Color
from huvren.core.palette.derivations.derivation import Derivation, Named, derivation
from huvren.core.palette.values import Palette


@derivation
class GrayLadder(Derivation):
    """Grays from white to black: by even percentages of black, as printers name them, or by even lightness."""

    summary: ClassVar[str] = "A ladder of grays"
    kind: Literal["grays"] = "grays"
    by: Literal["black", "lightness"] = "lightness"
    count: int = Field(default=9, ge=2, le=64)
    ends: bool = Field(default=True, description="whether white and black are steps of it")

    def sentence(self, palette: Palette) -> str:
        return f"Add {self.count} grays by {'percent of black' if self.by == 'black' else 'even lightness'}"

    def colors(self, palette: Palette) -> list[Named]:
        steps = np.linspace(0, 1, self.count) if self.ends else np.linspace(0, 1, self.count + 2)[1:-1]
        if self.by == "black":
            return [(Color("cmyk", (0.0, 0.0, 0.0, float(step))), f"K {step * 100:.3g}") for step in steps]
        return [(Color("oklch", (float(1 - step), 0.0, 0.0)), f"Gray {(1 - step) * 100:.3g}") for step in steps]
