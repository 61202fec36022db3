"""What revisions hold, read and written past the services, as another version or a mishap would have."""

from typing import Any

from huvren.core.stored.packing import content_of, pack
from huvren.studio.models import Revision
from huvren.studio.services.shelf import palettes
from huvren.studio.services.shelf.revisions import stored_of


def document_of(revision: Revision) -> Any:
    return stored_of(revision)[0]


def links_of(revision: Revision) -> Any:
    return stored_of(revision)[1]


def rewrite(revision: Revision, **parts: Any) -> None:
    """Put another document or other links in the place of those that are stored; nothing is remembered of before."""
    document, links = stored_of(revision)
    content = content_of(parts.get("document", document), parts.get("links", links))
    revision.packed, revision.base, revision.is_base = pack(content), None, True
    revision.save()
    palettes.RECENT.clear()
