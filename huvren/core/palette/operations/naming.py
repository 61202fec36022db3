"""Names for many swatches at once: a numbered series, the suggested words, find and replace."""

import re
from dataclasses import replace
from typing import ClassVar, Literal

from pydantic import Field

from huvren.core.errors import BadInput
from huvren.core.palette.naming import Namer, suggest_names
from huvren.core.palette.operations import UNUSED, Operation, Outcome, count_swatches, operation
from huvren.core.palette.values import Palette, Swatch, Usage, clean_name


def _among(palette: Palette, ids: list[str] | None) -> list[Swatch]:
    return list(palette.swatches) if ids is None else palette.pick(ids)


@operation
class NameSeries(Operation):
    """Name swatches `stem 1`, `stem 2` … in strip order; with leading zeros where the numbers differ in length."""

    summary: ClassVar[str] = "Name a numbered series"
    kind: Literal["name_series"] = "name_series"
    ids: list[str] | None = None
    stem: str = Field(max_length=180)
    start: int = Field(default=1, ge=0, le=1_000_000)

    def label(self, palette: Palette) -> str:
        return f"Name {count_swatches(len(_among(palette, self.ids)))} “{clean_name(self.stem)} {self.start}” and on"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        stem = clean_name(self.stem)
        if not stem:
            raise BadInput("A series of names needs a stem. Type at least one letter.")
        among = _among(palette, self.ids)
        width = len(str(self.start + len(among) - 1))
        named = {s.id: replace(s, name=f"{stem} {self.start + n:0{width}}") for n, s in enumerate(among)}
        return Outcome(palette.change_all(named))


@operation
class SuggestNames(Operation):
    """Name swatches by plain words for their lightness, chroma and hue."""

    summary: ClassVar[str] = "Take the suggested names"
    kind: Literal["suggest_names"] = "suggest_names"
    ids: list[str] | None = None

    def label(self, palette: Palette) -> str:
        return f"Name {count_swatches(len(_among(palette, self.ids)))} by their colors"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        among = _among(palette, self.ids)
        renamed = {swatch.id for swatch in among}
        namer = Namer(swatch.name for swatch in palette.swatches if swatch.id not in renamed)
        words = suggest_names([swatch.color for swatch in among])
        return Outcome(palette.change_all({s.id: replace(s, name=namer.give(w)) for s, w in zip(among, words, strict=True)}))


@operation
class ReplaceInNames(Operation):
    """Replace a piece of text wherever it stands in the names, regardless of case unless `match_case`."""

    summary: ClassVar[str] = "Find and replace in names"
    kind: Literal["replace_in_names"] = "replace_in_names"
    ids: list[str] | None = None
    find: str = Field(min_length=1, max_length=200)
    put: str = Field(default="", max_length=200)
    match_case: bool = False

    def label(self, palette: Palette) -> str:
        return f"Replace “{self.find}” by “{self.put}” in names" if self.put else f"Take “{self.find}” out of names"

    def _changed(self, name: str) -> str:
        if self.match_case:
            return name.replace(self.find, self.put)
        return re.sub(re.escape(self.find), lambda found: self.put, name, flags=re.IGNORECASE)

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        changed = {}
        for swatch in _among(palette, self.ids):
            name = clean_name(self._changed(swatch.name))
            if name != swatch.name:
                changed[swatch.id] = replace(swatch, name=name)
        if not changed:
            raise BadInput(f"No name holds “{self.find}”. Nothing was changed.")
        return Outcome(palette.change_all(changed))
