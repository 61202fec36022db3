"""The whole shelf: its cards, duplicating, favorites, and emptying the trash by hand."""

from dataclasses import replace
from uuid import UUID

from django.db import transaction

from huvren.studio.access import User, find, visible
from huvren.studio.models import Palette, Picture
from huvren.studio.services.shelf import cleaning, palettes


def set_favorite(user: User, model: type[Palette] | type[Picture], object_id: UUID, favorite: bool) -> None:
    """Mark a palette or picture as a favorite, or not."""
    row = find(user, model, object_id, "change")
    model.objects.filter(pk=row.pk).update(favorite=favorite)


@transaction.atomic
def duplicate(user: User, palette_id: UUID) -> palettes.State:
    """A copy of a palette with its present state as first step; swatches keep their ids, linked pictures come along."""
    state = palettes.get_state(user, palette_id)
    names = set(visible(user, Palette).values_list("name", flat=True))
    name, number = f"{state.palette.name[:180]} copy", 2
    while name in names:
        name, number = f"{state.palette.name[:180]} copy {number}", number + 1
    return palettes.create(user, replace(state.palette, name=name), f"Duplicate of “{state.palette.name}”", state.links)


def empty_trash(user: User) -> cleaning.Removed:
    """Remove for good what is in the trash now; what an undo could still need stays."""
    return cleaning.empty_trash(visible(user, Palette, "remove"), visible(user, Picture, "remove"))
