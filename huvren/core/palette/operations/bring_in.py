"""Bring the swatches of another palette in: append, unite within a tolerance, or replace."""

from collections.abc import Sequence
from dataclasses import replace
from typing import Any, ClassVar, Literal

import numpy as np
from pydantic import Field

from huvren.core.color.difference import DELTA_SCALE
from huvren.core.errors import BadInput
from huvren.core.palette.document import palette_from_document
from huvren.core.palette.fields import emptied_in_copies
from huvren.core.palette.naming import Namer
from huvren.core.palette.operations import UNUSED, Operation, Outcome, count_swatches, operation
from huvren.core.palette.operations.groups import in_strip_order
from huvren.core.palette.values import Group, KeptRamp, Palette, Swatch, Usage, clean_name, new_id


def _new_within(present: Sequence[Swatch], found: Sequence[Swatch], tolerance: float) -> list[Swatch]:
    """Those of `found` that differ by more than `tolerance` ΔE from everything before them; alpha must match to be alike."""
    everything = [*present, *found]
    alphas = np.array([swatch.color.bytes[3] for swatch in everything])
    # Clear pixels look alike whatever color they hide.
    oklab = np.array([swatch.color.oklab if swatch.color.alpha else (0.0, 0.0, 0.0) for swatch in everything]).reshape(-1, 3)
    is_known = np.arange(len(everything)) < len(present)
    for place in range(len(present), len(everything)):
        rivals = is_known[:place] & (alphas[:place] == alphas[place])
        gaps = np.linalg.norm(oklab[:place][rivals] - oklab[place], axis=1) * DELTA_SCALE
        is_known[place] = gaps.min(initial=np.inf) > tolerance
    return [everything[place] for place in range(len(present), len(everything)) if is_known[place]]


@operation
class BringIn(Operation):
    """Bring in the palette of `document` (the lossless form): append all, add only what is new, or replace.

    Replacing keeps locked swatches, in front; pixels of the swatches that go are painted with the nearest color that came.
    """

    summary: ClassVar[str] = "Bring in swatches from a file"
    kind: Literal["bring_in"] = "bring_in"
    document: dict[str, Any]
    source: str = Field(max_length=400)
    how: Literal["append", "union", "replace"] = "append"
    tolerance: float = Field(default=2.0, ge=0, le=100, description="ΔEOK×100, for union")
    join_groups: bool = Field(
        default=False,
        description="whether what comes joins the groups of the same id and name, instead of new ones",
    )

    def label(self, palette: Palette) -> str:
        count = count_swatches(len(self.document.get("swatches", [])))
        if ramps := len(self.document.get("ramps", [])):
            what = "the ramp" if ramps == 1 else f"{ramps} ramps"
            count = f"{what} with {count}" if self.document.get("swatches") else what
        source = clean_name(self.source[:100])
        match self.how:
            case "append":
                return f"Append {count} from “{source}”"
            case "union":
                return f"Unite with “{source}” within ΔE {self.tolerance:g}"
            case "replace":
                return f"Replace the swatches by {count} from “{source}”"

    def brought_palette(self) -> Palette:
        """The palette of the document. Raises `BadInput` where there is nothing in it to bring in."""
        found = palette_from_document(self.document)
        if not found.swatches and (not found.ramps or self.how == "replace"):
            raise BadInput(f"Nothing of “{clean_name(self.source[:100])}” is chosen. Take at least one swatch.")
        return found

    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        found = self.brought_palette()
        staying = [swatch for swatch in palette.swatches if swatch.locked] if self.how == "replace" else list(palette.swatches)
        coming = _new_within(staying, found.swatches, self.tolerance) if self.how == "union" else list(found.swatches)
        taken = {swatch.id for swatch in staying}
        used = {swatch.group for swatch in staying}
        groups = [group for group in palette.groups if group.id in used]
        namer = Namer(group.name for group in groups)
        fresh: dict[str | None, str | None] = {None: None}
        here = {(group.id, group.name) for group in palette.groups} if self.join_groups else set()
        for group in found.groups:
            if (group.id, group.name) in here:
                fresh[group.id] = group.id
                if group.id not in used:
                    groups.append(next(g for g in palette.groups if g.id == group.id))
                continue
            name = namer.give(group.name)
            fresh[group.id] = group.id if group.id not in {g.id for g in palette.groups} else new_id()
            groups.append(replace(group, **emptied_in_copies(Group, "brought_in"), name=name, id=str(fresh[group.id])))
        emptied = emptied_in_copies(Swatch, "brought_in")
        arriving = [replace(s, **emptied, id=new_id() if s.id in taken else s.id, group=fresh[s.group]) for s in coming]
        grown = replace(palette, groups=tuple(groups)).with_swatches(_beside_their_group(staying, arriving))
        ids = {before.id: after.id for before, after in zip(coming, arriving, strict=True)}
        return Outcome(in_strip_order(grown.with_ramps([*grown.ramps, *_arriving_ramps(grown, found, ids)])))


def _beside_their_group(staying: Sequence[Swatch], arriving: Sequence[Swatch]) -> list[Swatch]:
    """All of them: what comes into a group that is here stands behind its last swatch, the rest at the end, each in order."""
    joining: dict[str, list[Swatch]] = {}
    last = {swatch.group: place for place, swatch in enumerate(staying) if swatch.group is not None}
    for swatch in arriving:
        if swatch.group in last:
            joining.setdefault(str(swatch.group), []).append(swatch)
    placed: list[Swatch] = []
    for place, swatch in enumerate(staying):
        placed.append(swatch)
        if swatch.group is not None and last[swatch.group] == place:
            placed.extend(joining.get(swatch.group, ()))
    return [*placed, *(swatch for swatch in arriving if swatch.group not in last)]


def _arriving_ramps(grown: Palette, found: Palette, ids: dict[str, str]) -> list[KeptRamp]:
    """The ramps that came along, tied to the swatches that came, with names and ids of their own; nothing is baked yet."""
    namer = Namer(ramp.name for ramp in grown.ramps)
    return [
        replace(ramp, id=new_id(), name=namer.give(ramp.name), group=None, baked=(),
                plan=ramp.plan.untied(found.color_of, ids.__contains__).retied(ids))
        for ramp in found.ramps
    ]  # fmt: skip
