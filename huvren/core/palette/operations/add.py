"""Add swatches, typed or picked."""

from typing import ClassVar, Literal

from pydantic import Field

from huvren.core.color.typed import LONGEST_TEXT, parse_named_colors
from huvren.core.palette.naming import Namer, suggest_names
from huvren.core.palette.operations import UNUSED, Operation, Outcome, operation
from huvren.core.palette.values import Palette, Swatch, Usage, clean_name

MOST_NAMED = 2
"""Swatches whose names stand in the step's label."""


@operation
class AddSwatches(Operation):
    """Read one or many colors from `text` and put them in after index `after`, in its group; else at the end, in none."""

    summary: ClassVar[str] = "Add swatches by typing colors"
    kind: Literal["add_swatches"] = "add_swatches"
    text: str = Field(max_length=LONGEST_TEXT)
    after: int | None = Field(default=None, ge=-1)
    locked: bool = Field(default=False, description="whether they are to stay in the next reduction")

    def _added(self, palette: Palette) -> list[Swatch]:
        at = self._place(palette)
        group = palette.swatches[at - 1].group if at and self.after is not None else None
        namer = Namer(swatch.name for swatch in palette.swatches)
        named = parse_named_colors(self.text)
        words = suggest_names([color for color, _ in named])
        return [
            Swatch(color, namer.give(clean_name(name) or word), group=group, locked=self.locked)
            for (color, name), word in zip(named, words, strict=True)
        ]

    def _place(self, palette: Palette) -> int:
        return len(palette.swatches) if self.after is None else min(self.after + 1, len(palette.swatches))

    def label(self, palette: Palette) -> str:
        names = [swatch.name for swatch in self._added(palette)]
        said = " and ".join(names) if len(names) <= MOST_NAMED else f"{names[0]} and {len(names) - 1} more"
        return f"Add {said}{', locked' if self.locked else ''}"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        at = self._place(palette)
        return Outcome(palette.with_swatches([*palette.swatches[:at], *self._added(palette), *palette.swatches[at:]]))
