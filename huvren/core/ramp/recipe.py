"""The recipe of a ramp: stops, steps and the way between, and the sentence that says them."""

from collections.abc import Callable, Sequence
from typing import Annotated, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from huvren.core.color.notation import parse_color
from huvren.core.color.value import Color
from huvren.core.errors import BadInput
from huvren.core.ramp.values import FEWEST_STEPS, MOST_STEPS, MOST_STOPS, Ramp, Stop, said_ramp
from huvren.core.ramp.ways import HUE_ROUTES, WAYS, Lane


class RampStop(BaseModel):
    """A stop: a swatch by its id, or a color as text; without a position it stands evenly between its neighbors."""

    model_config = ConfigDict(frozen=True, extra="forbid", defer_build=True)
    swatch: str | None = None
    text: str | None = Field(default=None, max_length=200)
    position: float | None = Field(default=None, ge=0, le=1)


class RampRecipe(BaseModel):
    """Settings of a ramp."""

    model_config = ConfigDict(frozen=True, extra="forbid", defer_build=True)
    kind: Literal["ramp"] = "ramp"
    stops: list[RampStop] = Field(max_length=MOST_STOPS)
    steps: int = Field(default=9, ge=FEWEST_STEPS, le=MOST_STEPS)
    space: Annotated[str, AfterValidator(WAYS.known)] = "oklab"
    hue: Annotated[str, AfterValidator(HUE_ROUTES.known)] = "shorter"


Look = Callable[[str], Color]


def ramp_of(recipe: RampRecipe, look: Look) -> Ramp:
    """The ramp that a recipe describes; `look` gives the color of a swatch id. Raises `BadInput` for a stop that is neither."""
    stops = []
    for place, stop in enumerate(recipe.stops):
        if (stop.swatch is None) == (stop.text is None):
            raise BadInput(f"Stop {place} of the ramp must be either a swatch or a color.")
        color = look(stop.swatch) if stop.swatch is not None else parse_color(stop.text or "")
        stops.append(Stop(color, stop.position))
    return Ramp(tuple(stops), Lane.of(recipe.space, recipe.hue))


def say(recipe: RampRecipe, names: Sequence[str]) -> str:
    """The recipe sentence, with a name for every stop."""
    return said_ramp(names, recipe.steps, Lane.of(recipe.space, recipe.hue))
