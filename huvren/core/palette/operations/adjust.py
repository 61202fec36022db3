"""Adjust many swatches at once."""

from dataclasses import replace
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from huvren.core.color.adjusting import Adjustment, adjust, over
from huvren.core.color.notation import parse_color
from huvren.core.color.value import Color, srgb_of
from huvren.core.errors import BadInput
from huvren.core.palette.operations import UNUSED, Operation, Outcome, operation, said_swatches
from huvren.core.palette.values import Palette, Usage


@operation
class AdjustSwatches(Operation):
    """Turn hues, scale chroma, bend lightness, warm or cool, and soften over a ground. Locked swatches stay as they are.

    Percentages; `opacity` below 100 lays the colors over `ground` and keeps what is seen.
    """

    summary: ClassVar[str] = "Adjust colors"
    kind: Literal["adjust_swatches"] = "adjust_swatches"
    ids: list[str] | None = None
    hue_turn: float = Field(default=0, ge=-180, le=180)
    chroma: float = Field(default=100, ge=0, le=300)
    lightness: float = Field(default=0, ge=-100, le=100)
    contrast: float = Field(default=0, ge=-100, le=100)
    curve: float = Field(default=0, ge=-100, le=100)
    warmth: float = Field(default=0, ge=-100, le=100)
    opacity: float = Field(default=100, ge=0, le=100)
    ground: str = Field(default="#ffffff", max_length=60)

    def label(self, palette: Palette) -> str:
        what = "all swatches" if self.ids is None else said_swatches(palette.pick(self.ids))
        return f"Adjust {what}: {self.manner() or 'nothing'}"

    def manner(self) -> str:
        parts = [
            f"hue turned {self.hue_turn:+g}°" if self.hue_turn else "",
            f"chroma {self.chroma:g} %" if self.chroma != 100 else "",
            f"lightness {self.lightness:+g}" if self.lightness else "",
            f"contrast {self.contrast:+g}" if self.contrast else "",
            f"middle tones {self.curve:+g}" if self.curve else "",
            f"{'warmer' if self.warmth > 0 else 'cooler'} by {abs(self.warmth):g}" if self.warmth else "",
            f"softened to {self.opacity:g} % over {parse_color(self.ground).hex}" if self.opacity != 100 else "",
        ]
        return ", ".join(filter(None, parts))

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        among = list(palette.swatches) if self.ids is None else palette.pick(self.ids)
        among = [swatch for swatch in among if swatch.color.alpha > 0]
        free = [swatch for swatch in among if not swatch.locked]
        if among and not free:
            raise BadInput("All of those swatches are locked. Unlock the ones that may change.")
        if not free:
            return Outcome(palette)
        srgb = srgb_of([swatch.color for swatch in free])[0]
        wanted = Adjustment(
            self.hue_turn, self.chroma / 100, self.lightness / 100, self.contrast / 100, self.curve / 100, self.warmth / 100
        )
        adjusted = srgb if wanted == Adjustment() else adjust(srgb, wanted)
        if self.opacity != 100:
            adjusted = over(adjusted, np.array(parse_color(self.ground).srgb), self.opacity / 100)
        if adjusted is srgb:
            return Outcome(palette)
        changed = {
            swatch.id: replace(swatch, color=Color("srgb", (float(r), float(g), float(b)), swatch.color.alpha))
            for swatch, (r, g, b) in zip(free, adjusted, strict=True)
        }
        return Outcome(palette.change_all(changed))
