"""Bringing an archive in: all of it, or nothing where a part cannot be read.

First its pictures are looked at, one at a time and each once, and their files are stored; nothing names those yet, and what never
gets a name is removed by the nightly cleaning. Then one transaction makes the rows. Two imports of the same artist go one after
the other. What is more than a moment's work is done by the queue.
"""

import contextlib
import gzip
import hashlib
import io
import zlib
from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import datetime
from typing import IO, Any
from uuid import UUID

from django.db import DataError, IntegrityError, transaction

from huvren.core.errors import BadFile, BadInput, HuvrenError, TooLarge
from huvren.core.json_text import read_json
from huvren.core.palette.document import palette_from_document, palette_to_document
from huvren.core.palette.values import Palette as Values
from huvren.core.palette.values import clean_name
from huvren.core.pictures import MOST_BYTES
from huvren.core.progress import Watch, part_of, unwatched
from huvren.core.stored.archive import LIBRARY, MARK, REVISION, LibraryShape, PaletteEntry, PictureEntry, RevisionEntry
from huvren.core.stored.job import ARCHIVE, ArchiveRequest
from huvren.core.stored.link import FrameMap, Link, link_from_document
from huvren.core.stored.recipe import RECIPE, recipe_to_document
from huvren.studio import bounds
from huvren.studio.access import User, key_of, visible
from huvren.studio.models import IndexMap, Job, JobFile, KeptRecipe, LimitSet, Palette, Picture, Revision
from huvren.studio.services.bench import pictures
from huvren.studio.services.files.archives.container import MOST_ENTRIES, Container, NoArchive
from huvren.studio.services.load import jobs, quotas
from huvren.studio.services.load.gate import GATE
from huvren.studio.services.load.jobs import ShelfFilled, Turn
from huvren.studio.services.shelf import limit_sets, palettes, recipes
from huvren.studio.services.shelf.cards import write_card
from huvren.studio.services.shelf.links import Links, store_map
from huvren.studio.services.shelf.revisions import store_revision

MOST_LIBRARY_BYTES = 32 * 1024 * 1024
AT_ONCE_BYTES, AT_ONCE_PIXELS = 4 * 1024 * 1024, 4_000_000
"""Up to which an archive is brought in while its sender waits."""
READING_BYTES = 400 * 1024 * 1024
PIECE = 4 * 1024 * 1024
DAMAGE = (KeyError, TypeError, ValueError, OSError, EOFError, zlib.error, DataError, IntegrityError)
"""What gzip and our own readers raise for contents that are not what they say, and the database for what it cannot hold."""


@dataclass(frozen=True)
class Taken:
    """What an archive brought: new palettes and pictures, and how many of each were there already."""

    palettes: int
    pictures: int
    recipes: int
    known: int


def _library(archive: Container) -> LibraryShape:
    try:
        document = read_json(archive.read("library.json", MOST_LIBRARY_BYTES))
    except TooLarge as error:
        raise TooLarge(f"{error} It is larger than can be brought in at once.") from error
    except BadInput as error:
        raise NoArchive from error
    if not isinstance(document, dict) or document.get("format") != MARK:
        raise NoArchive
    version = document.get("version", 1)
    if isinstance(version, int) and version > LIBRARY.version:
        raise BadFile(f"That archive was made by a newer version of Huvren ({version}). Bring this one up to date.")
    for part in ("palettes", "pictures", "recipes", "limits"):
        if isinstance(listed := document.get(part), list) and len(listed) > MOST_ENTRIES:
            raise TooLarge(f"That archive lists {len(listed):,} {part}; {MOST_ENTRIES:,} is the most.")
    return LIBRARY.read(document)


