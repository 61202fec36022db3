"""Against another palette: keep what both have, or what only this one has; snap to the other's colors."""

from dataclasses import replace
from typing import Any, ClassVar, Literal

from pydantic import Field

from huvren.core.errors import BadInput
from huvren.core.palette.document import palette_from_document
from huvren.core.palette.fields import matched_from
from huvren.core.palette.matching import Match, match
from huvren.core.palette.operations import UNUSED, Operation, Outcome, operation
from huvren.core.palette.values import Palette, Usage, clean_name


class _Against(Operation):
    document: dict[str, Any]
    source: str = Field(max_length=400)
    ids: list[str] | None = None

    def _matches(self, palette: Palette) -> list[Match]:
        among = list(palette.swatches) if self.ids is None else palette.pick(self.ids)
        return match(among, palette_from_document(self.document).swatches)

    @property
    def _source(self) -> str:
        return clean_name(self.source[:100])


@operation
class KeepShared(_Against):
    """Keep the swatches that have a partner in the other palette within the tolerance, or those that have none.

    Locked swatches stay in any case.
    """

    summary: ClassVar[str] = "Keep what two palettes share, or do not"
    kind: Literal["keep_shared"] = "keep_shared"
    keep: Literal["common", "difference"] = "common"
    tolerance: float = Field(default=2.0, ge=0, le=100, description="ΔEOK×100")

    def label(self, palette: Palette) -> str:
        which = "also in" if self.keep == "common" else "not in"
        return f"Keep what is {which} “{self._source}”, within ΔE {self.tolerance:g}"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        gone = {
            found.swatch.id
            for found in self._matches(palette)
            if (found.delta <= self.tolerance) != (self.keep == "common") and not found.swatch.locked
        }
        if len(gone) == len(palette.swatches):
            raise BadInput(f"Nothing would be left: {'no' if self.keep == 'common' else 'every'} swatch is in “{self._source}”.")
        return Outcome(palette.with_swatches(swatch for swatch in palette.swatches if swatch.id not in gone))


@operation
class SnapTo(_Against):
    """Give each swatch the color of its nearest in the other palette. Locked swatches stay as they are."""

    summary: ClassVar[str] = "Snap to another palette"
    kind: Literal["snap_to"] = "snap_to"
    names: bool = Field(default=False, description="whether the other's names come along")

    def label(self, palette: Palette) -> str:
        return f"Snap to the colors of “{self._source}”"

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        others = palette_from_document(self.document).swatches
        changed = {}
        for found in self._matches(palette):
            if found.place is None or found.swatch.locked:
                continue
            partner = others[found.place]
            name = partner.name if self.names and partner.name else found.swatch.name
            changed[found.swatch.id] = replace(found.swatch, **matched_from(partner), name=name)
        return Outcome(palette.change_all(changed))
