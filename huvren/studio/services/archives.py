"""The archive: everything on a shelf as one zip, with the whole history of every palette, and back."""

import contextlib
import gzip
import io
import json
import tempfile
import zipfile
import zlib
from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import datetime
from typing import IO, Any
from uuid import UUID

from django.db import DataError, IntegrityError, transaction

from huvren import __version__
from huvren.core.errors import BadFile, BadInput, HuvrenError, TooLarge
from huvren.core.palette.document import palette_from_document, palette_to_document
from huvren.core.palette.values import Palette as Values
from huvren.core.palette.values import clean_name
from huvren.core.pictures import MOST_BYTES
from huvren.core.stored.archive import LIBRARY, MARK, LibraryShape, PaletteEntry, PictureEntry, RevisionEntry
from huvren.core.stored.link import FrameMap, Link, link_from_document, link_to_document, understand_links
from huvren.core.stored.recipe import RECIPE, recipe_to_document
from huvren.studio.access import User, key_of, visible
from huvren.studio.models import IndexMap, KeptRecipe, LimitSet, Palette, Picture, Revision
from huvren.studio.services import limit_sets, palettes, pictures, recipes
from huvren.studio.services.cards import write_card
from huvren.studio.services.links import Links, store_map

IN_MEMORY = 64 * 1024 * 1024
MOST_ARCHIVE_BYTES = 2 * 1024**3
MOST_ENTRIES = 20_000
DAMAGE = (
    KeyError, TypeError, ValueError, OSError, EOFError, zlib.error, zipfile.BadZipFile, NotImplementedError, RuntimeError, DataError,
    IntegrityError,
)  # fmt: skip
"""What zipfile, gzip and json raise for bytes that are not what they say, and the database for what it cannot hold."""


def _revisions(row: Palette, kept_pictures: set[str]) -> Iterator[tuple[RevisionEntry, Links]]:
    for revision in row.revisions.order_by("number").iterator(chunk_size=50):
        links = tuple(link for link in understand_links(revision.links).value if link.picture in kept_pictures)
        yield {
            "number": revision.number, "parent": revision.parent, "label": revision.label,
            "created": revision.created.isoformat(), "document": revision.document,
            "links": [link_to_document(link) for link in links],
        }, links  # fmt: skip


def write_archive(user: User) -> IO[bytes]:
    """Everything on the artist's shelf, without the trash, as a zip; every step of every palette."""
    target = tempfile.SpooledTemporaryFile(IN_MEMORY)  # noqa: SIM115  (the response closes it)
    rows = visible(user, Picture).filter(trashed__isnull=True).select_related("original")
    kept_pictures = {str(row.id) for row in rows}
    library: dict[str, Any] = {"format": MARK, "made_by": __version__, "pictures": [], "palettes": [], "recipes": [], "limits": []}
    written: set[str] = set()
    with zipfile.ZipFile(target, "w") as archive:
        for row in rows.iterator(chunk_size=4):
            archive.writestr(f"pictures/{row.id}", bytes(row.original.data))
            library["pictures"].append(
                {"id": str(row.id), "name": row.name, "sha256": row.original_id, "favorite": row.favorite, "proofs": row.proofs}
            )
        for palette in visible(user, Palette).filter(trashed__isnull=True).defer("colors").iterator(chunk_size=50):
            entry: dict[str, Any] = {"id": str(palette.id), "favorite": palette.favorite, "head": palette.head, "revisions": []}
            for revision, links in _revisions(palette, kept_pictures):
                for frame in (frame for link in links for frame in link.frames if frame.map not in written):
                    written.add(frame.map)
                    archive.writestr(f"maps/{frame.map}.gz", bytes(IndexMap.objects.get(pk=frame.map).data))
                entry["revisions"].append(revision)
            library["palettes"].append(entry)
        library["recipes"] = [{"name": kept.name, "recipe": kept.recipe} for kept in visible(user, KeptRecipe)]
        library["limits"] = [{"name": kept.name, "limits": kept.limits} for kept in visible(user, LimitSet)]
        archive.writestr("library.json", json.dumps(LIBRARY.stamped(library), ensure_ascii=False), zipfile.ZIP_DEFLATED)
    target.seek(0)
    return target


