"""What a revision leads to is written with it, by every way that there is to make one, and asked instead of documents."""

import random
from typing import Any
from uuid import uuid4

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext

from huvren.core.palette import values
from huvren.core.palette.values import Palette as PaletteValue
from huvren.studio import models
from huvren.studio.models import IndexMap, Job, OwnedBy, Palette, Picture, Reference, Revision
from huvren.studio.services.shelf import palettes, references
from tests.pictures import painted, png
from tests.server.conftest import Api
from tests.server.stored import document_of, links_of

STOPS = [{"text": "#000000"}, {"text": "#ffd478"}]


def told_by_documents() -> set[tuple[int, str, str]]:
    """Revision, kind and id, read from the documents themselves."""
    told = set()
    for revision in Revision.objects.all():
        for link in links_of(revision):
            told.add((revision.pk, "picture", link["picture"]))
            told |= {(revision.pk, "index map", frame["map"]) for frame in link["frames"]}
        told |= {(revision.pk, "ramp", ramp["id"]) for ramp in document_of(revision).get("ramps", [])}
        if reference := document_of(revision).get("limits", {}).get("rules", {}).get("reference"):
            told.add((revision.pk, "palette", reference))
    return told


def written() -> set[tuple[int, str, str]]:
    return {(row.revision_id, row.kind, str(row.target)) for row in Reference.objects.all()}


def worked(api: Api, seed: int) -> list[str]:
    """Random work of all kinds that make revisions; the palettes that there are."""
    chance = random.Random(seed)
    pictures = [api.upload(png(painted(20 + place, 16)), f"p{place}.png")["id"] for place in range(3)]
    made = [api.post("/palettes", {"picture": pictures[0], "recipe": {"colors": 4}}, 201)["id"]]
    for _ in range(14):
        palette = api.get(f"/palettes/{chance.choice(made)}")
        match chance.choice(["new", "reduce", "undo", "copy", "ramp", "limits", "rename", "unlink"]):
            case "new":
                made.append(api.post("/palettes", {"picture": chance.choice(pictures), "recipe": {"colors": 3}}, 201)["id"])
            case "reduce":
                body = {"base": palette["revision"], "picture": chance.choice(pictures), "recipe": {"colors": chance.randint(2, 5)}}
                api.post(f"/palettes/{palette['id']}/reductions", body)
            case "undo" if palette["can_undo"]:
                api.post(f"/palettes/{palette['id']}/undo", {"base": palette["revision"]})
            case "copy":
                made.append(api.post(f"/library/palettes/{palette['id']}/duplicate", status=201)["id"])
            case "ramp":
                api.operate(palette, kind="keep_ramp", name=f"Ramp {len(palette['ramps'])}", ramp={"stops": STOPS, "steps": 5})
            case "limits":
                api.operate(palette, kind="set_limits", limits={"rules": {"reference": chance.choice(made)}})
            case "rename":
                api.operate(palette, kind="rename_palette", name=f"Name {chance.random()}")
            case "unlink" if palette["links"]:
                picture = palette["links"][0]["picture"]["id"]
                api.post(f"/palettes/{palette['id']}/pictures/{picture}/unlink", {"base": palette["revision"]})
    return made


@pytest.mark.parametrize("seed", range(4))
def test_every_revision_says_what_it_leads_to(api: Api, seed: int) -> None:
    worked(api, seed)
    assert written() == told_by_documents()
    assert {kind for _, kind, _ in written()} >= {"picture", "index map"}


def test_an_archive_brings_its_references(api: Api, other: Api) -> None:
    from django.core.files.uploadedfile import SimpleUploadedFile

    worked(api, 7)
    data = b"".join(api.client.get("/api/library/archive").streaming_content)
    before = Revision.objects.count()
    assert other.client.post("/api/library/archive", {"file": SimpleUploadedFile("a.zip", data)}).status_code == 200
    assert Revision.objects.count() == 2 * before
    assert written() == told_by_documents()


def test_ids_of_any_letters_have_a_place() -> None:
    known = uuid4()
    assert references.target_of(str(known)) == references.target_of(str(known).upper()) == known
    assert references.target_of(known.hex) != known, "SQL and Python take the same letters for a UUID"
    assert references.target_of("dusk") != references.target_of("dawn")


