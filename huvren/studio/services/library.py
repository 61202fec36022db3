"""The whole shelf: its cards, duplicating, favorites, and emptying the trash by hand."""

from dataclasses import dataclass, replace
from uuid import UUID

from django.db import transaction

from huvren.studio.access import User, find, visible
from huvren.studio.models import Palette, Picture
from huvren.studio.services import cleaning, palettes
from huvren.studio.services.cards import nearness


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


@dataclass(frozen=True)
class Shelf:
    """Palettes and pictures by their cards, newest first; near : ΔEOK×100 of each palette to the color asked for."""

    palettes: list[Palette]
    pictures: list[Picture]
    near: dict[UUID, float]

    def palettes_of(self) -> dict[str, list[UUID]]:
        """By picture id, the palettes on this shelf that paint it."""
        made: dict[str, list[UUID]] = {}
        for row in self.palettes:
            for picture in row.painted:
                made.setdefault(picture, []).append(row.pk)
        return made


def shelf(user: User, *, trash: bool = False, near: str = "") -> Shelf:
    """What is on the shelf, or in the trash. No document is read."""
    owned = visible(user, Palette).filter(trashed__isnull=not trash)
    pictures = visible(user, Picture).filter(trashed__isnull=not trash).defer("notes", "proofs")
    gaps = nearness(owned.values_list("id", "colors"), near) if near else {}
    return Shelf(list(owned.defer("colors")), list(pictures), gaps)


def empty_trash(user: User) -> cleaning.Removed:
    """Remove for good what is in the trash now; what an undo could still need stays."""
    return cleaning.empty_trash(visible(user, Palette, "remove"), visible(user, Picture, "remove"))
