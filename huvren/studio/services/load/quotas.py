"""How much an artist keeps, and that it stays within what one may: bytes, pictures, palettes, and jobs that wait or go on.

Rows carry the bytes that they take (`Palette.bytes`, `Picture.bytes`), so that a sum over one artist's rows is all that is asked.
Counts are checked while the artist's row is held, so that many requests at once cannot pass the same last place.
"""

from dataclasses import dataclass
from uuid import UUID

from django.db import connection, transaction

from huvren.core.errors import TooLarge
from huvren.studio import bounds
from huvren.studio.access import User, key_of, visible
from huvren.studio.models import Artist, Job, JobState, Palette, Picture

OPEN = (JobState.WAITING, JobState.WORKING)


class Full(TooLarge):
    """An artist keeps as much as one may."""

    code = "full"


@dataclass(frozen=True)
class Used:
    """What an artist keeps: bytes, rows of each kind, and jobs that wait or go on."""

    bytes: int
    pictures: int
    palettes: int
    jobs: int


def bytes_of(owner: int) -> int:
    """Bytes that an artist's palettes and pictures take, those in the trash included, and what jobs keep until they are put away."""
    return sum(_bytes_by_kind(owner))


def _bytes_by_kind(owner: int) -> tuple[int, int]:
    """Bytes on the shelf and in its trash, and those of jobs."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT (SELECT coalesce(sum(bytes), 0) FROM studio_palette WHERE owner_id = %s) "
            "+ (SELECT coalesce(sum(bytes), 0) FROM studio_picture WHERE owner_id = %s), "
            "(SELECT coalesce(sum(bytes), 0) FROM studio_job WHERE owner_id = %s)",
            [owner, owner, owner],
        )
        on_shelf, of_jobs = cursor.fetchone()
        return int(on_shelf), int(of_jobs)


def used(user: User) -> Used:
    """What an artist keeps now."""
    return Used(
        bytes_of(key_of(user)), visible(user, Picture).count(), visible(user, Palette).count(),
        visible(user, Job).filter(state__in=OPEN).count(),
    )  # fmt: skip


def hold(user: User) -> None:
    """Until the transaction ends, nothing else of this artist is counted. Raises where there is no transaction."""
    if connection.in_atomic_block:
        Artist.objects.select_for_update(no_key=True).only("pk").get(pk=key_of(user))
    else:
        raise transaction.TransactionManagementError("A count is only held within a transaction.")


def check_bytes(owner: int, more: int = 0) -> None:
    """Raises `Full` where an artist would keep more bytes than one may."""
    most = bounds.QUOTA.bytes
    on_shelf, of_jobs = _bytes_by_kind(owner)
    kept = on_shelf + of_jobs
    if kept + more > most:
        said = f"{kept / bounds.MB:,.0f} of {most / bounds.MB:,.0f} MB"
        jobs = f", {of_jobs / bounds.MB:,.0f} MB of them by jobs, which can be put away" if of_jobs >= bounds.MB / 2 else ""
        raise Full(
            f"Your shelf is full: {said} are in use{jobs}. Put what you do not need into the trash and empty it; nothing was lost."
        )


def make_room(user: User, *, pictures: int = 0, palettes: int = 0, more_bytes: int = 0) -> None:
    """Within the transaction that adds something: hold the artist's counts. Raises `Full` where it does not fit."""
    hold(user)
    for model, more, most, noun in (
        (Picture, pictures, bounds.QUOTA.pictures, "pictures"), (Palette, palettes, bounds.QUOTA.palettes, "palettes"),
    ):  # fmt: skip
        if more and (kept := visible(user, model).count()) + more > most:
            raise Full(
                f"Your shelf holds {kept:,} {noun}, those in the trash included; {most:,} is the most. "
                "Put what you do not need into the trash and empty it."
            )
    check_bytes(key_of(user), more_bytes)


def recount(owner: int) -> None:
    """Count the bytes of an artist's pictures anew, after maps of theirs were removed."""
    with connection.cursor() as cursor:
        cursor.execute(RECOUNT_PICTURES, [owner])


RECOUNT_PICTURES = """
UPDATE studio_picture AS p SET bytes = f.bytes FROM (
  SELECT p.id, (SELECT coalesce(sum(octet_length(s.data)), 0) FROM studio_storedbytes s
                WHERE s.sha256 IN (p.original_id, p.display_id, p.thumbnail_id))
       + (SELECT coalesce(sum(octet_length(m.data) + octet_length(m.tiles)), 0) FROM studio_indexmap m WHERE m.picture_id = p.id)
       AS bytes
  FROM studio_picture p WHERE p.owner_id = %s) AS f
WHERE f.id = p.id AND f.bytes <> p.bytes
"""


def count_revision(palette: UUID, more: int) -> None:
    """Add the bytes of a revision that was just stored to those of its palette."""
    with connection.cursor() as cursor:
        cursor.execute("UPDATE studio_palette SET bytes = bytes + %s WHERE id = %s", [more, palette])