class _Taking:
    """One archive being brought in."""

    def __init__(self, user: User, file: IO[bytes]) -> None:
        self.user = user
        self.archive = Container(file)
        self.library = _library(self.archive)
        self.files: dict[str, pictures.Files] = {}
        self.pictures: dict[str, Picture] = {}
        self.maps: dict[tuple[str, UUID], tuple[IndexMap, int]] = {}

    def entries(self) -> list[PictureEntry]:
        return self.library.get("pictures", [])

    def _bytes_of(self, entry: PictureEntry) -> bytes:
        data = self.archive.read(f"pictures/{entry['id']}", MOST_BYTES)
        if hashlib.sha256(data).hexdigest() != entry["sha256"]:
            raise BadFile(f"The picture “{clean_name(entry['name'])}” in that archive is damaged.")
        return data

    def is_much(self) -> bool:
        """Whether bringing it in is a job. Pictures are only asked for the size that they claim."""
        if self.archive.claimed > AT_ONCE_BYTES:
            return True
        sizes = (pictures.pixels_of(self.archive.read(f"pictures/{e['id']}", AT_ONCE_BYTES), e["name"]) for e in self.entries())
        total = 0
        return any((total := total + size) > AT_ONCE_PIXELS for size in sizes)

    def read_pictures(self, watch: Watch, own: int) -> None:
        """Look at every picture that is not on the shelf, one at a time and each file once. own : bytes of the archive, where it is
        counted already."""
        there = set(visible(self.user, Picture).filter(trashed__isnull=True).values_list("original_id", flat=True))
        for number, entry in enumerate(self.entries()):
            watch(f"reading “{clean_name(entry['name'])[:60]}”", number / len(self.entries()))
            if entry["sha256"] not in there and entry["sha256"] not in self.files:
                looked = pictures.look_at(self._bytes_of(entry), entry["name"])
                quotas.check_bytes(key_of(self.user), sum(one.size for one in self.files.values()) + looked.size - own)
                self.files[entry["sha256"]] = pictures.store_files(looked)

    def picture(self, entry: PictureEntry) -> bool:
        """Put a picture on the shelf; false where it is there already."""
        name = clean_name(entry["name"])
        same = visible(self.user, Picture).filter(original_id=entry["sha256"], trashed__isnull=True)
        row = same.filter(name=name).first()
        if row is None:
            like = same.first()
            files = pictures.files_of(like) if like else self.files.get(entry["sha256"])
            if files is None:
                raise BadInput("Something on the shelf was taken away while the archive was brought in. Try again.")
            row = pictures.put_on_shelf(self.user, name, files)
            row.favorite = entry.get("favorite", False)
            row.proofs = [recipe_to_document(RECIPE.read(proof)) for proof in entry.get("proofs", [])[: recipes.MOST_PROOFS]]
            row.save(update_fields=["favorite", "proofs"])
            self.pictures[str(entry["id"])] = row
            return True
        self.pictures[str(entry["id"])] = row
        return False

    def _frame(self, frame: FrameMap, link: Link, picture: Picture) -> FrameMap:
        if (link.width, link.height) != (picture.width, picture.height):
            raise BadFile(f"The reduced form of “{picture.name}” in that archive does not fit the picture.")
        key = (frame.map, picture.pk)
        if key not in self.maps:
            packed = self.archive.read(f"maps/{UUID(frame.map)}.gz", MOST_BYTES)
            with gzip.open(io.BytesIO(packed)) as stream:
                data = stream.read(picture.width * picture.height + 1)
            if len(data) != picture.width * picture.height:
                raise BadFile(f"The reduced form of “{picture.name}” in that archive does not fit the picture.")
            self.maps[key] = (store_map(picture, pictures.as_map(data, picture.width, picture.height)), max(data))
        row, highest = self.maps[key]
        if highest >= len(link.table):
            raise BadFile(f"The reduced form of “{picture.name}” in that archive uses colors it does not list.")
        return FrameMap(map=str(row.pk), counts=frame.counts)

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

    def _steps(self, entry: PaletteEntry) -> Iterator[RevisionEntry]:
        """Its steps, one at a time; before version 4 they all stood in the table of contents."""
        if "revisions" in entry:
            yield from entry["revisions"]
        else:
            yield from (REVISION.read(line) for line in self.archive.lines(f"palettes/{entry['id']}.jsonl"))

    def palette(self, entry: PaletteEntry) -> bool:
        """Take a palette in with its history; false where the same one is on the shelf already."""
        if self._is_here(entry):
            return False
        row = Palette(owner_id=key_of(self.user), head=entry["head"], favorite=entry.get("favorite", False), origin=entry["id"])
        row.save()
        numbers: set[int] = set()
        before: Revision | None = None
        parents: set[int | None] = {None}
        for step in self._steps(entry):
            palette = palette_from_document(step["document"])
            links = self.links(step.get("links", []), palette)
            number, parent, when = step["number"], step.get("parent"), _created(step)
            before = store_revision(row, number, parent, step["label"], palette, links, after=before, created=when)
            numbers.add(step["number"])
            parents.add(step.get("parent"))
            if step["number"] == entry["head"]:
                write_card(row, palette, links, ("head",))
        if entry["head"] not in numbers or not parents <= {None, *numbers}:
            raise BadFile("A palette in that archive has a history with a gap.")
        return True

    def _is_here(self, entry: PaletteEntry) -> bool:
        mine = visible(self.user, Palette).filter(trashed__isnull=True)
        twins = list(mine.filter(origin=entry["id"]) | mine.filter(pk=entry["id"]))
        if not twins:
            return False
        # As documents: what an archive holds may be of an earlier version.
        wanted = next((step["document"] for step in self._steps(entry) if step["number"] == entry["head"]), None)
        document = None if wanted is None else palette_to_document(palette_from_document(wanted))
        return any(palette_to_document(palettes.get_state(self.user, row.pk).palette) == document for row in twins)

    def take(self) -> Taken:
        """Everything, within a transaction. The artist's counts are held first, so that two imports go one after the other."""
        entries = self.library.get("palettes", [])
        quotas.make_room(self.user, pictures=len(self.files))
        new_pictures = [self.picture(entry) for entry in self.entries()]
        new_palettes = []
        for entry in entries:
            quotas.make_room(self.user, palettes=1)
            new_palettes.append(self.palette(entry))
        kept = set(visible(self.user, KeptRecipe).values_list("name", flat=True))
        fresh = [entry for entry in self.library.get("recipes", []) if entry["name"] not in kept]
        for recipe in fresh:
            recipes.keep(self.user, recipe["name"], RECIPE.read(recipe["recipe"]))
        named = set(visible(self.user, LimitSet).values_list("name", flat=True))
        for rules in self.library.get("limits", []):
            if rules["name"] not in named:
                limit_sets.keep(self.user, rules["name"], rules["limits"])
        known = new_pictures.count(False) + new_palettes.count(False)
        return Taken(new_palettes.count(True), new_pictures.count(True), len(fresh), known)


