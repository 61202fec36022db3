"""`RampPlan`: a ramp as it is wanted and kept, with stops that may be tied to swatches. Its colors are those of the moment."""

import math
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from huvren.core.color.measures import MEASURES
from huvren.core.color.value import Color
from huvren.core.errors import BadInput, Unknown
from huvren.core.ramp.curves import CURVES
from huvren.core.ramp.easings import EASINGS, LINEAR, Easing
from huvren.core.ramp.gamuts import GAMUTS
from huvren.core.ramp.spacings import SPACINGS
from huvren.core.ramp.stops import FEWEST_STEPS, LEAST_MIDPOINT, MOST_STEPS, MOST_STOPS, Stop
from huvren.core.ramp.values import Ramp, said_ramp
from huvren.core.ramp.ways import HUE_ROUTES, WAYS, Lane
from huvren.core.registry import Registry

MOST_NUMBERS = 16
ColorOf = Callable[[str], Color]


@dataclass(frozen=True)
class Purpose:
    """What a ramp is for, which says what it promises; `promises` are ids of `huvren.core.ramp.promises`."""

    id: str
    """By which it is named in documents, addresses and commands."""
    label: str
    """As menus call it."""
    promises: tuple[str, ...]
    """Ids of what such a ramp should hold."""


PURPOSES: Registry[Purpose] = Registry("purpose")
PURPOSES.register(Purpose("any", "ramp", ()))
PURPOSES.register(Purpose("shading", "shading ramp", ("monotone",)))
PURPOSES.register(Purpose("sequential", "sequential ramp", ("monotone", "even", "gray", "vision")))
PURPOSES.register(Purpose("diverging", "diverging ramp", ("symmetric", "even", "middle", "arms")))
PURPOSES.register(Purpose("cyclic", "cyclic ramp", ("closed", "even")))


@dataclass(frozen=True)
class PlanStop:
    """A color of its own, or that of a swatch by its id. Raises `BadInput` for both or neither."""

    color: Color | None = None
    """Of a plain stop."""
    swatch: str | None = None
    """Id of the swatch that it follows."""
    position: float | None = None
    """0..1; None for even places."""
    midpoint: float = 0.5
    """Where half of the way to the next stop is done, 0..1."""
    easing: Easing = LINEAR
    """How the way to the next stop is gone."""

    def __post_init__(self) -> None:
        if (self.color is None) == (self.swatch is None):
            raise BadInput("A stop of the ramp must be either a swatch or a color.")


