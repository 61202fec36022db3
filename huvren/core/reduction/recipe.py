"""The recipe of a reduction: its settings, and the sentence that says them."""

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field, field_validator

from huvren.core.errors import Unknown
from huvren.core.reduction.choosers import CHOOSERS, Chooser
from huvren.core.reduction.dithers import DITHERS, Dither
from huvren.core.registry import Registry

FEWEST, MOST = 1, 256


def _known(registry: Registry[Chooser] | Registry[Dither], value: str) -> str:
    try:
        return registry[value].id
    except Unknown as error:
        raise ValueError(str(error)) from error


class ReduceRecipe(BaseModel):
    """Settings of a reduction. `colors` counts every index, the transparent one included."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    kind: Literal["reduce"] = "reduce"
    colors: int = Field(default=24, ge=FEWEST, le=MOST)
    chooser: str = "perceptual"
    dither: str = "none"
    strength: int = Field(default=100, ge=0, le=100, description="percent")
    alpha_threshold: int = Field(default=128, ge=0, le=255, description="8-bit alpha below this is transparent")

    @field_validator("chooser")
    @classmethod
    def _known_chooser(cls, value: str) -> str:
        return _known(CHOOSERS, value)

    @field_validator("dither")
    @classmethod
    def _known_dither(cls, value: str) -> str:
        return _known(DITHERS, value)


def say(recipe: ReduceRecipe, kept: int = 0) -> str:
    """The recipe sentence, as the history and the command line say it."""
    dither = DITHERS[recipe.dither]
    how = dither.label + (f" at {recipe.strength} %" if dither.has_strength and recipe.strength != 100 else "")
    keeping = f", keeping {kept} locked" if kept else ""
    noun = "color" if recipe.colors == 1 else "colors"
    return f"Reduce to {recipe.colors} {noun} chosen by {CHOOSERS[recipe.chooser].label}{keeping}, dithered {how}."
