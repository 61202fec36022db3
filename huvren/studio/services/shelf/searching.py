"""What is written into the field of the search, as what is looked for."""

import re
from dataclasses import dataclass, field
from typing import Any

from django.db.models import QuerySet

from huvren.core.names import folded

_PARTS = re.compile(r'[a-z]+\([^)]*\)?|"[^"]*"|\S+', re.IGNORECASE)
_COLOR = re.compile(r"#[0-9a-f]{3,8}|[a-z]+\([^)]*\)", re.IGNORECASE)
_COUNT = re.compile(r"(>=|<=|>|<|=)([0-9]{1,9})")
_NUMBER = re.compile(r"[0-9]+(?:[.,][0-9]+)?")
USUALLY_WITHIN = 10.0
"""ΔEOK×100: as far as two colors are still like each other; `within` says otherwise."""
MOST_COUNT = 10**9


@dataclass
class Wanted:
    """Words in names and tags, tags, a color to be near to (in any notation) and how near, a count of swatches, favorites alone."""

    words: list[str] = field(default_factory=list)
    tags: list[str] = field(default_factory=list)
    near: str | None = None
    within: float = USUALLY_WITHIN
    fewest: int = 0
    most: int = MOST_COUNT
    favorites: bool = False

    @property
    def is_counted(self) -> bool:
        return self.fewest > 0 or self.most < MOST_COUNT


def read_search(text: str) -> Wanted:
    """Read a search: `moth`, `"dusk red"`, `tag:press`, `near #c48a3a`, `#c48a3a within 5`, `>20`, `<=8`, `favorite`."""
    wanted, expected = Wanted(), ""
    for part in _PARTS.findall(text):
        count, lower = _COUNT.fullmatch(part), part.lower()
        if expected == "within" and _NUMBER.fullmatch(part):
            wanted.within, expected = float(part.replace(",", ".")), ""
        elif lower == "within":
            expected = "within"
        elif expected == "near" or _COLOR.fullmatch(part):
            wanted.near, expected = part, ""
        elif lower == "near":
            expected = "near"
        elif count:
            _read_count(wanted, count[1], int(count[2]))
        elif lower.startswith("tag:") and len(part) > len("tag:"):
            wanted.tags.append(folded(part[4:].replace('"', "")))
        elif lower in ("favorite", "favorites"):
            wanted.favorites = True
        else:
            wanted.words.append(folded(part.replace('"', "")))
    return wanted


def _read_count(wanted: Wanted, sign: str, number: int) -> None:
    fewest = {">": number + 1, ">=": number, "=": number}
    most = {"<": number - 1, "<=": number, "=": number}
    wanted.fewest, wanted.most = fewest.get(sign, wanted.fewest), most.get(sign, wanted.most)


def holding(rows: QuerySet[Any, Any], texts: list[str], column: str) -> QuerySet[Any, Any]:
    """Of these rows, those whose column holds all of the texts."""
    for text in filter(None, texts):
        rows = rows.filter(**{f"{column}__contains": text})
    return rows


def palettes_like(rows: QuerySet[Any, Any], wanted: Wanted) -> QuerySet[Any, Any]:
    """Of these palettes, those that are looked for, but for the color."""
    rows = holding(holding(rows, wanted.words, "searched"), wanted.tags, "tag_words")
    if wanted.is_counted:
        rows = rows.filter(count__gte=wanted.fewest, count__lte=wanted.most)
    return rows.filter(favorite=True) if wanted.favorites else rows


def ramps_like(rows: QuerySet[Any, Any], wanted: Wanted) -> QuerySet[Any, Any]:
    """Of these ramps, those that are looked for, but for the color; they have no count of swatches and are no favorites."""
    if wanted.is_counted or wanted.favorites:
        return rows.none()
    return holding(holding(rows, wanted.words, "searched"), wanted.tags, "tag_words")


def pictures_like(rows: QuerySet[Any, Any], wanted: Wanted) -> QuerySet[Any, Any]:
    """Of these pictures, those that are looked for; they have no swatches and no tags."""
    if wanted.tags or wanted.near or wanted.is_counted:
        return rows.none()
    rows = holding(rows, wanted.words, "searched")
    return rows.filter(favorite=True) if wanted.favorites else rows
