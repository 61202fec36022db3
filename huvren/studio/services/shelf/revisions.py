"""Storing a revision: the one place where one is made, with everything that goes along with it."""

from datetime import datetime
from typing import Any

from huvren.core.palette import values
from huvren.core.palette.document import palette_to_document
from huvren.core.stored.link import link_to_document
from huvren.studio.models import Palette, Revision
from huvren.studio.services.load.quotas import count_revision
from huvren.studio.services.shelf.links import Links
from huvren.studio.services.shelf.references import write_references


def stored_links(links: Links) -> list[dict[str, Any]]:
    """Links as a revision stores them."""
    return [link_to_document(link) for link in links]


def store_revision(
    row: Palette, number: int, parent: int | None, label: str, palette: values.Palette, links: Links, created: datetime | None = None
) -> Revision:
    """A further revision of a palette, its bytes counted and what it leads to written down; the head is not moved.

    created : when it was made, where that was not now. Within a transaction of the caller.
    """
    revision = Revision.objects.create(
        palette=row, number=number, parent=parent, label=label[:500], document=palette_to_document(palette), links=stored_links(links)
    )
    if created:
        Revision.objects.filter(pk=revision.pk).update(created=created)
    count_revision(revision.pk, row.pk)
    write_references(revision, palette, links)
    return revision
