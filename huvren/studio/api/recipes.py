"""Recipes that are kept on the shelf by name."""

from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Status
from pydantic import BaseModel

from huvren.core.bounded import Bounded
from huvren.core.reduction.recipe import ReduceRecipe
from huvren.studio.access import find, visible
from huvren.studio.models import KeptRecipe
from huvren.studio.services.shelf import recipes

router = Router(tags=["recipes"])


class KeptRecipeIn(Bounded):
    name: str
    recipe: ReduceRecipe


class KeptRecipeOut(BaseModel):
    id: UUID
    name: str
    recipe: ReduceRecipe


def _out(kept: KeptRecipe) -> KeptRecipeOut:
    return KeptRecipeOut(id=kept.id, name=kept.name, recipe=recipes.understood([kept.recipe])[0])


@router.get("", response=list[KeptRecipeOut])
def listed(request: HttpRequest) -> list[KeptRecipeOut]:
    """Every recipe of the artist, by name."""
    return [_out(kept) for kept in visible(request.user, KeptRecipe)]


@router.post("", response={201: KeptRecipeOut})
def keep(request: HttpRequest, payload: KeptRecipeIn) -> Status[KeptRecipeOut]:
    """Keep a recipe; one of the same name is replaced."""
    return Status(201, _out(recipes.keep(request.user, payload.name, payload.recipe)))


@router.delete("/{recipe_id}", response={204: None})
def take_away(request: HttpRequest, recipe_id: UUID) -> Status[None]:
    """Take a recipe off the shelf. Reductions made with it keep their own copy."""
    find(request.user, KeptRecipe, recipe_id, "remove").delete()
    return Status(204, None)
