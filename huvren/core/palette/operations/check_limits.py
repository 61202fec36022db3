"""Keep limits of checks with the palette."""

from dataclasses import replace
from typing import ClassVar, Literal

from pydantic import Field

from huvren.core.palette.check_limits import clean_limits
from huvren.core.palette.operations import UNUSED, Operation, Outcome, operation
from huvren.core.palette.values import Palette, Usage, clean_name


@operation
class SetLimits(Operation):
    """Let the palette's checks go by these limits, by check and by name; what is not named is as usual."""

    summary: ClassVar[str] = "Set the limits of checks"
    kind: Literal["set_limits"] = "set_limits"
    limits: dict[str, dict[str, float | str]]
    source: str = Field(default="", max_length=200, description="a named set that they are from, for the history")

    def label(self, palette: Palette) -> str:
        if self.source:
            return f"Check by the limits “{clean_name(self.source)}”"
        return "Set the limits of checks" if self.limits else "Check by the usual limits"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        return Outcome(replace(palette, limits=clean_limits(self.limits)))