def test_where_something_is_used_is_said(api: Api, other: Api) -> None:
    first = api.bench()
    picture = first["links"][0]["picture"]["id"]
    second = api.post("/palettes", {"picture": picture, "recipe": {"colors": 3}}, 201)
    second = api.post(f"/palettes/{second['id']}/pictures/{picture}/unlink", {"base": second["revision"]})
    second = api.operate(second, kind="set_limits", limits={"rules": {"reference": first["id"]}})
    second = api.operate(second, kind="keep_ramp", name="Dusk", ramp={"stops": STOPS, "steps": 5})
    uses = api.get(f"/library/pictures/{picture}/uses")
    assert [(use["palette"], use["is_present"], use["last_step"]) for use in uses] == [
        (first["id"], True, first["revision"]), (second["id"], False, 1),
    ]  # fmt: skip
    assert [use["palette"] for use in api.get(f"/library/palettes/{first['id']}/uses")] == [second["id"]]
    assert api.get(f"/library/palettes/{second['id']}/uses") == []
    (ramp,) = second["ramps"]
    assert [use["name"] for use in api.get(f"/library/ramps/{ramp['id']}/uses")] == [second["name"]]
    api.client.delete(f"/api/palettes/{first['id']}")
    assert [use["is_in_trash"] for use in api.get(f"/library/pictures/{picture}/uses")] == [True, False]
    for path in (f"pictures/{picture}", f"palettes/{first['id']}", f"ramps/{ramp['id']}"):
        other.get(f"/library/{path}/uses", 404)
    api.get("/library/spoons/1/uses", 404)


def test_the_database_itself_removes_what_belongs_to_a_row(api: Api) -> None:
    """Every foreign key that says so is one whose constraint does so."""
    wanted = {
        (model._meta.db_table, field.column)
        for model in vars(models).values()
        if isinstance(model, type) and issubclass(model, models.models.Model) and not model._meta.abstract
        for field in model._meta.local_fields
        if isinstance(field, OwnedBy)
    }
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT c.conrelid::regclass::text, a.attname FROM pg_constraint c JOIN pg_attribute a "
            "ON a.attrelid = c.conrelid AND a.attnum = ANY(c.conkey) WHERE c.contype = 'f' AND c.confdeltype = 'c'"
        )
        cascading = {row for row in cursor.fetchall() if row[0].startswith("studio_")}
    assert cascading == wanted
    assert len(wanted) == 7
    palette = api.bench()
    api.post("/jobs/batches", {"pictures": [palette["links"][0]["picture"]["id"]], "recipe": {"colors": 3}}, 202)
    api.user.delete()
    assert [model.objects.count() for model in (Palette, Revision, Reference, IndexMap, Job)] == [0, 0, 0, 0, 0]


def test_emptying_the_trash_asks_as_much_for_many_as_for_few(api: Api) -> None:
    """No list of ids, and no question for each: the same statements, of the same length, for 3 palettes and for 60."""

    def statements(count: int) -> list[int]:
        for number in range(count):
            palette = palettes.create(
                api.user, PaletteValue(f"Old {number}", (values.Swatch(values.Color("srgb", (0, 0, 0))),)), "Begin"
            )
            palettes.apply(api.user, palette.row.pk, 1, _renamed(f"Older {number}"))
        Palette.objects.update(trashed="2026-01-01T00:00:00Z")
        with CaptureQueriesContext(connection) as seen:
            assert api.client.delete("/api/trash").json()["palettes"] == count
        return [len(query["sql"]) for query in seen if "studio_" in query["sql"]]

    assert statements(3) == statements(60)
    assert not Revision.objects.exists()


def _renamed(name: str) -> Any:
    from huvren.core.palette.operations.rename import RenamePalette

    return RenamePalette(name=name)


def test_a_picture_stays_as_long_as_any_step_of_a_palette_that_stays_leads_to_it(api: Api) -> None:
    palette = api.bench()
    picture = palette["links"][0]["picture"]["id"]
    palette = api.post(f"/palettes/{palette['id']}/pictures/{picture}/unlink", {"base": palette["revision"]})
    api.client.delete(f"/api/pictures/{picture}")
    assert api.client.delete("/api/trash").json() == {"palettes": 0, "pictures": 0}, "an undo leads back to it"
    api.client.delete(f"/api/palettes/{palette['id']}")
    assert api.client.delete("/api/trash").json() == {"palettes": 1, "pictures": 1}
    assert not Picture.objects.exists()
    assert not Reference.objects.exists()
