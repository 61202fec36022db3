"""The recipe of a ramp: stops, steps and the way between, and the sentence that says them."""

from collections.abc import Callable, Sequence
from typing import Annotated, Literal

import numpy as np
from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from huvren.core.color.notation import parse_color
from huvren.core.color.value import Color
from huvren.core.errors import BadInput
from huvren.core.ramp.interpolate import Stop, sample, settle_positions
from huvren.core.ramp.ways import HUE_ROUTES, WAYS

FEWEST_STEPS, MOST_STEPS = 2, 64
MOST_STOPS = 64
SAME_PLACE = 1e-9


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


def stops_of(recipe: RampRecipe, look: Look) -> list[Stop]:
    """The stops as colors; `look` gives the color of a swatch id. Raises `BadInput` for a stop that is neither."""
    stops = []
    for place, stop in enumerate(recipe.stops):
        if (stop.swatch is None) == (stop.text is None):
            raise BadInput(f"Stop {place} of the ramp must be either a swatch or a color.")
        color = look(stop.swatch) if stop.swatch is not None else parse_color(stop.text or "")
        stops.append(Stop(color, stop.position))
    return stops


def bake(recipe: RampRecipe, stops: Sequence[Stop]) -> list[Color]:
    """Exactly `recipe.steps` colors, evenly from end to end; a step that falls on a stop is that stop's very color."""
    places = np.linspace(0, 1, recipe.steps)
    coords, alphas = sample(stops, recipe.space, recipe.hue, places)
    positions = settle_positions([stop.position for stop in stops])
    colors = []
    for place, row, alpha in zip(places.tolist(), coords.tolist(), alphas.tolist(), strict=True):
        # Later stops win where two share a place, as they do in `sample`.
        known = next((s.color for s, at in reversed(list(zip(stops, positions, strict=True))) if abs(at - place) < SAME_PLACE), None)
        colors.append(known or Color(recipe.space, tuple(row), min(max(alpha, 0.0), 1.0)))
    return colors


def say(recipe: RampRecipe, names: Sequence[str]) -> str:
    """The recipe sentence, with a name for every stop."""
    through = f" through {', '.join(names[1:-1])}" if len(names) > 2 else ""
    way = WAYS[recipe.space]
    route = f", {HUE_ROUTES[recipe.hue].label}" if way.is_polar else ""
    return f"Ramp from {names[0]}{through} to {names[-1]} in {recipe.steps} steps, in {way.label}{route}."
