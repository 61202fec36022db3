"""Recipes that are kept: by name on the shelf, and as the proof sheet of a picture."""

import contextlib
from collections.abc import Iterable, Sequence
from uuid import UUID

from huvren.core.errors import BadInput
from huvren.core.palette.values import clean_name
from huvren.core.reduction.recipe import ReduceRecipe
from huvren.core.stored.recipe import RECIPE, recipe_to_document
from huvren.core.versions import BadDocument
from huvren.studio.access import User, find, key_of, visible
from huvren.studio.models import KeptRecipe, Picture

MOST_PROOFS = 12
MOST_KEPT = 500


def keep(user: User, name: str, recipe: ReduceRecipe) -> KeptRecipe:
    """Keep a recipe by name; one of the same name is replaced. Marks belong to one picture and are left out."""
    cleaned = clean_name(name, "recipe name")
    if not cleaned:
        raise BadInput("A recipe needs a name. Type at least one letter.")
    if visible(user, KeptRecipe).exclude(name=cleaned).count() >= MOST_KEPT:
        raise BadInput(f"The shelf holds {MOST_KEPT} recipes already. Take one away first.")
    document = recipe_to_document(recipe.model_copy(update={"marks": []}))
    kept, _ = KeptRecipe.objects.update_or_create(owner_id=key_of(user), name=cleaned, defaults={"recipe": document})
    return kept


def understood(documents: Iterable[object]) -> list[ReduceRecipe]:
    """Stored recipes as far as they can be understood; one that cannot at all is left out."""
    made = []
    for document in documents:
        with contextlib.suppress(BadDocument):
            made.append(RECIPE.understand(document).value)
    return made


def set_proofs(user: User, picture_id: UUID, recipes: Sequence[ReduceRecipe]) -> Picture:
    """The recipes of a picture's proof sheet, at most 12."""
    if len(recipes) > MOST_PROOFS:
        raise BadInput(f"A proof sheet shows at most {MOST_PROOFS} recipes; that would make {len(recipes)}.")
    picture = find(user, Picture, picture_id, "change")
    picture.proofs = [recipe_to_document(recipe) for recipe in recipes]
    picture.save(update_fields=["proofs"])
    return picture
