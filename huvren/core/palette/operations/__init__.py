"""Palette operations: one file each, a pure function of a palette and typed parameters.

An operation is a frozen pydantic model with a literal `kind`. Registering it puts it into the API schema, the
history and the tests. `apply` gives the new palette; `successors` says which swatch takes over the pixels of a
swatch that is no longer there, where the operation knows better than “the nearest color”.

`every` loads them all; whoever needs one operation (the command line) loads that one alone.
"""

from abc import abstractmethod
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import ClassVar

from huvren.core.model_registry import ModelOfKind, ModelRegistry
from huvren.core.palette.following import followed
from huvren.core.palette.values import Palette, Swatch, Usage

UNUSED: Usage = {}
MOST_SAID = 3
"""Names in the label of a step."""


@dataclass(frozen=True)
class Outcome:
    """The palette after, who takes over the pixels of a swatch that went, and what should be said besides."""

    palette: Palette
    """After the step."""
    successors: Mapping[str, str] = field(default_factory=dict)
    """Which swatch stands in for one that went."""
    notes: tuple[str, ...] = ()
    """Sentences for the artist."""


class Operation(ModelOfKind):
    """Base of every palette operation."""

    recolors: ClassVar[bool] = True
    """Whether names and ramps follow the colors that it changes; not so where it only shows colors that were there already."""

    @abstractmethod
    def label(self, palette: Palette) -> str:
        """What the history says, given the palette before."""

    def manner(self) -> str:
        """The part of the label that says how it is done, where a view shows that by itself; else empty."""
        return ""

    @abstractmethod
    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        """The palette after. `usage` : pixels of each swatch in the linked pictures.

        Raises `BadInput` or `Unknown` and changes nothing when it cannot be done.
        """

    def run(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        """`apply`, with what holds for every operation: stops tied to a swatch that another took over are tied to that one,
        stops that lost their swatch are said, and what follows colors by itself does."""
        outcome = self.apply(palette, usage)
        after = _taken_over(palette, outcome)
        notes = (*outcome.notes, *_lost_ties(palette, after))
        if self.recolors:
            after, said = followed(palette, after)
            notes = (*notes, *said)
        return replace(outcome, palette=after, notes=notes)


def _taken_over(before: Palette, outcome: Outcome) -> Palette:
    """Stops of kept ramps follow the successors of their swatches."""
    after = outcome.palette
    if not outcome.successors or not after.ramps:
        return after
    present = {swatch.id for swatch in after.swatches}
    heirs = {old: new for old, new in outcome.successors.items() if old not in present and new in present}
    kept = {ramp.id: ramp for ramp in before.ramps}
    ramps = tuple(
        replace(ramp, plan=kept[ramp.id].plan.retied(heirs).untied(before.color_of, present.__contains__))
        if ramp.id in kept and kept[ramp.id].plan.tied() & heirs.keys() and len(kept[ramp.id].plan.stops) == len(ramp.plan.stops)
        else ramp
        for ramp in after.ramps
    )
    return replace(after, ramps=ramps)


def _lost_ties(before: Palette, after: Palette) -> list[str]:
    """A sentence for each kept ramp that is in both, with stops that were tied to swatches which are gone."""
    kept = {ramp.id: ramp.plan.stops for ramp in before.ramps}
    present = {swatch.id for swatch in after.swatches}
    said = []
    for ramp in after.ramps:
        # A stop that was untied on purpose has its swatch still.
        stops = zip(kept.get(ramp.id, ()), ramp.plan.stops, strict=False)
        gone = sum(old.swatch is not None and old.swatch not in present and new.swatch is None for old, new in stops)
        if gone:
            said.append(
                f"A stop of the ramp “{ramp.name}” lost its swatch and keeps the color it had."
                if gone == 1
                else f"{gone} stops of the ramp “{ramp.name}” lost their swatches and keep the colors they had."
            )
    return said


OPERATIONS: ModelRegistry[Operation] = ModelRegistry("palette operation")
operation = OPERATIONS.model
"""Class decorator for an operation."""


def said_swatches(swatches: Sequence[Swatch]) -> str:
    """“Ink”, “Ink” and “Lamp”, or “Ink”, “Lamp” and 3 more: which swatches a step is about."""
    names = [f"“{swatch.name or swatch.color.hex}”" for swatch in swatches]
    if len(names) > MOST_SAID:
        return f"{', '.join(names[: MOST_SAID - 1])} and {len(names) - MOST_SAID + 1:,} more"
    return " and ".join(filter(None, [", ".join(names[:-1]), names[-1]])) if names else count_swatches(0)


def count_swatches(number: int) -> str:
    """“1 swatch” or “12 swatches”."""
    return f"{number} swatch" if number == 1 else f"{number} swatches"