def _created(step: RevisionEntry) -> datetime | None:
    with contextlib.suppress(ValueError, TypeError):
        when = datetime.fromisoformat(step.get("created") or "")
        return when if when.tzinfo is not None else None
    return None


@contextlib.contextmanager
def _said() -> Iterator[None]:
    """Whatever is wrong with an archive becomes a sentence about it."""
    try:
        yield
    except HuvrenError as error:
        if isinstance(error, BadFile | TooLarge) or not isinstance(error, BadInput | LookupError):
            raise
        raise BadFile(f"That archive is damaged, so nothing was brought in. {error}") from error
    except DAMAGE as error:
        raise BadFile("That archive is damaged, so nothing was brought in.") from error


def take_archive(user: User, file: IO[bytes], turn: Turn | None = None) -> Taken:
    """Bring an archive's palettes, pictures and recipes onto the shelf. All of it, or nothing where a part cannot be read."""
    watch = turn.watch if turn else unwatched
    with _said(), GATE.enter(READING_BYTES):
        watch("reading the archive", 0.0)
        taking = _Taking(user, file)
        try:
            taking.read_pictures(part_of(watch, 0.05, 0.8), turn.job.bytes if turn else 0)
            watch("putting everything on the shelf", 0.8)
            with transaction.atomic():
                if turn:
                    jobs.let_go_of_file(turn.job.pk)
                taken = taking.take()
                if turn:
                    turn.finish(ShelfFilled(taken.palettes, taken.pictures, taken.known))
        except BaseException:
            pictures.let_go(taking.files.values())
            raise
    return taken


def looked_into(user: User, file: IO[bytes]) -> tuple[int, int]:
    """Palettes and pictures of an archive, each read through once. Raises `BadFile` where a part of it cannot be read."""
    with _said():
        taking = _Taking(user, file)
        for picture in taking.entries():
            taking._bytes_of(picture)
        palettes = taking.library.get("palettes", [])
        for entry in palettes:
            for _ in taking.archive.lines(f"palettes/{entry['id']}.jsonl"):
                pass
        return len(palettes), len(taking.entries())


def take_or_start(user: User, file: IO[bytes]) -> Taken | Job:
    """Bring a small archive in at once; a large one is handed to the queue."""
    with _said(), GATE.enter(READING_BYTES):
        is_much = _Taking(user, file).is_much()
    file.seek(0)
    if not is_much:
        return take_archive(user, file)
    size = file.seek(0, io.SEEK_END)
    file.seek(0)
    with transaction.atomic():
        quotas.check_bytes(key_of(user), size)
        job = jobs.start(user, ARCHIVES, f"An archive of {max(1, size // bounds.MB)} MB", ArchiveRequest())
        position = 0
        while piece := file.read(PIECE):
            JobFile.objects.create(job=job, position=position, data=piece)
            position += 1
        jobs.count_more(job.pk, size)
    return job


def _work(turn: Turn, request: ArchiveRequest) -> None:
    del request
    with jobs.file_of(turn.job) as file:
        take_archive(turn.job.owner, file, turn)


ARCHIVES = jobs.KINDS.register(jobs.JobKind("archive", ARCHIVE, ShelfFilled, _work, can_again=False))