@dataclass(frozen=True)
class Taken:
    """What an archive brought: new palettes and pictures, and how many of each were there already."""

    palettes: int
    pictures: int
    recipes: int
    known: int


def _open(file: IO[bytes]) -> tuple[zipfile.ZipFile, LibraryShape]:
    try:
        archive = zipfile.ZipFile(file)
        entries = archive.infolist()
        if len(entries) > MOST_ENTRIES or sum(entry.file_size for entry in entries) > MOST_ARCHIVE_BYTES:
            raise TooLarge("That archive is larger than a library can be.")
        document = json.loads(archive.read("library.json"))
        if not isinstance(document, dict) or document.get("format") != MARK:
            raise KeyError("format")
    except (zipfile.BadZipFile, zipfile.LargeZipFile, KeyError, TypeError, ValueError, EOFError, RecursionError) as error:
        if isinstance(error, HuvrenError):
            raise
        raise BadFile("That is no library archive. One is written by “Archive” on the shelf, and ends in .zip.") from error
    version = document.get("version", 1)
    if isinstance(version, int) and version > LIBRARY.version:
        raise BadFile(f"That archive was made by a newer version of Huvren ({version}). Bring this one up to date.")
    return archive, LIBRARY.read(document)


class _Taking:
    """One archive being brought in."""

    def __init__(self, user: User, archive: zipfile.ZipFile) -> None:
        self.user = user
        self.archive = archive
        self.pictures: dict[str, Picture] = {}
        self.maps: dict[str, IndexMap] = {}

    def picture(self, entry: PictureEntry) -> bool:
        """Take a picture in; false where it is on the shelf already."""
        name = clean_name(entry["name"])
        there = visible(self.user, Picture).filter(original_id=entry["sha256"], name=name, trashed__isnull=True).first()
        if there is not None:
            self.pictures[str(entry["id"])] = there
            return False
        info = self.archive.getinfo(f"pictures/{entry['id']}")
        if info.file_size > MOST_BYTES:
            raise TooLarge(f"“{name}” in that archive is larger than a picture can be.")
        picture = pictures.take_in(self.user, name, self.archive.read(info))
        picture.favorite = entry.get("favorite", False)
        picture.proofs = [recipe_to_document(RECIPE.read(proof)) for proof in entry.get("proofs", [])[: recipes.MOST_PROOFS]]
        picture.save(update_fields=["favorite", "proofs"])
        self.pictures[str(entry["id"])] = picture
        return True

    def _frame(self, frame: FrameMap, link: Link, picture: Picture) -> FrameMap:
        if frame.map not in self.maps:
            with gzip.open(io.BytesIO(self.archive.read(f"maps/{UUID(frame.map)}.gz"))) as stream:
                data = stream.read(link.width * link.height + 1)
            if len(data) != link.width * link.height or (link.width, link.height) != (picture.width, picture.height):
                raise BadFile(f"The reduced form of “{picture.name}” in that archive does not fit the picture.")
            if data and max(data) >= len(link.table):
                raise BadFile(f"The reduced form of “{picture.name}” in that archive uses colors it does not list.")
            self.maps[frame.map] = store_map(picture, pictures.as_map(data, link.width, link.height))
        return FrameMap(map=str(self.maps[frame.map].pk), counts=frame.counts)

    def links(self, documents: list[dict[str, Any]], palette: Values) -> Links:
        """Links of a revision, to the pictures and maps as they are stored here."""
        ids = {swatch.id for swatch in palette.swatches}
        made = []
        for document in documents:
            link = link_from_document(document)
            picture = self.pictures[link.picture]
            if not {entry for entry in link.table if entry} <= ids:
                raise BadFile(f"The reduced form of “{picture.name}” in that archive does not fit its palette.")
            frames = tuple(self._frame(frame, link, picture) for frame in link.frames)
            made.append(replace(link, picture=str(picture.pk), frames=frames))
        return tuple(made)

    def palette(self, entry: PaletteEntry) -> bool:
        """Take a palette in with its history; false where the same one is on the shelf already."""
        steps = {step["number"]: (step, palette_from_document(step["document"])) for step in entry["revisions"]}
        if entry["head"] not in steps or any(step.get("parent") not in {None, *steps} for step, _ in steps.values()):
            raise BadFile("A palette in that archive has a history with a gap.")
        if self._is_here(entry["id"], steps[entry["head"]][1]):
            return False
        row = Palette(owner_id=key_of(self.user), head=entry["head"], favorite=entry.get("favorite", False), origin=entry["id"])
        made = {number: self.links(step.get("links", []), palette) for number, (step, palette) in steps.items()}
        write_card(row, steps[row.head][1], made[row.head])
        row.save()
        for number, (step, palette) in sorted(steps.items()):
            revision = Revision.objects.create(
                palette=row, number=number, parent=step.get("parent"), label=step["label"][:500],
                document=palette_to_document(palette), links=palettes.stored_links(made[number]),
            )  # fmt: skip
            with contextlib.suppress(ValueError, TypeError):
                when = datetime.fromisoformat(step.get("created") or "")
                if when.tzinfo is not None:
                    Revision.objects.filter(pk=revision.pk).update(created=when)
        return True

    def _is_here(self, origin: UUID, palette: Values) -> bool:
        mine = visible(self.user, Palette).filter(trashed__isnull=True)
        twins = mine.filter(origin=origin) | mine.filter(pk=origin)
        wanted = palette_to_document(palette)
        # As documents: the database orders the keys of a variant's colors by itself.
        return any(palette_to_document(palettes.get_state(self.user, row.pk).palette) == wanted for row in twins)