@dataclass(frozen=True)
class RampPlan:
    """steps : how many, or None for a continuous ramp; the rest by id. Raises `BadInput` or `Unknown` for what cannot be."""

    stops: tuple[PlanStop, ...]
    """Two or more make a ramp."""
    steps: int | None = 9
    space: str = "oklab"
    """Id of the space between stops."""
    hue: str = "shorter"
    """Id of the way around."""
    curve: str = "straight"
    """Id."""
    spacing: str = "position"
    """Id."""
    gamut: str = "reduce"
    """Id."""
    closed: bool = False
    """Whether it goes round."""
    purpose: str = "any"
    """Id."""
    numbers: tuple[tuple[str, float], ...] = ()
    """Of the maker that made it from one color, by id: as long as no stop was changed by hand, it can be made anew."""
    measure: str = "oklab"
    """Id of that by which its steps are even."""

    def __post_init__(self) -> None:
        for registry, name in (
            (WAYS, self.space), (HUE_ROUTES, self.hue), (CURVES, self.curve), (SPACINGS, self.spacing), (GAMUTS, self.gamut),
            (PURPOSES, self.purpose), (MEASURES, self.measure),
        ):  # fmt: skip
            registry[name]
        if self.steps is not None and not FEWEST_STEPS <= self.steps <= MOST_STEPS:
            raise BadInput(
                f"A ramp has {FEWEST_STEPS} to {MOST_STEPS:,} steps, or none to be continuous; {self.steps:,} were asked for."
            )
        if len(self.stops) > MOST_STOPS:
            raise BadInput(f"A ramp takes at most {MOST_STOPS} colors; {len(self.stops)} were given.")

    @property
    def lane(self) -> Lane:
        return Lane.of(self.space, self.hue)

    def ramp(self, color_of: ColorOf) -> Ramp:
        """The ramp with the colors that `color_of` gives for swatch ids. Raises `BadInput` for fewer than two stops."""
        stops = tuple(
            Stop(stop.color if stop.color is not None else color_of(stop.swatch or ""), stop.position, stop.midpoint, stop.easing)
            for stop in self.stops
        )
        return Ramp(
            stops, self.lane, SPACINGS[self.spacing], CURVES[self.curve], GAMUTS[self.gamut], self.closed, MEASURES[self.measure]
        )  # fmt: skip

    def tied(self) -> set[str]:
        """The ids of the swatches that its stops follow."""
        return {stop.swatch for stop in self.stops if stop.swatch is not None}

    def untied(self, color_of: ColorOf, staying: Callable[[str], bool] = lambda swatch: False) -> "RampPlan":
        """The same with stops tied only to swatches that stay; the others become plain colors of what they were."""
        if all(staying(swatch) for swatch in self.tied()):
            return self
        return replace(
            self,
            stops=tuple(
                stop if stop.swatch is None or staying(stop.swatch) else replace(stop, swatch=None, color=color_of(stop.swatch))
                for stop in self.stops
            ),
        )

    def retied(self, ids: Mapping[str, str]) -> "RampPlan":
        """The same with stops tied to other swatches, by the ids before."""
        return replace(self, stops=tuple(replace(s, swatch=ids.get(s.swatch, s.swatch)) if s.swatch else s for s in self.stops))

    def tied_to(self, swatch_id: str, color: Color) -> "RampPlan":
        """The same with the stops of exactly this color tied to a swatch."""
        return replace(self, stops=tuple(replace(s, swatch=swatch_id, color=None) if s.color == color else s for s in self.stops))

    def with_colors(self, colors: Sequence[Color], positions: Sequence[float | None] | None = None, **changes: Any) -> "RampPlan":
        """The same settings over other stops, plain and without bends of their own."""
        places = positions or [None] * len(colors)
        return replace(self, stops=tuple(PlanStop(c, position=at) for c, at in zip(colors, places, strict=True)), **changes)

    def sentence(self, names: Sequence[str]) -> str:
        """The recipe sentence, with a name for every stop."""
        parts = [said_ramp(names, self.steps, self.lane).rstrip(".")]
        if self.spacing != "position":
            by = f" by {MEASURES[self.measure].label}" if self.spacing == "even" and self.measure != "oklab" else ""
            parts.append(f"spaced {SPACINGS[self.spacing].label}{by}")
        if self.curve != "straight":
            parts.append(CURVES[self.curve].label)
        if self.gamut != "reduce":
            parts.append(f"with {GAMUTS[self.gamut].label}")
        if self.closed:
            parts.append("closed to a cycle")
        return ", ".join(parts) + "."


def plain_only(swatch_id: str) -> Color:
    """A `ColorOf` for plans whose stops are all plain colors. Raises `BadInput`."""
    raise BadInput("A stop of the ramp is tied to a swatch, and there is no palette to look it up in.")


def plan_of(colors: Iterable[Color], **settings: Any) -> RampPlan:
    """A plan of plain colors."""
    return RampPlan(tuple(PlanStop(color) for color in colors), **settings)


