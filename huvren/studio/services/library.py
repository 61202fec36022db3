"""The whole shelf: duplicating, favorites, nearness to a color, and the archive that carries everything elsewhere.

An archive is a zip: `library.json` with the palettes' documents, their links and the kept recipes, `pictures/` with the
files as they were brought in, `maps/` with the index maps. Taking one in twice makes no doubles: a picture is known by
its contents and name, a palette by its id and document.
"""

import gzip
import io
import json
import tempfile
import zipfile
from dataclasses import dataclass, replace
from typing import IO, Any
from uuid import UUID

import numpy as np
from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.db.models import F

from huvren import __version__
from huvren.core.color.difference import DELTA_SCALE
from huvren.core.color.notation import parse_color
from huvren.core.color.spaces import convert
from huvren.core.color.value import Color, srgb_of
from huvren.core.errors import BadFile, BadInput, HuvrenError, TooLarge
from huvren.core.palette.values import clean_name, palette_from_document, palette_to_document
from huvren.core.pictures import MOST_BYTES
from huvren.core.reduction.recipe import ReduceRecipe
from huvren.studio.models import IndexMap, KeptRecipe, Palette, Picture, Revision
from huvren.studio.services import get_owned, palettes, pictures, recipes

IN_MEMORY = 64 * 1024 * 1024
MOST_ARCHIVE_BYTES = 2 * 1024**3
MOST_ENTRIES = 20_000
FORMAT = "huvren-library"


def set_favorite(owner: AbstractBaseUser, model: type[Palette] | type[Picture], object_id: UUID, favorite: bool) -> None:
    """Mark a palette or picture as a favorite, or not."""
    get_owned(model, owner, object_id)
    model.objects.filter(pk=object_id).update(favorite=favorite)


@transaction.atomic
def duplicate(owner: AbstractBaseUser, palette_id: UUID) -> palettes.State:
    """A copy of a palette with its present state as first step; swatches keep their ids, linked pictures come along."""
    state = palettes.get_state(owner, palette_id)
    names = set(Palette.objects.filter(owner=owner).values_list("name", flat=True))
    name, number = f"{state.palette.name[:180]} copy", 2
    while name in names:
        name, number = f"{state.palette.name[:180]} copy {number}", number + 1
    return palettes.create(
        owner, replace(state.palette, name=name), f"Duplicate of “{state.palette.name}”", list(state.revision.links)
    )


def nearness(hexes: dict[UUID, list[str]], wanted: str) -> dict[UUID, float]:
    """ΔEOK×100 from a color to the nearest swatch of each palette; palettes without an opaque one are left out."""
    target = np.array(parse_color(wanted).oklab)
    found = {}
    for palette_id, codes in hexes.items():
        if codes:
            rgb = np.array([[int(code[place : place + 2], 16) for place in (1, 3, 5)] for code in codes]) / 255
            gaps = np.linalg.norm(convert(rgb, "srgb", "oklab") - target, axis=1)
            found[palette_id] = round(float(gaps.min() * DELTA_SCALE), 3)
    return found


def hexes_of(colors: list[Color]) -> list[str]:
    """`#rrggbb` of many colors at once, alpha left out."""
    if not colors:
        return []
    rgb = np.floor(srgb_of(colors)[0] * 255 + 0.5).astype(int).tolist()
    return [f"#{red:02x}{green:02x}{blue:02x}" for red, green, blue in rgb]


# The archive


def write_archive(owner: AbstractBaseUser) -> IO[bytes]:
    """Everything on the artist's shelf, without the trash, as a zip."""
    target = tempfile.SpooledTemporaryFile(IN_MEMORY)  # noqa: SIM115  (the response closes it)
    rows = Picture.objects.filter(owner=owner, trashed__isnull=True).select_related("original")
    heads = Revision.objects.filter(number=F("palette__head"), palette__owner=owner, palette__trashed__isnull=True).select_related(
        "palette"
    )
    kept_pictures = {str(row.id) for row in rows}
    library: dict[str, Any] = {"format": FORMAT, "version": 1, "made_by": __version__, "pictures": [], "palettes": [], "recipes": []}
    with zipfile.ZipFile(target, "w") as archive:
        for row in rows.iterator(chunk_size=4):
            archive.writestr(f"pictures/{row.id}", bytes(row.original.data))
            library["pictures"].append(
                {"id": str(row.id), "name": row.name, "sha256": row.original_id, "favorite": row.favorite, "proofs": row.proofs}
            )
        for revision in heads.iterator(chunk_size=50):
            palette = revision.palette
            links = [link for link in revision.links if link["picture"] in kept_pictures]
            for link in links:
                stored = IndexMap.objects.get(pk=link["map"])
                archive.writestr(f"maps/{stored.id}.gz", bytes(stored.data))
            library["palettes"].append(
                {"id": str(palette.id), "favorite": palette.favorite, "document": revision.document, "links": links}
            )
        library["recipes"] = [{"name": kept.name, "recipe": kept.recipe} for kept in KeptRecipe.objects.filter(owner=owner)]
        archive.writestr("library.json", json.dumps(library, ensure_ascii=False), zipfile.ZIP_DEFLATED)
    target.seek(0)
    return target


@dataclass(frozen=True)
class Taken:
    """What an archive brought: new palettes and pictures, and how many of each were there already."""

    palettes: int
    pictures: int
    recipes: int
    known: int


