"""Stored work that this version cannot wholly understand is served with a sentence, never a 500, and can be worked on."""

from datetime import datetime
from typing import Any

import pytest

from huvren.studio.models import Job, KeptRecipe, Picture, Revision
from huvren.studio.services.load.remembering import Remembered
from huvren.studio.services.shelf import palettes
from tests.server.conftest import Api
from tests.server.stored import document_of, links_of, rewrite


@pytest.fixture(autouse=True)
def nothing_remembered(monkeypatch: pytest.MonkeyPatch) -> None:
    """Each test reads what is stored, as another process would."""
    monkeypatch.setattr(palettes, "RECENT", Remembered(1, palettes._bytes_of))


def spoil(palette: Any, **changes: Any) -> None:
    revision = Revision.objects.get(palette=palette["id"], number=palette["revision"])
    rewrite(revision, document={**document_of(revision), **changes})


def test_an_unknown_key_is_said_and_the_palette_stays_usable(api: Api) -> None:
    palette = api.bench()
    spoil(palette, glow=7)
    shown = api.get(f"/palettes/{palette['id']}")
    assert shown["swatches"] == palette["swatches"]
    assert shown["not_understood"] == ["Not understood: “glow” is unknown here."]
    after = api.operate(shown, kind="rename_palette", name="Still mine")
    assert after["not_understood"] == [], "the next step is written in today's form"
    back = api.post(f"/palettes/{palette['id']}/undo", {"base": after["revision"]})
    assert len(back["not_understood"]) == 1, "and the one before is as it was"


def test_a_recipe_with_a_dither_that_is_gone_does_not_take_the_palette_along(api: Api) -> None:
    palette = api.bench(dither="ordered")
    revision = Revision.objects.get(palette=palette["id"], number=palette["revision"])
    (link,) = links_of(revision)
    rewrite(revision, links=[{**link, "recipe": {**link["recipe"], "dither": "sparkle", "wow": 1}}])
    shown = api.get(f"/palettes/{palette['id']}")
    assert shown["links"][0]["table"] == palette["links"][0]["table"]
    assert any("There is no dither “sparkle”" in sentence for sentence in shown["not_understood"])
    picture = shown["links"][0]["picture"]["id"]
    assert api.get(f"/palettes/{palette['id']}/files/indexed-png", picture=picture).content[:4] == b"\x89PNG"


@pytest.mark.parametrize("document", [7, [], {"version": "x"}, {"version": 99, "swatches": 3}, {}])
def test_a_document_beyond_repair_is_said_and_its_history_stays(api: Api, document: Any) -> None:
    palette = api.operate(api.bench(), kind="rename_palette", name="Later")
    rewrite(Revision.objects.get(palette=palette["id"], number=palette["revision"]), document=document)
    shown = api.get(f"/palettes/{palette['id']}")
    assert shown["not_understood"]
    assert [card["name"] for card in api.shelf()["palettes"]] == ["Later"]
    back = api.post(f"/palettes/{palette['id']}/undo", {"base": palette["revision"]})
    assert len(back["swatches"]) == 12


def test_kept_recipes_and_proofs_that_are_not_understood_are_not_a_500(api: Api) -> None:
    palette = api.bench()
    api.post("/recipes", {"name": "Short", "recipe": {"colors": 6}}, 201)
    KeptRecipe.objects.update(recipe={"version": 2, "colors": 6, "dither": "sparkle"})
    assert api.get("/recipes")[0]["recipe"]["colors"] == 6
    picture = palette["links"][0]["picture"]["id"]
    Picture.objects.update(proofs=[{"colors": 3, "wow": 1}, 7])
    assert [recipe["colors"] for recipe in api.get(f"/pictures/{picture}/proofs")["recipes"]] == [3]


def test_a_job_that_is_not_understood_any_more_fails_in_words(api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    from huvren.studio.services.bench import reductions
    from huvren.studio.services.load import jobs

    palette = api.bench()
    monkeypatch.setattr(jobs, "JOB_PIXELS", 10)
    monkeypatch.setattr(reductions, "takes_long", lambda picture: True)
    body = {"base": palette["revision"], "picture": palette["links"][0]["picture"]["id"], "recipe": {"colors": 5}}
    job = api.post(f"/palettes/{palette['id']}/reductions", body, 202)
    Job.objects.update(request={"version": 2, "picture": "no id"})
    jobs.work(Job.objects.get().pk)
    (shown,) = api.get("/jobs")
    assert (shown["id"], shown["state"]) == (job["id"], "failed")
    assert "request for a reduction" in shown["step"]


def test_cards_follow_every_step_and_hold_what_the_shelf_shows(api: Api) -> None:
    palette = api.bench()
    palette = api.operate(palette, kind="tag_palette", tags=["press"])
    palette = api.operate(palette, kind="recolor_swatch", id=palette["swatches"][0]["id"], text="#fe01dc")
    (card,) = api.shelf(q="near #fe01dc within 100")["palettes"]
    assert (card["tags"], card["count"], card["near"]) == (["press"], 12, 0)
    assert card["strip"] == "".join(swatch["hex"][1:].ljust(8, "f") for swatch in palette["swatches"])
    assert card["picture"] == palette["links"][0]["picture"]["id"]
    assert datetime.fromisoformat(card["updated"]) == datetime.fromisoformat(palette["updated"])
    palette = api.post(f"/palettes/{palette['id']}/undo", {"base": palette["revision"]})
    (card,) = api.shelf(q="near #fe01dc within 100")["palettes"]
    assert card["strip"] == "".join(swatch["hex"][1:].ljust(8, "f") for swatch in palette["swatches"])
    assert card["near"] > 0
    api.post(f"/palettes/{palette['id']}/pictures/{card['picture']}/unlink", {"base": palette["revision"]})
    shelf = api.shelf()
    assert (shelf["palettes"][0]["picture"], shelf["pictures"][0]["palettes"]) == (None, [])


def test_the_shelf_reads_no_documents(api: Api, django_assert_max_num_queries: Any) -> None:
    for place in range(5):
        api.post("/palettes", {"name": f"P{place}", "text": "#102030 #405060"}, 201)
    with django_assert_max_num_queries(5) as queries:
        assert len(api.get("/shelf/palettes", q="near #102030 within 100")["cards"]) == 5
    assert not any('"packed"' in query["sql"] or "studio_revision" in query["sql"] for query in queries)
