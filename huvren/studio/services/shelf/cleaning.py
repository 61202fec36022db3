"""What is removed for good, and when: the trash after a stated time or by hand, ended jobs, and stored bytes that nothing names.

What a revision leads to stands in a table (`references.py`), so that no document is looked through. One artist's things are
gone through at a time, each kind by one statement that the database answers by itself, however many rows there are.
Nothing reachable ever goes: every revision of every palette counts, those that only an undo leads back to included, and a
picture in the trash stays as long as a palette that is not removed paints it in any of its revisions.
"""

from collections.abc import Iterator
from dataclasses import dataclass, fields
from datetime import datetime, timedelta

from django.conf import settings
from django.db import transaction
from django.db.models import Exists, OuterRef, Q, QuerySet
from django.utils import timezone

from huvren.studio import sign_in
from huvren.studio.models import Artist, IndexMap, Job, Kind, Palette, Picture, SignedIn, StoredBytes
from huvren.studio.services.load import quotas
from huvren.studio.services.load.quotas import OPEN
from huvren.studio.services.shelf.references import led_to

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


def _remove(rows: QuerySet[Picture] | QuerySet[Palette] | QuerySet[Job] | QuerySet[IndexMap], dry_run: bool) -> int:
    """Their number; they are removed by one statement, and by the database whatever belongs to them."""
    return rows.count() if dry_run else rows.delete()[0]


def _in_trash(before: datetime | None) -> Q:
    return Q(trashed__isnull=False) if before is None else Q(trashed__lt=before)


@transaction.atomic
def empty_trash(
    palettes: QuerySet[Palette], pictures: QuerySet[Picture], before: datetime | None = None, *, dry_run: bool = False
) -> Removed:
    """Remove those of these palettes and pictures that have lain in the trash since `before`, or at all.

    A picture that a revision of another palette leads to stays.
    """
    gone = palettes.filter(_in_trash(before))
    free = pictures.filter(_in_trash(before)).exclude(led_to(Kind.PICTURE, leaving_out=gone))
    if dry_run:
        return Removed(palettes=gone.count(), pictures=free.count())
    # Palettes first: with them go their references, which would keep their pictures.
    removed = _remove(gone, dry_run)
    return Removed(palettes=removed, pictures=_remove(free, dry_run))


@transaction.atomic
def collect_maps(owner: int, before: datetime, *, dry_run: bool = False) -> int:
    """Remove an artist's index maps that are older than `before` and that no revision leads to; how many."""
    maps = IndexMap.objects.filter(picture__owner=owner, created__lt=before).exclude(led_to(Kind.INDEX_MAP))
    removed = _remove(maps, dry_run)
    if removed and not dry_run:
        quotas.recount(owner)
    return removed


def unnamed() -> QuerySet[StoredBytes]:
    """File contents that no picture names, whoever brought them."""
    named = Picture.objects.filter(Q(original=OuterRef("pk")) | Q(display=OuterRef("pk")) | Q(thumbnail=OuterRef("pk")))
    return StoredBytes.objects.exclude(Exists(named))


@transaction.atomic
def collect_files(before: datetime, *, dry_run: bool = False) -> int:
    """Remove file contents that no picture names, whoever brought them; how many."""
    files = unnamed().filter(created__lt=before)
    return files.count() if dry_run else files.delete()[0]


def collect(now: datetime | None = None, *, dry_run: bool = False) -> Removed:
    """Remove index maps that no revision leads to, one artist after the other, and file contents that no picture names."""
    before = (now or timezone.now()) - GRACE
    maps = sum(collect_maps(owner, before, dry_run=dry_run) for owner in _artists())
    return Removed(maps=maps, files=collect_files(before, dry_run=dry_run))


def _artists() -> Iterator[int]:
    return Artist.objects.order_by("pk").values_list("pk", flat=True).iterator(chunk_size=1000)


def empty_every_trash(before: datetime, *, dry_run: bool = False) -> Removed:
    """Empty the trash of one artist after the other, each in a transaction of its own."""
    removed = Removed()
    for owner in _artists():
        removed += empty_trash(
            Palette.objects.filter(owner=owner), Picture.objects.filter(owner=owner), before, dry_run=dry_run
        )  # fmt: skip
    return removed


def clean(now: datetime | None = None, *, dry_run: bool = False) -> Removed:
    """What the periodic job does: the old trash, jobs that ended long ago, then what nothing names any more."""
    moment = now or timezone.now()
    before = moment - timedelta(days=settings.TRASH_DAYS)
    removed = empty_every_trash(before, dry_run=dry_run)
    ended = Job.objects.exclude(state__in=OPEN).filter(changed__lt=before)
    removed += Removed(jobs=_remove(ended, dry_run))
    if not dry_run:
        sign_in.forget_old()
        SignedIn.objects.filter(expire_date__lt=timezone.now()).delete()
    return removed + collect(moment, dry_run=dry_run)
