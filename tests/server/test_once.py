"""A wish that comes twice, as its answer was lost on the way, is carried out once; and what came after it stands."""

from typing import Any
from uuid import UUID, uuid4

import pytest

from huvren.studio.models import Job, Palette
from huvren.studio.services.load import jobs
from huvren.studio.services.shelf.palettes import MOST_REMEMBERED
from tests.server.conftest import Api


def begun(api: Api) -> Any:
    return api.post("/palettes", {"text": "#c9a24b\n#231f20"}, 201)


def wish(api: Api, palette: Any, path: str, status: int = 200, once: object = None, **more: Any) -> Any:
    body = {"base": palette["revision"], **({"once": str(once)} if once else {}), **more}
    return api.post(f"/palettes/{palette['id']}/{path}", body, status)


def add(api: Api, palette: Any, once: object, text: str = "Umber #6b4a2f", status: int = 200) -> Any:
    return wish(api, palette, "operations", status, once, operation={"kind": "add_swatches", "text": text})


def test_an_operation_that_is_sent_again_is_made_once_and_answered_as_the_palette_is_now(api: Api) -> None:
    palette, once = begun(api), uuid4()
    first = add(api, palette, once)
    assert add(api, palette, once) == first
    later = add(api, first, uuid4(), "Bone #e8e0d0")
    assert add(api, palette, once) == later, "what came after it stands"
    assert add(api, later, once) == later, "on whatever revision it is sent again"
    assert [swatch["name"] for swatch in later["swatches"]][2:] == ["Umber", "Bone"]
    assert len(api.get(f"/palettes/{palette['id']}/history")) == 3


def test_one_with_another_id_or_none_is_another_wish(api: Api) -> None:
    palette = begun(api)
    second = add(api, palette, uuid4())
    assert len(add(api, second, uuid4())["swatches"]) == 4
    add(api, palette, uuid4(), status=409)
    add(api, palette, None, status=409)
    add(api, palette, "no id", status=422)


def test_undo_redo_and_a_step_of_the_history_are_made_once(api: Api) -> None:
    palette = begun(api)
    second = add(api, palette, uuid4())
    undone = wish(api, second, "undo", once=(once := uuid4()))
    assert wish(api, second, "undo", once=once) == undone, "and not that there is nothing to undo"
    redone = wish(api, undone, "redo", once=(once := uuid4()))
    assert wish(api, undone, "redo", once=once) == redone
    assert redone["swatches"] == second["swatches"]
    gone = wish(api, redone, "go-to", once=(once := uuid4()), number=1)
    assert wish(api, redone, "go-to", once=once, number=1) == gone


def test_what_is_refused_or_changes_nothing_may_be_wished_for_again(api: Api) -> None:
    palette, once = begun(api), uuid4()
    add(api, palette, once, "no color", status=422)
    assert Palette.objects.get().once == []
    assert len(add(api, palette, once)["swatches"]) == 3


def test_only_the_last_wishes_are_remembered(api: Api) -> None:
    palette = first = begun(api)
    wishes = [uuid4() for _ in range(MOST_REMEMBERED + 1)]
    for number, once in enumerate(wishes):
        palette = add(api, palette, once, f"Gray {number} #777777")
    assert Palette.objects.get().once == wishes[1:]
    assert add(api, first, wishes[1]) == palette
    add(api, first, wishes[0], status=409)


def test_a_reduction_and_an_unlinked_picture_once(api: Api) -> None:
    palette, once = api.bench(), uuid4()
    picture = palette["links"][0]["picture"]["id"]
    kept = wish(api, palette, "reductions", once=once, picture=picture, recipe={"colors": 5})
    assert wish(api, palette, "reductions", once=once, picture=picture, recipe={"colors": 5}) == kept
    bare = wish(api, kept, f"pictures/{picture}/unlink", once=(once := uuid4()))
    assert wish(api, kept, f"pictures/{picture}/unlink", once=once) == bare
    assert (bare["links"], bare["revision"]) == ([], palette["revision"] + 2)


def test_a_wish_for_long_work_begins_one_job(api: Api, other: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    palette, foreign, once = api.bench(), other.bench(), uuid4()
    monkeypatch.setattr(jobs, "JOB_PIXELS", 1)
    wished = {"picture": palette["links"][0]["picture"]["id"], "recipe": {"colors": 5}}
    job = wish(api, palette, "reductions", 202, once, **wished)
    assert job["id"] == str(once)
    assert wish(api, palette, "reductions", 202, once, **wished)["id"] == job["id"]
    jobs.work(UUID(job["id"]))
    again = wish(api, palette, "reductions", 202, once, **wished)
    assert (again["id"], again["state"]) == (job["id"], "done"), "though the palette has moved on by it"
    assert Job.objects.count() == 1
    mine = {"picture": foreign["links"][0]["picture"]["id"], "recipe": {"colors": 5}}
    assert "another's" in wish(other, foreign, "reductions", 422, once, **mine)["message"]
    assert wish(other, foreign, "reductions", 202, uuid4(), **mine)["state"] == "waiting"
