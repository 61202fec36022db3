"""What stands in a database of an earlier version is what is there after its migrations."""

import json
from collections.abc import Iterator
from typing import Any
from uuid import UUID, uuid4

import pytest
from django.db import connections
from django.db.migrations.executor import MigrationExecutor

from huvren.core.palette.document import palette_to_document
from huvren.core.palette.values import Palette
from huvren.core.stored.packing import read_content, unpack
from huvren.studio.services.shelf.references import target_of
from tests.core.test_packing import history, reeds

ALIAS = "earlier"


@pytest.fixture
def earlier(transactional_db: None) -> Iterator[Any]:
    """A database of its own, empty."""
    own = f"huvren_earlier_{uuid4().hex[:12]}"
    with connections["default"].cursor() as cursor:
        cursor.execute(f'CREATE DATABASE "{own}"')
    connections.settings[ALIAS] = {**connections["default"].settings_dict, "NAME": own}
    connection = connections[ALIAS]
    connection.connect()
    try:
        yield connection
    finally:
        connection.close()
        del connections[ALIAS], connections.settings[ALIAS]
        with connections["default"].cursor() as cursor:
            cursor.execute(f'DROP DATABASE "{own}"')


def migrated(connection: Any, *names: str) -> Any:
    """Its models after these migrations of ours."""
    executor = MigrationExecutor(connection)
    executor.migrate([("studio", name) for name in names])
    return MigrationExecutor(connection).loader.project_state([("studio", name) for name in names]).apps.get_model


def filled(connection: Any, model: Any, contents: list[Palette], links: list[Any]) -> Any:
    """A palette as version 0.9 kept it: a document for each step."""
    owner = model("studio", "Artist").objects.using(ALIAS).create(username="ada")
    palette = model("studio", "Palette").objects.using(ALIAS).create(owner=owner, name="Reeds", head=len(contents))
    for number, content in enumerate(contents, 1):
        parent = number - 1 or None
        with connection.cursor() as cursor:
            cursor.execute(
                "INSERT INTO studio_revision (palette_id, number, parent, label, document, links, created)"
                " VALUES (%s, %s, %s, 'Step', %s, %s, now())",
                [palette.pk, number, parent, json.dumps(palette_to_document(content)), json.dumps(links)],
            )
    return palette


def test_documents_of_before_are_packed_and_what_they_lead_to_is_known(earlier: Any) -> None:
    model = migrated(earlier, "0004_limits_and_counts")
    contents = history(reeds(60), 45)
    picture, index_map, frame = (str(uuid4()) for _ in range(3))
    # The first form of a link had its map beside the table; a ramp of an archive may be called anything.
    links = [{"picture": picture, "map": index_map, "table": [], "counts": []}, {"picture": picture, "frames": [{"map": frame}]}]
    palette = filled(earlier, model, contents, links)
    document = {
        **palette_to_document(contents[-1]),
        "ramps": [{"id": "dusk", "name": "Düsk “one”"}],
        "unknown": {"kept": [1.5, None]},
    }
    with earlier.cursor() as cursor:
        cursor.execute("UPDATE studio_revision SET document = %s WHERE number = %s", [json.dumps(document), len(contents)])

    model = migrated(earlier, "0011_packed_revisions")
    rows = list(model("studio", "Revision").objects.using(ALIAS).filter(palette=palette.pk).order_by("number"))
    by_key = {row.pk: row for row in rows}
    wanted: list[Any] = [palette_to_document(content) for content in contents]
    wanted[-1] = document
    for row, expected in zip(rows, wanted, strict=True):
        base = unpack(bytes(by_key[row.base_id].packed)) if row.base_id else b""
        assert read_content(unpack(bytes(row.packed), base)) == (expected, links)
    assert len([row for row in rows if row.base_id is None]) < 15
    card = model("studio", "Palette").objects.using(ALIAS).get()
    assert card.bytes == sum(len(bytes(row.packed)) for row in rows)
    assert card.words == "\n".join(swatch["name"] for swatch in document["swatches"])
    told = set(model("studio", "Reference").objects.using(ALIAS).values_list("kind", "target"))
    assert told == {
        ("picture", UUID(picture)), ("index map", UUID(index_map)), ("index map", UUID(frame)), ("ramp", target_of("dusk")),
    }  # fmt: skip
