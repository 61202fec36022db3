"""Several operations as one step."""

from functools import cached_property
from typing import Any, ClassVar, Literal

from pydantic import Field, field_validator

from huvren.core.palette.operations import OPERATIONS, UNUSED, Operation, Outcome, operation
from huvren.core.palette.values import Palette, Usage

MOST_STEPS = 24
MOST_SAID = 3


@operation
class Several(Operation):
    """Make several steps one after the other, as one step of the history; where one cannot be made, none is."""

    recolors: ClassVar[bool] = False
    summary: ClassVar[str] = "Several steps as one"
    kind: Literal["several"] = "several"
    steps: list[dict[str, Any]] = Field(min_length=1, max_length=MOST_STEPS, description="operations, in order")

    @field_validator("steps")
    @classmethod
    def _known(cls, steps: list[dict[str, Any]]) -> list[dict[str, Any]]:
        for step in steps:
            if step.get("kind") == "several":
                raise ValueError("Several steps hold single ones, not several again.")
            OPERATIONS[str(step.get("kind"))].model.model_validate(step)
        return steps

    @cached_property
    def operations(self) -> tuple[Operation, ...]:
        return tuple(OPERATIONS[step["kind"]].model.model_validate(step) for step in self.steps)

    def label(self, palette: Palette) -> str:
        said = []
        for step in self.operations[:MOST_SAID]:
            said.append(step.label(palette))
            palette = step.run(palette).palette
        more = len(self.operations) - MOST_SAID
        return "; ".join(said) + (f"; and {more} more" if more > 0 else "")

    def run(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        """As `apply`: what holds for every operation has been done for each of them."""
        return self.apply(palette, usage)

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        successors: dict[str, str] = {}
        notes: list[str] = []
        painted = dict(usage)
        for step in self.operations:
            outcome = step.run(palette, painted)
            palette = outcome.palette
            notes += outcome.notes
            # Whoever took over from one that is gone now is followed on.
            successors = {old: outcome.successors.get(new, new) for old, new in successors.items()} | dict(outcome.successors)
            for old, new in outcome.successors.items():
                painted[new] = painted.get(new, 0) + painted.pop(old, 0)
        return Outcome(palette, successors, tuple(dict.fromkeys(notes)))
