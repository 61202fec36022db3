"""Tints, shades and tones."""

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from huvren.core.color.value import Color
from huvren.core.palette.derivations.derivation import Derivation, Named, chosen, derivation
from huvren.core.palette.values import Palette

WORDS = {"tints": "tint", "shades": "shade", "tones": "tone"}


@derivation
class Tints(Derivation):
    """Each named swatch in even OKLab steps toward white (tints), black (shades) or the gray of its lightness (tones)."""

    summary: ClassVar[str] = "Tints, shades and tones"
    kind: Literal["tints"] = "tints"
    ids: list[str]
    toward: Literal["tints", "shades", "tones"] = "tints"
    count: int = Field(default=4, ge=1, le=32)

    def sentence(self, palette: Palette) -> str:
        picked = palette.pick(self.ids)
        whose = f"“{picked[0].name}”" if len(picked) == 1 else f"{len(picked)} swatches"
        return f"Add {self.count} {self.toward} of {whose}"

    def colors(self, palette: Palette) -> list[Named]:
        made = []
        for swatch in chosen(palette, self.ids):
            own = np.array(swatch.color.to("oklab"))
            end = {"tints": (1.0, 0.0, 0.0), "shades": (0.0, 0.0, 0.0), "tones": (own[0], 0.0, 0.0)}[self.toward]
            for step in range(1, self.count + 1):
                share = step / (self.count + 1)
                lightness, a, b = own + (np.array(end) - own) * share
                name = f"{swatch.name[:170]} {WORDS[self.toward]} {step}"
                made.append((Color("oklab", (float(lightness), float(a), float(b)), swatch.color.alpha), name))
        return made
