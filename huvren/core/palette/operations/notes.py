"""Notes and tags."""

from dataclasses import replace
from typing import ClassVar, Literal

from pydantic import Field

from huvren.core.errors import BadInput
from huvren.core.palette.operations import UNUSED, Operation, Outcome, operation, said_swatches
from huvren.core.palette.values import LONGEST_NOTE, Palette, Usage, clean_tags


@operation
class AnnotateSwatches(Operation):
    """Write a note on swatches, or give them other tags; what is left out stays."""

    summary: ClassVar[str] = "Write notes and tags"
    kind: Literal["annotate_swatches"] = "annotate_swatches"
    ids: list[str]
    note: str | None = Field(default=None, max_length=LONGEST_NOTE)
    tags: list[str] | None = None

    def label(self, palette: Palette) -> str:
        picked = palette.pick(self.ids)
        what = said_swatches(picked)
        if self.tags is None:
            return f"Note on {what}"
        return f"Tag {what}: {', '.join(clean_tags(self.tags)) or 'no tags'}"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        if self.note is None and self.tags is None:
            raise BadInput("Give a note, tags, or both.")
        changed = {}
        for swatch in palette.pick(self.ids):
            note = swatch.note if self.note is None else self.note.replace("\x00", "").strip()
            tags = swatch.tags if self.tags is None else clean_tags(self.tags)
            changed[swatch.id] = replace(swatch, note=note, tags=tags)
        return Outcome(palette.change_all(changed))


@operation
class TagPalette(Operation):
    """Give the palette tags to be found by on the shelf."""

    summary: ClassVar[str] = "Tag the palette"
    kind: Literal["tag_palette"] = "tag_palette"
    tags: list[str]

    def label(self, palette: Palette) -> str:
        return f"Tag the palette: {', '.join(clean_tags(self.tags)) or 'no tags'}"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        return Outcome(replace(palette, tags=clean_tags(self.tags)))
