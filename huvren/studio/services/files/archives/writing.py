"""Writing an archive: everything on a shelf as one zip. Each step of a palette is a line of its own, to be read line by line."""

import json
import shutil
import tempfile
import zipfile
from collections.abc import Iterator
from typing import IO, Any
from uuid import UUID

from pydantic_core import to_json

from huvren import __version__
from huvren.core.errors import BadInput
from huvren.core.palette.document import palette_to_document
from huvren.core.stored.archive import LIBRARY, MARK, RevisionEntry
from huvren.core.stored.link import link_to_document, understand_links
from huvren.studio.access import User, visible
from huvren.studio.models import IndexMap, KeptRecipe, LimitSet, Palette, Picture, Revision
from huvren.studio.services.shelf import palettes
from huvren.studio.services.shelf.links import Links
from huvren.studio.services.shelf.revisions import stored_of

IN_MEMORY = 16 * 1024 * 1024


def deflated(name: str) -> zipfile.ZipInfo:
    """An entry of text, packed."""
    entry = zipfile.ZipInfo(name)
    entry.compress_type = zipfile.ZIP_DEFLATED
    return entry


def _revisions(row: Palette, kept_pictures: set[str]) -> Iterator[tuple[RevisionEntry, Links]]:
    for revision in row.revisions.order_by("number").iterator(chunk_size=50):
        document, stored = stored_of(revision)
        links = tuple(link for link in understand_links(stored).value if link.picture in kept_pictures)
        yield {
            "number": revision.number, "parent": revision.parent, "label": revision.label,
            "created": revision.created.isoformat(), "document": document,
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
            entry: dict[str, Any] = {"id": str(palette.id), "favorite": palette.favorite, "head": palette.head}
            steps = tempfile.SpooledTemporaryFile(IN_MEMORY)  # noqa: SIM115  (closed below; a zip holds one open entry at a time)
            for revision, links in _revisions(palette, kept_pictures):
                for frame in (frame for link in links for frame in link.frames if frame.map not in written):
                    written.add(frame.map)
                    archive.writestr(f"maps/{frame.map}.gz", bytes(IndexMap.objects.get(pk=frame.map).data))
                steps.write(to_json(revision) + b"\n")
            steps.seek(0)
            with steps, archive.open(deflated(f"palettes/{palette.id}.jsonl"), "w") as entry_file:
                shutil.copyfileobj(steps, entry_file)
            library["palettes"].append(entry)
        library["recipes"] = [{"name": kept.name, "recipe": kept.recipe} for kept in visible(user, KeptRecipe)]
        library["limits"] = [{"name": kept.name, "limits": kept.limits} for kept in visible(user, LimitSet)]
        archive.writestr("library.json", json.dumps(LIBRARY.stamped(library), ensure_ascii=False), zipfile.ZIP_DEFLATED)
    target.seek(0)
    return target


def revision_document(user: User, palette_id: UUID, number: int | None) -> dict[str, Any]:
    """The lossless document of a palette as it is, or as it was at a step of its history."""
    if number is None:
        return palette_to_document(palettes.get_state(user, palette_id).palette)
    revision = visible(user, Revision).filter(palette_id=palette_id, number=number).first()
    if revision is None:
        palettes.get_state(user, palette_id)
        raise BadInput(f"There is no step {number} in this palette's history.")
    return palette_to_document(palettes.contents_of(revision, "Untitled").palette)
