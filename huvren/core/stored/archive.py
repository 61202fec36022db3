"""The table of contents of an archive (`library.json`): everything on a shelf, with the whole history of every palette."""

from functools import cache
from typing import Any, Required
from uuid import UUID

from pydantic import ConfigDict, TypeAdapter
from typing_extensions import TypedDict

from huvren.core.versions import KINDS, Kind

_EXACT = ConfigDict(extra="forbid")
MARK = "huvren-library"


class PictureEntry(TypedDict, total=False):
    """Its bytes lie at `pictures/{id}`. `proofs` are stored recipes."""

    __pydantic_config__ = _EXACT  # type: ignore[misc]
    id: Required[UUID]
    name: Required[str]
    sha256: Required[str]
    favorite: bool
    proofs: list[dict[str, Any]]


class RevisionEntry(TypedDict, total=False):
    """One step: a stored palette and stored links, whose maps lie at `maps/{map}.gz`."""

    __pydantic_config__ = _EXACT  # type: ignore[misc]
    number: Required[int]
    parent: int | None
    label: Required[str]
    created: str | None
    document: Required[dict[str, Any]]
    links: list[dict[str, Any]]


class PaletteEntry(TypedDict, total=False):
    """Its steps are the lines of `palettes/{id}.jsonl`; before version 4 they stood here."""

    __pydantic_config__ = _EXACT  # type: ignore[misc]
    id: Required[UUID]
    favorite: bool
    head: Required[int]
    revisions: list[RevisionEntry]


class RecipeEntry(TypedDict):
    __pydantic_config__ = _EXACT  # type: ignore[misc]
    name: str
    recipe: dict[str, Any]


class LimitsEntry(TypedDict):
    """A named set of limits of checks."""

    __pydantic_config__ = _EXACT  # type: ignore[misc]
    name: str
    limits: dict[str, dict[str, float | str]]


class LibraryShape(TypedDict, total=False):
    __pydantic_config__ = _EXACT  # type: ignore[misc]
    format: Required[str]
    made_by: str
    pictures: list[PictureEntry]
    palettes: list[PaletteEntry]
    recipes: list[RecipeEntry]
    limits: list[LimitsEntry]


def _with_history(document: dict[str, Any]) -> dict[str, Any]:
    """Version 1 held the present state of each palette alone: it becomes the first step of a history."""
    return {
        **document,
        "palettes": [
            {
                "id": entry["id"], "favorite": entry.get("favorite", False), "head": 1,
                "revisions": [
                    {
                        "number": 1, "parent": None, "label": "Bring in from an archive", "created": None,
                        "document": entry["document"], "links": entry.get("links", []),
                    }
                ],
            }
            for entry in document.get("palettes", [])
        ],
    }  # fmt: skip


LIBRARY: Kind[LibraryShape] = KINDS.register(
    Kind(
        "archive", "library archive", 4, cache(lambda: TypeAdapter(LibraryShape)),
        {1: _with_history, 2: lambda document: document, 3: lambda document: document},
    )
)  # fmt: skip
REVISION: Kind[RevisionEntry] = KINDS.register(
    Kind("archive-step", "step of a palette", 1, cache(lambda: TypeAdapter(RevisionEntry)))
)
