"""Storing a revision: the one place where one is made, with everything that goes along with it, and the one where it is read."""

from datetime import datetime
from typing import Any
from uuid import UUID

from huvren.core.palette import values
from huvren.core.palette.document import palette_to_document
from huvren.core.stored.link import link_to_document
from huvren.core.stored.packing import Base, content_of, packed_step, read_content, unpack
from huvren.studio.bounds import MB
from huvren.studio.models import Palette, Revision
from huvren.studio.services.load.quotas import count_revision
from huvren.studio.services.load.remembering import Remembered
from huvren.studio.services.shelf.links import Links
from huvren.studio.services.shelf.references import write_references

BASES: Remembered[tuple[UUID, int], Base] = Remembered(16 * MB, lambda base: len(base.content))
"""By palette and row. A row's number is given out once, even where the row is rolled back, so what is remembered is always right."""


def stored_links(links: Links) -> list[dict[str, Any]]:
    """Links as a revision stores them."""
    return [link_to_document(link) for link in links]


def stored_of(revision: Revision) -> tuple[Any, Any]:
    """The document and the links of a revision, as they were stored."""
    base = b"" if revision.base_id is None else _base(revision.palette_id, revision.base_id).content
    return read_content(unpack(bytes(revision.packed), base))


def _base(palette: UUID, row: int) -> Base:
    def fetched() -> Base:
        number, packed, further = Revision.objects.values_list("number", "packed", "base").get(pk=row)
        if further is None:
            return Base(unpack(bytes(packed)), number)
        below = _base(palette, further)
        return Base(unpack(bytes(packed), below.content), number, below.depth + 1)

    return BASES.get((palette, row), fetched)


def base_row_after(revision: Revision) -> int:
    """The row that a step made from this one is best a difference to."""
    return revision.base_id if revision.base_id and not revision.is_base else revision.pk


def store_revision(
    row: Palette,
    number: int,
    parent: int | None,
    label: str,
    palette: values.Palette,
    links: Links,
    *,
    after: Revision | None = None,
    created: datetime | None = None,
) -> Revision:
    """A further revision of a palette, its bytes counted and what it leads to written down; the head is not moved.

    after : the one that it is likely to be like, of the same palette. created : when it was made, where that was not now.
    Within a transaction of the caller.
    """
    content = content_of(palette_to_document(palette), stored_links(links))
    row_of_base = base_row_after(after) if after else None
    packed = packed_step(content, number, None if row_of_base is None else _base(row.pk, row_of_base))
    revision = Revision.objects.create(
        palette=row, number=number, parent=parent, label=label[:500], packed=packed.data, is_base=packed.is_base,
        base_id=row_of_base if packed.is_difference else None,
    )  # fmt: skip
    if created:
        Revision.objects.filter(pk=revision.pk).update(created=created)
    count_revision(row.pk, len(packed.data))
    write_references(revision, palette, links)
    return revision
