"""The recipe of a reduction as it is stored: with a link, on the shelf, on a proof sheet, in a job."""

from functools import cache
from typing import Any

from pydantic import TypeAdapter

from huvren.core.reduction.grain import FREE
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


def with_free_grain(document: dict[str, Any]) -> dict[str, Any]:
    """A recipe whose colors go on being tuned to one distance alone, as they were before grain was asked for."""
    return {**document, "grain": FREE}


def untuned(document: dict[str, Any]) -> dict[str, Any]:
    """A recipe that goes on giving the colors it gave before there was any tuning."""
    return {**document, "tune": False}


RECIPE: Kind[ReduceRecipe] = KINDS.register(
    Kind(
        "recipe", "recipe", 5, cache(lambda: TypeAdapter(ReduceRecipe)),
        # Version 1 carried no number; version 2 knew no toning; version 3 knew no tuning, and did none; version 4 no grain.
        upgraders={1: with_present_names, 2: lambda document: document, 3: untuned, 4: with_free_grain},
    )
)  # fmt: skip


def recipe_to_document(recipe: ReduceRecipe) -> dict[str, Any]:
    """A recipe as it is stored."""
    return RECIPE.stamped(recipe.model_dump(mode="json"))
