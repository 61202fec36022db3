"""The whole shelf: duplicating, favorites, and the trash as far as it is filled and emptied by hand."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from uuid import UUID

from django.db import transaction
from django.utils import timezone

from huvren.studio.access import User, find, visible
from huvren.studio.models import Palette, Picture
from huvren.studio.services.shelf import cleaning, palettes

KINDS: dict[str, type[Palette] | type[Picture]] = {"palettes": Palette, "pictures": Picture}
"""What goes into the trash, by the word of the API."""


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


@transaction.atomic
def set_trashed(user: User, cards: Mapping[str, Sequence[UUID]], trashed: bool) -> dict[str, list[UUID]]:
    """Put palettes and pictures into the trash together, or take them out.

    cards : ids by kind, `palettes` and `pictures`. What is there already stays as long as it was. Returns those that are there now.
    """
    moved = {}
    for kind, ids in cards.items():
        rows = visible(user, KINDS[kind], "remove").filter(pk__in=ids)
        rows.filter(trashed__isnull=trashed).update(trashed=timezone.now() if trashed else None)
        there = set(rows.values_list("pk", flat=True))
        moved[kind] = [key for key in dict.fromkeys(ids) if key in there]
    return moved


def empty_trash(user: User) -> cleaning.Removed:
    """Remove for good what is in the trash now; what an undo could still need stays."""
    return cleaning.empty_trash(visible(user, Palette, "remove"), visible(user, Picture, "remove"))
