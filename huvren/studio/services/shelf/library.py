"""The whole shelf: its cards, duplicating, favorites, and emptying the trash by hand."""

import json
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any
from uuid import UUID

from django.db import transaction
from django.db.models import DateTimeField, F, Func, TextField, Value
from django.db.models.functions import Cast

from huvren.studio.access import User, find, visible
from huvren.studio.models import Palette, Picture
from huvren.studio.services.shelf import cleaning, palettes
from huvren.studio.services.shelf.cards import nearness, opaque


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


PALETTE_CARD = ("id", "name", "count", "strip", "favorite")
LISTS = ("tags", "painted", "ramps")
"""Fetched as text: most are empty, and thousands of them take long to parse one by one."""
UTC_TIME = 'YYYY-MM-DD"T"HH24:MI:SS.US"Z"'
PICTURE_CARD = ("id", "name", "format", "width", "height", "distinct", "created", "favorite")
Card = dict[str, Any]


@dataclass(frozen=True)
class Shelf:
    """Cards of palettes and pictures, newest first, as plain rows: making objects of thousands takes longer than finding them.

    Each palette's card has `near`, the ΔEOK×100 to the color asked for; each picture's `palettes`, those that paint it.
    """

    palettes: list[Card]
    pictures: list[Card]
    ramps: list[Card]


def shelf(user: User, *, trash: bool = False, near: str = "") -> Shelf:
    """What is on the shelf, or in the trash. No document is read."""
    owned = visible(user, Palette).filter(trashed__isnull=not trash)
    in_utc = Func(Value("UTC"), F("updated"), function="timezone", output_field=DateTimeField())
    palettes: list[Card] = list(
        owned.annotate(
            time=Func(in_utc, Value(UTC_TIME), function="to_char", output_field=TextField()),
            **{f"{name}_text": Cast(name, TextField()) for name in LISTS},
        ).values(*PALETTE_CARD, "time", *(f"{name}_text" for name in LISTS), *(("colors",) if near else ()))
    )
    gaps = nearness(((card["id"], card.pop("colors")) for card in palettes), near) if near else {}
    made: dict[str, list[UUID]] = {}
    for card in palettes:
        card["updated"] = card.pop("time")
        for name in LISTS:
            text = card.pop(f"{name}_text")
            card[name] = [] if text == "[]" else json.loads(text)
        card["near"] = gaps.get(card["id"])
        painted = card.pop("painted")
        card["picture"] = painted[0] if painted else None
        for picture in painted:
            made.setdefault(picture, []).append(card["id"])
    ramps = [
        {**ramp, "palette": card["id"], "palette_name": card["name"], "updated": card["updated"]}
        for card in palettes
        for ramp in card.pop("ramps")
    ]
    nearest = nearness(((place, opaque(ramp["strip"])) for place, ramp in enumerate(ramps)), near) if near else {}
    for place, ramp in enumerate(ramps):
        ramp["near"] = nearest.get(place)
    pictures = list(visible(user, Picture).filter(trashed__isnull=not trash).values(*PICTURE_CARD))
    for card in pictures:
        card["palettes"] = made.get(str(card["id"]), [])
    return Shelf(palettes, pictures, ramps)


MOST_WORDS, LONGEST_WORD = 8, 100


def holding(user: User, words: Sequence[str], *, trash: bool = False) -> dict[str, list[UUID]]:
    """For each word of a search, the palettes that have a swatch whose name holds it, whatever its case."""
    owned = visible(user, Palette).filter(trashed__isnull=not trash)
    asked = dict.fromkeys(word.strip()[:LONGEST_WORD] for word in words[:MOST_WORDS])
    return {word: list(owned.filter(words__icontains=word).values_list("id", flat=True)) for word in asked if word}


def empty_trash(user: User) -> cleaning.Removed:
    """Remove for good what is in the trash now; what an undo could still need stays."""
    return cleaning.empty_trash(visible(user, Palette, "remove"), visible(user, Picture, "remove"))
