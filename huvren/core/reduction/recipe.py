"""The recipe of a reduction: its settings, and the sentence that says them."""

from typing import Annotated, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from huvren.core.reduction.choosers import CHOOSERS
from huvren.core.reduction.dithers import DITHERS

FEWEST, MOST = 1, 256


class ReduceRecipe(BaseModel):
    """Settings of a reduction. `colors` counts every index, the transparent one included."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    kind: Literal["reduce"] = "reduce"
    colors: int = Field(default=24, ge=FEWEST, le=MOST)
    chooser: Annotated[str, AfterValidator(CHOOSERS.known)] = "perceptual"
    dither: Annotated[str, AfterValidator(DITHERS.known)] = "none"
    strength: int = Field(default=100, ge=0, le=100, description="percent")
    alpha_threshold: int = Field(default=128, ge=0, le=255, description="8-bit alpha below this is transparent")


def say(recipe: ReduceRecipe, kept: int = 0) -> str:
    """The recipe sentence, as the history and the command line say it."""
    dither = DITHERS[recipe.dither]
    how = dither.label + (f" at {recipe.strength} %" if dither.has_strength and recipe.strength != 100 else "")
    keeping = f", keeping {kept} locked" if kept else ""
    noun = "color" if recipe.colors == 1 else "colors"
    return f"Reduce to {recipe.colors} {noun} chosen by {CHOOSERS[recipe.chooser].label}{keeping}, dithered {how}."
