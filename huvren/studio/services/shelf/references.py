"""What leads to what: which pictures, index maps, palettes and ramps the revisions of palettes name.

It is a table (`Reference`), written with each revision. Whoever wants to know whether something may be removed, or where it is used,
asks it here; documents are never looked through.
"""

import contextlib
import hashlib
from dataclasses import dataclass
from uuid import UUID

from django.db.models import Exists, Max, OuterRef, QuerySet

from huvren.core.checks import CHECKS
from huvren.core.palette import values
from huvren.core.palette.check_limits import as_mapping
from huvren.studio.access import User, visible
from huvren.studio.models import Kind, Palette, Reference, Revision
from huvren.studio.services.shelf.links import Links


def target_of(text: str) -> UUID:
    """An id as the table holds it: itself where it is a UUID, else the MD5 of its letters (ids of ramps may be any text)."""
    with contextlib.suppress(ValueError):
        if str(known := UUID(text)) == text.lower():
            return known
    return UUID(hashlib.md5(text.encode(), usedforsecurity=False).hexdigest())


def _palettes_named(palette: values.Palette) -> set[str]:
    """Ids of other palettes that the palette's checks go by."""
    limits = as_mapping(palette.limits)
    return {
        str(value)
        for check in CHECKS
        for setting in check.limits
        if setting.kind == "palette" and (value := limits.get(check.id, {}).get(setting.id))
    }


def references_of(palette: values.Palette, links: Links) -> set[tuple[Kind, UUID]]:
    """Everything that a state of a palette leads to."""
    named = {
        Kind.PICTURE: {link.picture for link in links},
        Kind.INDEX_MAP: {frame.map for link in links for frame in link.frames},
        Kind.PALETTE: _palettes_named(palette),
        Kind.RAMP: {ramp.id for ramp in palette.ramps},
    }
    return {(kind, target_of(text)) for kind, texts in named.items() for text in texts}


def write_references(revision: Revision, palette: values.Palette, links: Links) -> None:
    """Write down what a revision leads to, within the transaction that stores it."""
    rows = [
        Reference(revision=revision, palette_id=revision.palette_id, kind=kind, target=target)
        for kind, target in references_of(palette, links)
    ]
    if rows:
        Reference.objects.bulk_create(rows)


def led_to(kind: Kind, *, leaving_out: QuerySet[Palette] | None = None) -> Exists:
    """A condition on rows whose primary key is a target: that some revision leads to them.

    leaving_out : palettes whose revisions do not count.
    """
    rows = Reference.objects.filter(kind=kind, target=OuterRef("pk"))
    return Exists(rows if leaving_out is None else rows.exclude(palette__in=leaving_out))


@dataclass(frozen=True)
class Use:
    """A palette that leads to something: now, or only in steps of its history that an undo leads back to."""

    palette: UUID
    name: str
    is_present: bool
    is_in_trash: bool
    last_step: int


def uses_of(user: User, kind: Kind, target: UUID) -> list[Use]:
    """Where something is used, of what this user may see: palettes that show it now first, then by name."""
    now = Reference.objects.filter(kind=kind, target=target, revision__palette=OuterRef("pk"), revision__number=OuterRef("head"))
    rows = visible(user, Palette).filter(references__kind=kind, references__target=target)
    rows = rows.annotate(last_step=Max("references__revision__number"), is_present=Exists(now)).order_by("-is_present", "name")
    found = rows.values_list("pk", "name", "is_present", "trashed", "last_step")
    return [Use(key, name, present, trashed is not None, last) for key, name, present, trashed, last in found]
