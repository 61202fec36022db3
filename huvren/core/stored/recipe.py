"""The recipe of a reduction as it is stored: with a link, on the shelf, on a proof sheet, in a job."""

from functools import cache
from typing import Any

from pydantic import TypeAdapter

from huvren.core.reduction.recipe import ReduceRecipe
from huvren.core.versions import KINDS, Kind

RENAMED: dict[str, dict[str, str]] = {"chooser": {}, "dither": {}, "space": {}}
"""By setting, earlier ids and what they are called now. Whoever renames one writes it here, so that stored recipes follow."""


def with_present_names(document: dict[str, Any]) -> dict[str, Any]:
    """A recipe whose choosers, dithers and metrics have their present ids."""
    present = dict(document)
    for key, names in RENAMED.items():
        if isinstance(present.get(key), str):
            present[key] = names.get(present[key], present[key])
    return present


def untuned(document: dict[str, Any]) -> dict[str, Any]:
    """A recipe that goes on giving the colors it gave before there was any tuning."""
    return {**document, "tune": False}


RECIPE: Kind[ReduceRecipe] = KINDS.register(
    Kind(
        "recipe", "recipe", 4, cache(lambda: TypeAdapter(ReduceRecipe)),
        # Version 1 carried no number; version 2 knew no toning; version 3 knew no tuning, and did none.
        upgraders={1: with_present_names, 2: lambda document: document, 3: untuned},
    )
)  # fmt: skip


def recipe_to_document(recipe: ReduceRecipe) -> dict[str, Any]:
    """A recipe as it is stored."""
    return RECIPE.stamped(recipe.model_dump(mode="json"))
