"""Add swatches, typed or picked."""

from typing import ClassVar, Literal

from pydantic import Field

from huvren.core.color.notation import parse_named_colors
from huvren.core.palette.naming import Namer, suggest_names
from huvren.core.palette.operations import UNUSED, Operation, Outcome, count_swatches, operation
from huvren.core.palette.values import Palette, Swatch, Usage, clean_name


@operation
class AddSwatches(Operation):
    """Read one or many colors from `text` and put them in after index `after`, in its group; else at the end, in none."""

    summary: ClassVar[str] = "Add swatches by typing colors"
    kind: Literal["add_swatches"] = "add_swatches"
    text: str = Field(max_length=4_000_000)
    after: int | None = Field(default=None, ge=-1)

    def label(self, palette: Palette) -> str:
        return f"Add {count_swatches(len(parse_named_colors(self.text)))}"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        at = len(palette.swatches) if self.after is None else min(self.after + 1, len(palette.swatches))
        group = palette.swatches[at - 1].group if at and self.after is not None else None
        namer = Namer(swatch.name for swatch in palette.swatches)
        named = parse_named_colors(self.text)
        words = suggest_names([color for color, _ in named])
        added = [
            Swatch(color, namer.give(clean_name(name) or word), group=group) for (color, name), word in zip(named, words, strict=True)
        ]
        return Outcome(palette.with_swatches([*palette.swatches[:at], *added, *palette.swatches[at:]]))
