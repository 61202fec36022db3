"""Swatch, Group, Palette: immutable values. A swatch keeps its id through every change but its removal."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from typing import Any
from uuid import uuid4

from huvren.core.color.value import Color
from huvren.core.errors import BadInput, Unknown

LONGEST_NAME = 200
MOST_SWATCHES = 100_000

Usage = Mapping[str, int]
"""Pixels that each swatch id paints in the linked pictures."""


def new_id() -> str:
    """A fresh swatch or group id."""
    return str(uuid4())


def clean_name(name: str, what: str = "name") -> str:
    """A name on one line without control characters; raises `BadInput` when it is too long."""
    if len(name) <= LONGEST_NAME and name.isprintable() and "  " not in name and name.strip() == name:
        return name
    cleaned = " ".join("".join(c if c.isprintable() else " " for c in name).split())
    if len(cleaned) > LONGEST_NAME:
        raise BadInput(f"That {what} has {len(cleaned):,} characters; {LONGEST_NAME} is the most that can be kept. Shorten it.")
    return cleaned


@dataclass(frozen=True)
class Swatch:
    color: Color
    name: str = ""
    id: str = field(default_factory=new_id)
    locked: bool = False
    group: str | None = None


@dataclass(frozen=True)
class Group:
    name: str
    id: str = field(default_factory=new_id)


@dataclass(frozen=True)
class Palette:
    """Swatches in index order. The swatches of one group stand next to each other."""

    name: str
    swatches: tuple[Swatch, ...] = ()
    groups: tuple[Group, ...] = ()
    columns: int | None = None

    def index_of(self, swatch_id: str) -> int:
        for index, swatch in enumerate(self.swatches):
            if swatch.id == swatch_id:
                return index
        raise Unknown("That swatch is no longer in the palette. Reload to see its present state.")

    def pick(self, swatch_ids: Iterable[str]) -> list[Swatch]:
        """The named swatches in palette order; raises `Unknown` where one is missing."""
        wanted = set(swatch_ids)
        found = [swatch for swatch in self.swatches if swatch.id in wanted]
        if not wanted:
            raise BadInput("Select at least one swatch first.")
        if len(found) != len(wanted):
            raise Unknown("One of those swatches is no longer in the palette. Reload to see its present state.")
        return found

    def group_name(self, group_id: str | None) -> str:
        """The name of a group, empty for none."""
        return next((group.name for group in self.groups if group.id == group_id), "")

    def group(self, group_id: str) -> Group:
        for group in self.groups:
            if group.id == group_id:
                return group
        raise Unknown("That group is no longer in the palette. Reload to see its present state.")

    def with_swatches(self, swatches: Iterable[Swatch]) -> "Palette":
        """The same palette with other swatches; groups left without a swatch go."""
        kept = tuple(swatches)
        if len(kept) > MOST_SWATCHES:
            raise BadInput(f"A palette holds at most {MOST_SWATCHES:,} swatches; that would make {len(kept):,}.")
        used = {swatch.group for swatch in kept}
        return replace(self, swatches=kept, groups=tuple(group for group in self.groups if group.id in used))

    def change(self, swatch_id: str, **changes: Any) -> "Palette":
        """The same palette with one swatch changed."""
        index = self.index_of(swatch_id)
        changed = replace(self.swatches[index], **changes)
        return replace(self, swatches=(*self.swatches[:index], changed, *self.swatches[index + 1 :]))


def palette_to_document(palette: Palette) -> dict[str, Any]:
    """A plain JSON document that holds everything; `palette_from_document` gives the same palette back."""
    return {
        "name": palette.name,
        "columns": palette.columns,
        "groups": [{"id": group.id, "name": group.name} for group in palette.groups],
        "swatches": [
            {
                "id": swatch.id,
                "name": swatch.name,
                "color": {
                    "space": swatch.color.space,
                    "coords": list(swatch.color.coords),
                    "alpha": swatch.color.alpha,
                },
                "locked": swatch.locked,
                "group": swatch.group,
            }
            for swatch in palette.swatches
        ],
    }


def palette_from_document(document: dict[str, Any]) -> Palette:
    """Read a document written by `palette_to_document`. Raises `BadInput` naming the place that is wrong."""
    try:
        groups = tuple(Group(clean_name(str(entry["name"])), str(entry["id"])) for entry in document.get("groups", []))
        swatches = []
        for place, entry in enumerate(document["swatches"]):
            try:
                color = entry["color"]
                swatches.append(
                    Swatch(
                        color=Color(
                            str(color["space"]),
                            tuple(float(v) for v in color["coords"]),
                            float(color.get("alpha", 1.0)),
                        ),
                        name=clean_name(str(entry.get("name", ""))),
                        id=str(entry.get("id") or new_id()),
                        locked=bool(entry.get("locked", False)),
                        group=entry.get("group"),
                    )
                )
            except (KeyError, TypeError, ValueError, LookupError) as error:
                raise BadInput(f"Swatch {place} of the document cannot be read: {_explain(error)}") from error
        columns = document.get("columns")
        name = clean_name(str(document.get("name", "Untitled")))
    except (KeyError, TypeError, AttributeError) as error:
        raise BadInput(f"The document is not a palette: {_explain(error)}") from error
    if len({swatch.id for swatch in swatches}) != len(swatches):
        raise BadInput("Two swatches of the document have the same id; every swatch needs its own.")
    if not {swatch.group for swatch in swatches} <= {None, *(group.id for group in groups)}:
        raise BadInput("A swatch of the document belongs to a group that the document does not list.")
    return Palette(name, tuple(swatches), groups, int(columns) if columns else None)


def _explain(error: Exception) -> str:
    return f"the field {error} is missing." if isinstance(error, KeyError) else str(error)