@transaction.atomic
def take_archive(user: User, file: IO[bytes]) -> Taken:
    """Bring an archive's palettes, pictures and recipes onto the shelf. All of it, or nothing where a part cannot be read."""
    archive, library = _open(file)
    taking = _Taking(user, archive)
    try:
        new_pictures = [taking.picture(entry) for entry in library.get("pictures", [])]
        new_palettes = [taking.palette(entry) for entry in library.get("palettes", [])]
        kept = set(visible(user, KeptRecipe).values_list("name", flat=True))
        fresh = [entry for entry in library.get("recipes", []) if entry["name"] not in kept]
        for entry in fresh:
            recipes.keep(user, entry["name"], RECIPE.read(entry["recipe"]))
        named = set(visible(user, LimitSet).values_list("name", flat=True))
        for rules in library.get("limits", []):
            if rules["name"] not in named:
                limit_sets.keep(user, rules["name"], rules["limits"])
    except HuvrenError as error:
        if isinstance(error, BadFile | TooLarge):
            raise
        raise BadFile(f"That archive is damaged, so nothing was brought in. {error}") from error
    except DAMAGE as error:
        raise BadFile("That archive is damaged, so nothing was brought in.") from error
    known = new_pictures.count(False) + new_palettes.count(False)
    return Taken(new_palettes.count(True), new_pictures.count(True), len(fresh), known)


def revision_document(user: User, palette_id: UUID, number: int | None) -> dict[str, Any]:
    """The lossless document of a palette as it is, or as it was at a step of its history."""
    if number is None:
        return palette_to_document(palettes.get_state(user, palette_id).palette)
    revision = visible(user, Revision).filter(palette_id=palette_id, number=number).first()
    if revision is None:
        palettes.get_state(user, palette_id)
        raise BadInput(f"There is no step {number} in this palette's history.")
    return palette_to_document(palettes.RECENT.get(revision, "Untitled").palette)