def _read(file: IO[bytes]) -> tuple[zipfile.ZipFile, dict[str, Any]]:
    try:
        archive = zipfile.ZipFile(file)
        entries = archive.infolist()
        if len(entries) > MOST_ENTRIES or sum(entry.file_size for entry in entries) > MOST_ARCHIVE_BYTES:
            raise TooLarge("That archive is larger than a library can be.")
        library = json.loads(archive.read("library.json"))
        if library["format"] != FORMAT:
            raise KeyError("format")
        if library["version"] != 1:
            raise BadFile(f"That archive was made by a newer version of Huvren ({library['version']}). Bring this one up to date.")
    except (zipfile.BadZipFile, zipfile.LargeZipFile, KeyError, TypeError, ValueError, EOFError) as error:
        if isinstance(error, HuvrenError):
            raise
        raise BadFile("That is no library archive. One is written by “Archive” on the shelf, and ends in .zip.") from error
    return archive, library


def _picture(owner: AbstractBaseUser, archive: zipfile.ZipFile, entry: dict[str, Any]) -> tuple[Picture, bool]:
    name = clean_name(str(entry["name"]))
    known = Picture.objects.filter(owner=owner, original_id=str(entry["sha256"]), name=name, trashed__isnull=True).first()
    if known is not None:
        return known, False
    info = archive.getinfo(f"pictures/{UUID(str(entry['id']))}")
    if info.file_size > MOST_BYTES:
        raise TooLarge(f"“{name}” in that archive is larger than a picture can be.")
    picture = pictures.take_in(owner, name, archive.read(info))
    picture.favorite = bool(entry.get("favorite"))
    proofs = list(entry.get("proofs", []))[: recipes.MOST_PROOFS]
    picture.proofs = [ReduceRecipe.model_validate(recipe).model_dump() for recipe in proofs]
    picture.save(update_fields=["favorite", "proofs"])
    return picture, True


def _link(archive: zipfile.ZipFile, link: dict[str, Any], picture: Picture, swatches: set[str]) -> dict[str, Any]:
    width, height = int(link["width"]), int(link["height"])
    with gzip.open(io.BytesIO(archive.read(f"maps/{UUID(str(link['map']))}.gz"))) as stream:
        data = stream.read(width * height + 1)
    table = [None if swatch_id is None else str(swatch_id) for swatch_id in link["table"]]
    counts = [int(count) for count in link["counts"]]
    if len(data) != width * height or (width, height) != (picture.width, picture.height):
        raise BadFile(f"The reduced form of “{picture.name}” in that archive does not fit the picture.")
    if len(table) > 256 or len(counts) != len(table) or not {entry for entry in table if entry} <= swatches:
        raise BadFile(f"The reduced form of “{picture.name}” in that archive does not fit its palette.")
    if data and max(data) >= len(table):
        raise BadFile(f"The reduced form of “{picture.name}” in that archive uses colors it does not list.")
    stored = IndexMap.objects.create(picture=picture, width=width, height=height, data=gzip.compress(data, 6, mtime=0))
    return {
        "picture": str(picture.id), "map": str(stored.id), "width": width, "height": height, "table": table, "counts": counts,
        "recipe": ReduceRecipe.model_validate(link["recipe"]).model_dump(), "figures": dict(link["figures"]),
        "notes": [str(note) for note in link.get("notes", [])], "worst_tiles": list(link.get("worst_tiles", [])),
    }  # fmt: skip


@transaction.atomic
def take_archive(owner: AbstractBaseUser, file: IO[bytes]) -> Taken:
    """Bring an archive's palettes, pictures and recipes onto the shelf. All of it, or nothing where a part cannot be read."""
    archive, library = _read(file)
    made_palettes = made_pictures = made_recipes = known = 0
    try:
        by_id: dict[str, Picture] = {}
        for entry in library["pictures"]:
            by_id[str(entry["id"])], is_new = _picture(owner, archive, entry)
            made_pictures += is_new
            known += not is_new
        for entry in library["palettes"]:
            palette = palette_from_document(entry["document"])
            origin = UUID(str(entry["id"]))
            same = Palette.objects.filter(owner=owner, trashed__isnull=True)
            twins = same.filter(origin=origin) | same.filter(pk=origin)
            heads = Revision.objects.filter(number=F("palette__head"), palette__in=twins)
            if any(palette_from_document(head.document) == palette for head in heads):
                known += 1
                continue
            ids = {swatch.id for swatch in palette.swatches}
            links = [_link(archive, link, by_id[str(link["picture"])], ids) for link in entry["links"]]
            state = palettes.create(owner, palette, "Bring in from an archive", links)
            Palette.objects.filter(pk=state.row.pk).update(origin=origin, favorite=bool(entry.get("favorite")))
            made_palettes += 1
        kept = {row.name: row.recipe for row in KeptRecipe.objects.filter(owner=owner)}
        for entry in library["recipes"]:
            recipe = ReduceRecipe.model_validate(entry["recipe"])
            if entry["name"] not in kept:
                recipes.keep(owner, str(entry["name"]), recipe)
                made_recipes += 1
    except HuvrenError:
        raise
    except (KeyError, TypeError, ValueError, OSError, EOFError, zipfile.BadZipFile) as error:
        raise BadFile("That archive is damaged, so nothing was brought in.") from error
    return Taken(made_palettes, made_pictures, made_recipes, known)


def revision_document(owner: AbstractBaseUser, palette_id: UUID, number: int | None) -> dict[str, Any]:
    """The lossless document of a palette as it is, or as it was at a step of its history."""
    row = get_owned(Palette, owner, palette_id)
    revision = row.revisions.filter(number=row.head if number is None else number).first()
    if revision is None:
        raise BadInput(f"There is no step {number} in this palette's history.")
    return palette_to_document(palette_from_document(revision.document))
