"""Recipes that are kept: by name on the shelf, and as the proof sheet of a picture."""

from collections.abc import Sequence
from uuid import UUID

from django.contrib.auth.models import AbstractBaseUser

from huvren.core.errors import BadInput
from huvren.core.palette.values import clean_name
from huvren.core.reduction.recipe import ReduceRecipe
from huvren.studio.models import KeptRecipe, Picture
from huvren.studio.services import get_owned

MOST_PROOFS = 12
MOST_KEPT = 500


def keep(owner: AbstractBaseUser, name: str, recipe: ReduceRecipe) -> KeptRecipe:
    """Keep a recipe by name; one of the same name is replaced. Marks belong to one picture and are left out."""
    cleaned = clean_name(name, "recipe name")
    if not cleaned:
        raise BadInput("A recipe needs a name. Type at least one letter.")
    if KeptRecipe.objects.filter(owner=owner).exclude(name=cleaned).count() >= MOST_KEPT:
        raise BadInput(f"The shelf holds {MOST_KEPT} recipes already. Take one away first.")
    document = recipe.model_copy(update={"marks": []}).model_dump()
    kept, _ = KeptRecipe.objects.update_or_create(owner=owner, name=cleaned, defaults={"recipe": document})
    return kept


def set_proofs(owner: AbstractBaseUser, picture_id: UUID, recipes: Sequence[ReduceRecipe]) -> Picture:
    """The recipes of a picture's proof sheet, at most 12."""
    if len(recipes) > MOST_PROOFS:
        raise BadInput(f"A proof sheet shows at most {MOST_PROOFS} recipes; that would make {len(recipes)}.")
    picture = get_owned(Picture, owner, picture_id)
    picture.proofs = [recipe.model_dump() for recipe in recipes]
    picture.save(update_fields=["proofs"])
    return picture