def plan_to_document(plan: RampPlan) -> dict[str, Any]:
    """As it is stored and sent: `plan_from_document` gives the same plan back."""
    stops = []
    for stop in plan.stops:
        document: dict[str, Any] = {"position": stop.position}
        if stop.color is not None:
            document["color"] = stop.color.document()
        else:
            document["swatch"] = stop.swatch
        if stop.midpoint != 0.5:
            document["midpoint"] = stop.midpoint
        if stop.easing != LINEAR:
            document["easing"] = {"kind": stop.easing.kind, "numbers": list(stop.easing.numbers)}
        stops.append(document)
    return {
        "stops": stops, "steps": plan.steps, "space": plan.space, "hue": plan.hue, "curve": plan.curve, "spacing": plan.spacing,
        "gamut": plan.gamut, "closed": plan.closed, "purpose": plan.purpose,
        **({"numbers": dict(plan.numbers)} if plan.numbers else {}),
        **({"measure": plan.measure} if plan.measure != "oklab" else {}),
    }  # fmt: skip


Trouble = Callable[[str], None]
SETTINGS: dict[str, Registry[Any]] = {
    "space": WAYS, "hue": HUE_ROUTES, "curve": CURVES, "spacing": SPACINGS, "gamut": GAMUTS, "purpose": PURPOSES,
    "measure": MEASURES,
}  # fmt: skip


def _easing(shape: Mapping[str, Any] | None, trouble: Trouble) -> Easing:
    if shape is None:
        return LINEAR
    try:
        EASINGS[shape["kind"]]
        return Easing(shape["kind"], tuple(float(number) for number in shape.get("numbers", ())))
    except (BadInput, Unknown) as error:
        trouble(str(error))
        return LINEAR


def plan_from_document(
    shape: Mapping[str, Any], read_color: Callable[[Mapping[str, Any]], Color], known: Callable[[str], bool], trouble: Trouble
) -> RampPlan | None:
    """A plan of a shape whose types are checked already. What does not fit is told to `trouble`, and stood in for if that
    returns: a stop without a color is left out, None is a ramp of fewer than two.

    read_color : reads a color's shape; known : whether a swatch id is one of the palette's.
    """
    stops = []
    entries = shape.get("stops", [])
    if len(entries) > MOST_STOPS:
        trouble(f"A ramp of the document has {len(entries)} stops; {MOST_STOPS} is the most.")
    for entry in entries[:MOST_STOPS]:
        swatch, color = entry.get("swatch"), entry.get("color")
        if (swatch is None) == (color is None) or (swatch is not None and not known(swatch)):
            trouble("A stop of a ramp is neither a color nor a swatch of the palette.")
            continue
        midpoint, position = entry.get("midpoint", 0.5), entry.get("position")
        if not LEAST_MIDPOINT <= midpoint <= 1 - LEAST_MIDPOINT:
            trouble(f"A midpoint of {midpoint:g} is outside {LEAST_MIDPOINT:g} to {1 - LEAST_MIDPOINT:g}.")
            midpoint = 0.5
        if position is not None and not 0 <= position <= 1:
            trouble(f"A stop stands at {position:g}; 0 to 1 was expected.")
            position = None
        easing = _easing(entry.get("easing"), trouble)
        stops.append(PlanStop(None if color is None else read_color(color), swatch, position, midpoint, easing))
    if len(stops) < 2:
        trouble("A ramp of the document has fewer than two stops.")
        return None
    settings: dict[str, Any] = {}
    for key, registry in SETTINGS.items():
        if key in shape:
            if shape[key] in registry:
                settings[key] = shape[key]
            else:
                trouble(f"There is no {registry.kind} “{str(shape[key])[:40]}”.")
    steps = shape.get("steps", 9)
    if steps is not None and not FEWEST_STEPS <= steps <= MOST_STEPS:
        trouble(f"A ramp of the document has {steps} steps; {FEWEST_STEPS} to {MOST_STEPS:,} were expected.")
        steps = 9
    numbers = shape.get("numbers", {})
    if len(numbers) > MOST_NUMBERS or not all(math.isfinite(number) for number in numbers.values()):
        trouble(f"A ramp of the document has {len(numbers)} numbers of its maker, or one that is none.")
        numbers = {}
    return RampPlan(tuple(stops), steps, closed=shape.get("closed", False), numbers=tuple(numbers.items()), **settings)
