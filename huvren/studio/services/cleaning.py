"""What is removed for good, and when: the trash after a stated time or by hand, ended jobs, and stored bytes that nothing names.

Revisions name their maps and pictures inside documents, so what is reachable is asked of the database in one query over them.
Nothing reachable ever goes: every revision of every palette counts, those that only an undo leads back to included, and a
picture in the trash stays as long as a palette that is not removed paints it in any of its revisions.
"""

from collections.abc import Sequence
from dataclasses import dataclass, fields
from datetime import datetime, timedelta
from uuid import UUID

from django.conf import settings
from django.contrib.sessions.models import Session
from django.db import connection, transaction
from django.db.models import Q, QuerySet
from django.utils import timezone

from huvren.studio import sign_in
from huvren.studio.models import IndexMap, Job, Palette, Picture, StoredBytes
from huvren.studio.services import quotas
from huvren.studio.services.quotas import OPEN

GRACE = timedelta(hours=1)
"""A map this young may belong to a revision that is being stored this moment."""


@dataclass(frozen=True)
class Removed:
    """How much was removed of each, or would be."""

    palettes: int = 0
    pictures: int = 0
    jobs: int = 0
    maps: int = 0
    files: int = 0

    def __add__(self, other: "Removed") -> "Removed":
        return Removed(*(getattr(self, entry.name) + getattr(other, entry.name) for entry in fields(self)))

    def __str__(self) -> str:
        return ", ".join(f"{getattr(self, entry.name)} {entry.name}" for entry in fields(self))


# Version 1 of a link had its map beside the table, later ones have one in every frame.
_NAMED = """
SELECT DISTINCT found #>> '{}' FROM studio_revision, jsonb_path_query(links, %s) AS found
WHERE NOT (palette_id = ANY(%s))
"""


def _named(path: str, without: Sequence[UUID]) -> set[str]:
    """The ids at a path of any revision's links, leaving out some palettes."""
    with connection.cursor() as cursor:
        cursor.execute(_NAMED, [path, list(without)])
        return {row[0] for row in cursor.fetchall() if row[0]}


def _remove(rows: QuerySet[Picture] | QuerySet[Palette] | QuerySet[Job], dry_run: bool) -> int:
    count = rows.count()
    if not dry_run:
        rows.delete()
    return count


@transaction.atomic
def empty_trash(
    palettes: QuerySet[Palette], pictures: QuerySet[Picture], before: datetime | None = None, *, dry_run: bool = False
) -> Removed:
    """Remove those of these palettes and pictures that have lain in the trash since `before`, or at all."""
    old = Q(trashed__isnull=False) if before is None else Q(trashed__lt=before)
    gone = list(palettes.filter(old).values_list("pk", flat=True))
    painted = _named("$[*].picture", gone)
    removed = _remove(Palette.objects.filter(pk__in=gone), dry_run)
    return Removed(palettes=removed, pictures=_remove(pictures.filter(old).exclude(pk__in=painted), dry_run))


def _unnamed_maps(now: datetime) -> list[UUID]:
    named = _named("$[*].map", []) | _named("$[*].frames[*].map", [])
    rows = IndexMap.objects.filter(created__lt=now - GRACE).values_list("pk", flat=True)
    return [pk for pk in rows if str(pk) not in named]


@transaction.atomic
def collect(now: datetime | None = None, *, dry_run: bool = False) -> Removed:
    """Remove index maps that no revision names, and file contents that no picture names."""
    maps = IndexMap.objects.filter(pk__in=_unnamed_maps(now or timezone.now()))
    files = StoredBytes.objects.exclude(
        pk__in=Picture.objects.values("original").union(Picture.objects.values("display"), Picture.objects.values("thumbnail"))
    ).filter(created__lt=(now or timezone.now()) - GRACE)  # fmt: skip
    found = Removed(maps=maps.count(), files=files.count())
    if not dry_run:
        maps.delete()
        files.delete()
        quotas.recount()
    return found


def clean(now: datetime | None = None, *, dry_run: bool = False) -> Removed:
    """What the periodic job does: the old trash, jobs that ended long ago, then what nothing names any more."""
    moment = now or timezone.now()
    before = moment - timedelta(days=settings.TRASH_DAYS)
    removed = empty_trash(Palette.objects.all(), Picture.objects.all(), before, dry_run=dry_run)
    ended = Job.objects.exclude(state__in=OPEN).filter(changed__lt=before)
    removed += Removed(jobs=_remove(ended, dry_run))
    if not dry_run:
        sign_in.forget_old()
        Session.objects.filter(expire_date__lt=timezone.now()).delete()
    return removed + collect(moment, dry_run=dry_run)
