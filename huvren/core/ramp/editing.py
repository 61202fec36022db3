"""Changing the stops of a plan: add, take out, turn round, mirror, repeat, even out. Each gives a new plan."""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from huvren.core.color.value import Color
from huvren.core.errors import BadInput
from huvren.core.ramp.easings import LINEAR, Easing
from huvren.core.ramp.plan import ColorOf, PlanStop, RampPlan
from huvren.core.ramp.stops import MOST_STOPS, settle_positions
from huvren.core.registry import Registry

MOST_REPEATS = 16


def settled(plan: RampPlan) -> tuple[PlanStop, ...]:
    """Its stops, each with its position."""
    places = settle_positions([stop.position for stop in plan.stops])
    return tuple(replace(stop, position=at) for stop, at in zip(plan.stops, places, strict=True))


def share_of(plan: RampPlan, color_of: ColorOf, place: int) -> float:
    """Where a stop stands on the finished ramp, 0..1: at its position, or where even spacing brings it."""
    return float(shares_of(plan, color_of)[place])


def shares_of(plan: RampPlan, color_of: ColorOf) -> list[float]:
    """Where each stop stands on the finished ramp, 0..1."""
    ramp = plan.ramp(color_of)
    if ramp.spacing.hears_easing:
        return list(ramp.positions)
    shares = np.linspace(0, 1, 2049)
    path = ramp.path(shares)
    return [float(np.interp(at, path, shares)) for at in ramp.positions]


def add_stop(plan: RampPlan, color_of: ColorOf, share: float) -> RampPlan:
    """One more stop, with the color that the ramp has at that place. Raises `BadInput` where there are as many as can be."""
    if len(plan.stops) >= MOST_STOPS:
        raise BadInput(f"A ramp takes at most {MOST_STOPS} colors. Take one out first.")
    ramp = plan.ramp(color_of)
    share = min(max(share, 0.0), 1.0)
    path = float(ramp.path([share])[0])
    coords, alphas = ramp.on_path(np.array([path]))
    color = Color.of(ramp.space.id, coords[0].tolist(), float(alphas[0]))
    at = share if ramp.spacing.hears_easing else path
    stops = list(settled(plan))
    place = sum(1 for stop in stops if (stop.position or 0.0) <= at)
    stops.insert(place, PlanStop(color, position=round(at, 6)))
    if 0 < place < len(stops) - 1:
        # The interval is two now; neither half bends as the whole did.
        stops[place - 1] = replace(stops[place - 1], midpoint=0.5, easing=LINEAR)
    return replace(plan, stops=tuple(stops))


def remove_stop(plan: RampPlan, place: int) -> RampPlan:
    """One stop less. Raises `BadInput` where only two are left."""
    if len(plan.stops) <= 2:
        raise BadInput("A ramp needs two colors or more. Add another one first.")
    stops = settled(plan)
    return replace(plan, stops=tuple(stop for number, stop in enumerate(stops) if number != place))


def duplicate_stop(plan: RampPlan, place: int) -> RampPlan:
    """The same color again at the same place; moved apart, the two leave a flat stretch between them."""
    if len(plan.stops) >= MOST_STOPS:
        raise BadInput(f"A ramp takes at most {MOST_STOPS} colors. Take one out first.")
    stops = list(settled(plan))
    stops.insert(place, replace(stops[place], midpoint=0.5, easing=LINEAR))
    return replace(plan, stops=tuple(stops))


def _turned(easing: Easing) -> Easing:
    """The easing as it is passed from behind."""
    if easing.kind == "bezier":
        x1, y1, x2, y2 = easing.numbers
        return Easing("bezier", (1 - x2, 1 - y2, 1 - x1, 1 - y1))
    return easing


def reverse(plan: RampPlan, count: int = 1) -> RampPlan:
    """The other way round; every interval keeps its bends."""
    stops = settled(plan)[::-1]
    made = []
    for number, stop in enumerate(stops):
        follower = stops[number + 1] if number + 1 < len(stops) else None
        bends = (0.5, LINEAR) if follower is None else (round(1 - follower.midpoint, 9), _turned(follower.easing))
        made.append(replace(stop, position=round(1 - (stop.position or 0.0), 9), midpoint=bends[0], easing=bends[1]))
    return replace(plan, stops=tuple(made), hue=_ROUTE_BACK.get(plan.hue, plan.hue))


_ROUTE_BACK = {"increasing": "decreasing", "decreasing": "increasing"}


def _joined(plan: RampPlan, pieces: list[RampPlan]) -> RampPlan:
    """Pieces one after the other, equally long; a color that two share is one stop."""
    stops: list[PlanStop] = []
    for number, piece in enumerate(pieces):
        for place, stop in enumerate(settled(piece)):
            moved = replace(stop, position=round(((stop.position or 0.0) + number) / len(pieces), 9))
            last = stops[-1] if stops else None
            is_shared = place == 0 and last is not None and (last.color, last.swatch) == (stop.color, stop.swatch)
            if is_shared and last is not None and last.position == moved.position:
                stops[-1] = moved
            else:
                stops.append(moved)
    if len(stops) > MOST_STOPS:
        raise BadInput(f"That would make {len(stops)} stops; {MOST_STOPS} is the most.")
    return replace(plan, stops=tuple(stops))


def mirror(plan: RampPlan, count: int = 1) -> RampPlan:
    """There and back again."""
    there = replace(plan, hue="shorter") if plan.hue in _ROUTE_BACK else plan
    return _joined(there, [there, reverse(there)])


def repeat(plan: RampPlan, count: int = 2) -> RampPlan:
    """So many times one after the other, with a hard edge where the ends differ."""
    if not 2 <= count <= MOST_REPEATS:
        raise BadInput(f"A ramp is repeated 2 to {MOST_REPEATS} times; {count} was asked for.")
    return _joined(plan, [plan] * count)


def even_out(plan: RampPlan, count: int = 1) -> RampPlan:
    """Stops at equal distances."""
    places = np.linspace(0, 1, len(plan.stops)).tolist()
    return replace(plan, stops=tuple(replace(stop, position=at) for stop, at in zip(plan.stops, places, strict=True)))


@dataclass(frozen=True)
class Edit:
    """A change of all stops at once. counts : whether it takes a number."""

    id: str
    """By which it is named in documents, addresses and commands."""
    label: str
    """As menus call it."""
    use: str
    """What it is for, in one sentence."""
    edit: Callable[[RampPlan, int], RampPlan]
    """The plan and the place of a stop → the plan afterward."""
    counts: bool = False


EDITS: Registry[Edit] = Registry("change of a ramp")
EDITS.register(Edit("reverse", "Reverse", "The last color first.", reverse))
EDITS.register(Edit("mirror", "Mirror", "There and back again.", mirror))
EDITS.register(Edit("repeat", "Repeat", "So many times one after the other.", repeat, counts=True))
EDITS.register(Edit("even-out", "Even out the stops", "All stops at equal distances.", even_out))
