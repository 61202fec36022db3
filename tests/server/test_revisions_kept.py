"""What revisions take, that they come back as they were, and that what never came to be is not remembered."""

import json
from typing import Any
from uuid import UUID

import pytest
from django.db import connection, transaction
from django.test.utils import CaptureQueriesContext

from huvren.core.palette.document import palette_from_document, palette_to_document
from huvren.core.palette.operations.rename import RenamePalette
from huvren.core.stored.packing import FURTHEST
from huvren.studio.models import Palette, Revision
from huvren.studio.services.load.remembering import Remembered
from huvren.studio.services.shelf import palettes, revisions
from huvren.studio.services.shelf.revisions import stored_of
from tests.core.test_packing import history, reeds
from tests.server.conftest import Api
from tests.server.test_references import worked


def kept(palette: Any, contents: Any) -> Palette:
    """A palette with these contents as its steps, one after the other, as steps are made."""
    state = palettes.create(palette, contents[0], "Begin")
    for number, content in enumerate(contents[1:], 2):
        with transaction.atomic():
            opened = palettes.open_for_change(palette, state.row.pk, number - 1)
            palettes.add_revision(opened, content, f"Step {number}", ())
    return Palette.objects.get(pk=state.row.pk)


def test_every_step_of_random_work_is_what_was_answered(api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    for name in worked(api, 8):
        for step in api.get(f"/palettes/{name}/history"):
            asked = api.get(f"/palettes/{name}/document", step=step["number"])["document"]
            revision = Revision.objects.get(palette=name, number=step["number"])
            monkeypatch.setattr(revisions, "BASES", Remembered(0, lambda base: len(base.content)))
            assert palette_to_document(palette_from_document(stored_of(revision)[0])) == asked
        row = Palette.objects.get(pk=name)
        assert row.bytes == sum(len(bytes(revision.packed)) for revision in row.revisions.all())


def test_differences_are_to_bases_that_are_near(api: Api) -> None:
    contents = history(reeds(30), 70)
    row = kept(api.user, contents)
    rows = {revision.pk: revision for revision in row.revisions.all()}
    bases = {revision.base_id for revision in rows.values()} - {None}
    assert 3 <= len(bases) <= 24
    for revision in rows.values():
        if revision.base_id is not None:
            assert rows[revision.base_id].is_base
            assert 0 < revision.number - rows[revision.base_id].number < FURTHEST
        assert palette_from_document(stored_of(revision)[0]).swatches == contents[revision.number - 1].swatches


def test_4096_swatches_take_less_than_a_seventh_of_what_they_took(api: Api) -> None:
    """Against the column of before, a JSONB that PostgreSQL compresses by itself."""
    contents = history(reeds(4096), 20)
    row = kept(api.user, contents)
    with connection.cursor() as cursor:
        cursor.execute("CREATE TEMPORARY TABLE before (document jsonb, links jsonb)")
        for content in contents:
            cursor.execute("INSERT INTO before VALUES (%s, '[]')", [json.dumps(palette_to_document(content))])
        cursor.execute("SELECT sum(pg_column_size(document) + pg_column_size(links)) FROM before")
        before = cursor.fetchone()[0]
        cursor.execute("SELECT sum(pg_column_size(packed)) FROM studio_revision WHERE palette_id = %s", [row.pk])
        now = cursor.fetchone()[0]
    assert now <= 0.15 * before
    assert row.bytes == pytest.approx(now, abs=100)


def test_a_step_that_was_taken_back_by_the_database_is_not_remembered(api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    """Late, or ended at its commit; then another process makes the step of that number."""
    palette = api.bench()

    def step(name: str) -> None:
        palettes.apply(api.user, UUID(palette["id"]), palette["revision"], RenamePalette(name=name))

    with transaction.atomic():
        step("Never was")
        transaction.set_rollback(True)
    mine, other = palettes.RECENT, Remembered(10**8, palettes._bytes_of)
    monkeypatch.setattr(palettes, "RECENT", other)
    step("By another")
    monkeypatch.setattr(palettes, "RECENT", mine)
    assert palettes.get_state(api.user, UUID(palette["id"])).palette.name == "By another"
    assert palettes.look_at(api.user, UUID(palette["id"])).palette.name == "By another"


def test_what_a_step_has_made_is_remembered(api: Api) -> None:
    palette = api.operate(api.post("/palettes", {"text": "#102030"}, 201), kind="rename_palette", name="Ink")
    with CaptureQueriesContext(connection) as asked:
        assert palettes.get_state(api.user, UUID(palette["id"])).palette.name == "Ink"
    assert not any('"packed"' in query["sql"] for query in asked)


def test_the_base_of_the_next_step_is_fetched_once(api: Api, django_assert_max_num_queries: Any) -> None:
    row = kept(api.user, history(reeds(40), 6))
    palettes.RECENT.clear()
    revisions.BASES.clear()
    revision = row.revisions.get(number=3)
    with django_assert_max_num_queries(1):
        stored_of(revision)
        assert revisions.base_row_after(revision) == revision.base_id
