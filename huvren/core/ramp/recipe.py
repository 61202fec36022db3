"""The recipe of a ramp, as an interface or a script sends it: a plan whose colors may also be typed."""

from typing import Annotated, Any, Literal

from pydantic import ConfigDict, Field

from huvren.core.bounded import Bounded
from huvren.core.choices import OneOf
from huvren.core.color.measures import MEASURES
from huvren.core.color.notation import parse_color
from huvren.core.color.value import Color
from huvren.core.errors import BadInput
from huvren.core.ramp.curves import CURVES
from huvren.core.ramp.easings import EASINGS, Easing
from huvren.core.ramp.gamuts import GAMUTS
from huvren.core.ramp.plan import MOST_NUMBERS, PURPOSES, PlanStop, RampPlan, plan_to_document
from huvren.core.ramp.spacings import SPACINGS
from huvren.core.ramp.stops import FEWEST_STEPS, LEAST_MIDPOINT, MOST_STEPS, MOST_STOPS
from huvren.core.ramp.ways import HUE_ROUTES, WAYS

_EXACT = ConfigDict(frozen=True, extra="forbid", defer_build=True)


class ColorIn(Bounded):
    """A color as documents hold it; null is a missing component."""

    model_config = _EXACT
    space: str
    coords: list[float | None] = Field(max_length=8)
    alpha: float | None = 1.0

    def color(self) -> Color:
        return Color.of(self.space, self.coords, self.alpha)


class RampEasing(Bounded):
    """How the interval behind a stop is passed; the usual numbers where none are given."""

    model_config = _EXACT
    kind: Annotated[str, OneOf(EASINGS)] = "linear"
    numbers: list[float] = Field(default=[], max_length=4)


class RampStop(Bounded):
    """A stop: a swatch by its id, a color, or a color as text; without a position it stands evenly between its neighbors."""

    model_config = _EXACT
    swatch: str | None = Field(default=None, max_length=100)
    text: str | None = Field(default=None, max_length=200)
    color: ColorIn | None = None
    position: float | None = Field(default=None, ge=0, le=1)
    midpoint: float = Field(default=0.5, ge=LEAST_MIDPOINT, le=1 - LEAST_MIDPOINT)
    easing: RampEasing = RampEasing.model_construct(kind="linear", numbers=[])

    def planned(self, place: int) -> PlanStop:
        if sum(given is not None for given in (self.swatch, self.text, self.color)) != 1:
            raise BadInput(f"Stop {place} of the ramp must be either a swatch or a color.")
        color = parse_color(self.text) if self.text is not None else self.color.color() if self.color is not None else None
        return PlanStop(color, self.swatch, self.position, self.midpoint, Easing(self.easing.kind, tuple(self.easing.numbers)))


class RampRecipe(Bounded):
    """Settings of a ramp."""

    model_config = _EXACT
    kind: Literal["ramp"] = "ramp"
    stops: list[RampStop] = Field(max_length=MOST_STOPS)
    steps: int | None = Field(default=9, ge=FEWEST_STEPS, le=MOST_STEPS, description="null for a continuous ramp")
    space: Annotated[str, OneOf(WAYS)] = "oklab"
    hue: Annotated[str, OneOf(HUE_ROUTES)] = "shorter"
    curve: Annotated[str, OneOf(CURVES)] = "straight"
    spacing: Annotated[str, OneOf(SPACINGS)] = "position"
    gamut: Annotated[str, OneOf(GAMUTS)] = "reduce"
    closed: bool = Field(default=False, description="it goes round: its steps do not repeat the first color")
    purpose: Annotated[str, OneOf(PURPOSES)] = "any"
    numbers: dict[str, float] = Field(default={}, max_length=MOST_NUMBERS, description="of the maker that can make it anew")
    measure: Annotated[str, OneOf(MEASURES)] = Field(default="oklab", description="of difference, by which its steps are even")

    def plan(self) -> RampPlan:
        """Raises `BadInput` for a stop that is neither a swatch nor a color, or both, and for text that is no color."""
        stops = tuple(stop.planned(place) for place, stop in enumerate(self.stops))
        return RampPlan(
            stops, self.steps, self.space, self.hue, self.curve, self.spacing, self.gamut, self.closed, self.purpose,
            tuple(self.numbers.items()), self.measure,
        )  # fmt: skip


def recipe_of(plan: RampPlan) -> dict[str, Any]:
    """The recipe that gives a plan, as plain JSON."""
    return RampRecipe.model_validate(plan_to_document(plan)).model_dump(mode="json")
