"""Cleaning a large library: 200,000 palettes with 600,000 revisions of a thousand artists, one of whom empties the trash."""

import resource
import time
from collections.abc import Callable

import django

ARTISTS, PALETTES, STEPS = 1_000, 200_000, 3
IN_TRASH = 10
"""Every tenth palette and picture."""
BUDGET_S = 1.0
FILL = f"""
INSERT INTO studio_artist (id, password, is_superuser, username, first_name, last_name, email, is_staff, is_active, date_joined)
SELECT n, '', false, 'artist ' || n, '', '', '', false, true, now() FROM generate_series(1, {ARTISTS}) n;
INSERT INTO studio_storedbytes (sha256, data, media_type, created)
SELECT lpad(to_hex(n), 64, '0'), 'x', 'image/png', now() - interval '2 days' FROM generate_series(1, {PALETTES // 10}) n;
INSERT INTO studio_picture (id, owner_id, name, original_id, display_id, thumbnail_id, format, width, height, "distinct", bytes,
                            notes, proofs, favorite, created, trashed)
SELECT md5('picture ' || n)::uuid, n % {ARTISTS} + 1, 'Plate', lpad(to_hex(n), 64, '0'), lpad(to_hex(n), 64, '0'),
       lpad(to_hex(n), 64, '0'), 'PNG', 100, 100, 9, 1, '[]', '[]', false, now(),
       CASE WHEN n / {ARTISTS} % {IN_TRASH} = 0 THEN now() - interval '40 days' END
FROM generate_series(1, {PALETTES // 10}) n;
INSERT INTO studio_palette (id, owner_id, name, head, tags, count, strip, colors, words, painted, ramps, favorite, bytes, created,
                            updated, trashed)
SELECT md5('palette ' || n)::uuid, n % {ARTISTS} + 1, 'Palette ' || n, {STEPS}, '[]', 8, '', '', '', '[]', '[]', false, 1, now(),
       now(), CASE WHEN n / {ARTISTS} % {IN_TRASH} = 0 THEN now() - interval '40 days' END
FROM generate_series(1, {PALETTES}) n;
INSERT INTO studio_indexmap (id, picture_id, width, height, data, tiles, created)
SELECT md5('map ' || n)::uuid, md5('picture ' || ((n - 1) % {PALETTES // 10} + 1))::uuid, 100, 100, 'x', '', now() - interval '2 days'
FROM generate_series(1, {PALETTES}) n;
INSERT INTO studio_revision (palette_id, number, parent, label, packed, created)
SELECT md5('palette ' || n)::uuid, step, nullif(step - 1, 0), 'Step', '', now()
FROM generate_series(1, {PALETTES}) n, generate_series(1, {STEPS}) step;
INSERT INTO studio_reference (revision_id, palette_id, kind, target)
SELECT r.id, r.palette_id, kind, CASE kind WHEN 'picture' THEN md5('picture ' || ((n - 1) % {PALETTES // 10} + 1))::uuid
                                           ELSE md5('map ' || n)::uuid END
FROM generate_series(1, {PALETTES}) n JOIN studio_revision r ON r.palette_id = md5('palette ' || n)::uuid,
     (VALUES ('picture'), ('index map')) kinds(kind);
ANALYZE;
"""


def measure(report: Callable[..., None], note: Callable[[str, str], None]) -> None:
    """Seconds of one artist's trash and of what one artist's maps cost, and of the night's dry run over everybody."""
    django.setup()
    from django.core.management import call_command
    from django.db import connection

    from huvren.studio.models import Artist
    from huvren.studio.services.shelf import cleaning, library

    call_command("migrate", "--noinput", verbosity=0)
    with connection.cursor() as cursor:
        cursor.execute("SET statement_timeout = 0")
        cursor.execute(FILL)
        cursor.execute("RESET statement_timeout")
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    artist = Artist.objects.get(pk=7)
    begun = time.perf_counter()
    removed = library.empty_trash(artist)
    took = time.perf_counter() - begun
    report(
        f"one artist's trash of {PALETTES:,} palettes / {BUDGET_S:g} s",
        f"{took * 1e3:.0f} ms; {removed}",
        took / BUDGET_S,
        1.0,
        timed=True,
    )
    begun = time.perf_counter()
    maps = cleaning.collect_maps(artist.pk, cleaning.timezone.now())
    took = time.perf_counter() - begun
    report(f"one artist's unnamed maps / {BUDGET_S:g} s", f"{took * 1e3:.0f} ms; {maps} maps", took / BUDGET_S, 1.0, timed=True)
    begun = time.perf_counter()
    found = cleaning.clean(dry_run=True)
    took = time.perf_counter() - begun
    grown = (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) / 1024
    note("the night's cleaning of everybody, dry run", f"{took:.1f} s, {grown:.0f} MB more; {found}")
