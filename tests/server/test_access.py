"""Somebody else's things do not exist: every route of the schema is walked with another artist's ids."""

import json
from typing import Any, cast

import pytest
from django.contrib.auth.models import AnonymousUser
from django.db import connection
from django.db.models import Model
from django.test.utils import CaptureQueriesContext

from huvren.core.errors import Unknown
from huvren.studio.access import OWNER_OF, POLICY, allowed, find, visible
from huvren.studio.api import api as whole
from huvren.studio.models import IndexMap, Job, JobFile, JobResult, KeptRecipe, LimitSet, Palette, Picture, RampCard, Revision
from huvren.studio.sessions import shown_key
from tests.server.conftest import Api

WITHOUT_IDS = {
    "get /api/menus/ramps", "get /api/menus/checks", "get /api/limits", "post /api/limits",
    "get /api/account", "post /api/account/password", "delete /api/account/places",
    "get /api/health", "get /api/changes", "get /api/preparing", "get /api/ready", "get /api/usage",
    "get /api/session", "get /api/menus", "get /api/shelf/palettes", "get /api/shelf/ramps",
    "get /api/shelf/pictures", "get /api/shelf/palettes/named", "get /api/shelf/pictures/named", "get /api/shelf/ids",
    "delete /api/trash", "put /api/shelf/trashed", "post /api/imports",
    "get /api/recipes", "post /api/recipes", "post /api/pictures", "post /api/palettes", "get /api/jobs", "post /api/jobs/batches",
    "get /api/library/archive", "post /api/library/archive", "get /api/colors/compare", "get /api/colors/parse",
    "post /api/colors/parse",
    "post /api/colors/describe", "post /api/colors/mix", "get /api/colors/companions", "get /api/colors/plane",
}  # fmt: skip
"""Routes that name no object in their address. Those whose body names one are tried below."""
OF_THE_REGISTRY = {"get /api/menus/checks/{check_id}", "post /api/lenses/{lens_id}/see"}
"""Routes whose id is that of something registered, which nobody owns."""


@pytest.fixture
def theirs(other: Api) -> dict[str, Any]:
    palette = other.bench()
    link = palette["links"][0]
    recipe = other.post("/recipes", {"name": "Short", "recipe": {"colors": 6}}, 201)
    rules = other.post("/limits", {"name": "House", "limits": {"text": {"low": 7}}}, 201)
    job = other.post("/jobs/batches", {"pictures": [link["picture"]["id"]], "recipe": {"colors": 3}}, 202)
    return {
        "palette_id": palette["id"], "picture_id": link["picture"]["id"], "map_id": link["maps"][0], "recipe_id": recipe["id"],
        "set_id": rules["id"],
        "job_id": job["id"], "revision": palette["revision"], "swatch": palette["swatches"][0]["id"],
        "ramp_id": "none", "place_id": shown_key(str(other.client.session.session_key)),
    }  # fmt: skip


def bodies(theirs: dict[str, Any]) -> dict[str, Any]:
    """Sound bodies for the routes that want one, so that a 422 cannot hide a missing check."""
    base, recipe = {"base": theirs["revision"]}, {"colors": 3}
    stops = [{"text": "#000000"}, {"text": "#ffffff"}]
    return {
        "operations": {**base, "operation": {"kind": "rename_palette", "name": "Mine now"}},
        "operations/preview": {"operation": {"kind": "rename_palette", "name": "Mine now"}},
        "selection": {"rule": "unused"}, "merge-tree": {}, "match": {"document": {"swatches": []}},
        "undo": base, "redo": base, "go-to": {**base, "number": 1}, "unlink": base, "errors": {"recipe": None},
        "piece": {"recipe": {}},
        "previews": {"picture": theirs["picture_id"], "recipe": recipe},
        "previews/size": {"picture": theirs["picture_id"], "recipe": recipe},
        "reductions": {**base, "picture": theirs["picture_id"], "recipe": recipe},
        "ramps": {"ramp": {"stops": stops}}, "check": {"ramp": {"stops": stops}},
        "repair": {"ramp": {"stops": stops}, "promise": "even"}, "edit": {"ramp": {"stops": stops}, "edit": "reverse"},
        "make": {"maker": "sequential", "colors": ["#123456"]}, "dithered": {"ramp": {"stops": stops}, "dither": "none"},
        "fit": {"picture": theirs["picture_id"], "line": [0, 0, 1, 1]},
        "ramps/files/gpl": {"ramp": {"stops": stops}}, "ramps/files/gpl/report": {"ramp": {"stops": stops}},
        "checks": {"open": "text"}, "gpl": {}, "report": {}, "favorite": {"favorite": True}, "proofs": {"recipes": []},
    }  # fmt: skip


def routes() -> list[str]:
    schema = whole.get_openapi_schema(path_prefix="/api/")
    return sorted(f"{method} {path}" for path, methods in schema["paths"].items() for method in methods)


@pytest.mark.parametrize("route", [route for route in routes() if route not in WITHOUT_IDS | OF_THE_REGISTRY])
def test_every_route_with_another_artists_ids_is_a_404(api: Api, theirs: dict[str, Any], route: str) -> None:
    method, path = route.split(" ")
    kinds = ("palettes", "pictures", *(("ramps",) if path.endswith("/uses") else ())) if "{kind}" in path else ("",)
    for kind in kinds:
        known = theirs | {"format_id": "gpl", "position": 0, "kind": kind, "object_id": theirs[f"{kind[:-1]}_id"] if kind else ""}
        address = path.format(**known)
        tail = address.split(f"{theirs['palette_id']}/")[-1].split(f"{theirs['picture_id']}/")[-1]
        body = next((value for key, value in bodies(theirs).items() if tail == key or tail.endswith(f"/{key}")), None)
        query = "?x=1&y=1&to_x=2&to_y=2" if "sample" in path else "?lens=deutan" if path.endswith("/seen") else ""
        response = api.client.generic(
            method.upper(), address + query, json.dumps(body) if body is not None else "", content_type="application/json"
        )
        assert response.status_code == 404, (route, response.content[:300])
        assert response.json()["code"] == "unknown"


def test_every_route_without_ids_is_known() -> None:
    """A new route must be added to the walk, or to the list of those that name nothing."""
    assert {route for route in routes() if "{" not in route} == WITHOUT_IDS


def test_bodies_that_name_another_artists_things_are_a_404(api: Api, theirs: dict[str, Any]) -> None:
    mine = api.bench()
    picture = theirs["picture_id"]
    api.post("/palettes", {"picture": picture, "recipe": {"colors": 3}}, 404)
    api.post("/jobs/batches", {"pictures": [picture], "recipe": {"colors": 3}}, 404)
    api.post(f"/palettes/{mine['id']}/previews", {"picture": picture, "recipe": {}}, 404)
    api.post(f"/palettes/{mine['id']}/reductions", {"base": mine["revision"], "picture": picture, "recipe": {}}, 404)
    api.get(f"/palettes/{mine['id']}/pictures/{picture}/curve", 404)
    api.get(f"/palettes/{mine['id']}/maps/{theirs['map_id']}", 404)
    api.get(f"/palettes/{mine['id']}/files/indexed-png", 404, picture=picture)


def test_nothing_of_another_artist_is_seen_in_lists(api: Api, theirs: dict[str, Any]) -> None:
    del theirs
    assert api.shelf() == {"palettes": [], "ramps": [], "pictures": []}
    assert (api.get("/recipes"), api.get("/limits"), api.get("/jobs")) == ([], [], [])


TABLE = {
    # kind: what its owner may do, what another artist may, what somebody who is not signed in may
    Palette: ("see change remove", "", ""),
    Picture: ("see change remove", "", ""),
    KeptRecipe: ("see change remove", "", ""),
    LimitSet: ("see change remove", "", ""),
    Job: ("see change remove", "", ""),
    Revision: ("see", "", ""),
    RampCard: ("see", "", ""),
    IndexMap: ("see", "", ""),
    JobResult: ("see", "", ""),
    JobFile: ("", "", ""),
}
ACTIONS = ("see", "change", "remove")


@pytest.fixture
def things(other: Api, theirs: dict[str, Any]) -> dict[type[Model], Model]:
    """One of each kind, all of one artist."""
    job = Job.objects.get(pk=theirs["job_id"])
    JobResult.objects.create(job=job, position=0, name="x")
    JobFile.objects.create(job=job, position=0, data=b"x")
    RampCard.objects.create(palette_id=theirs["palette_id"], position=0, ramp="dusk", name="Dusk", strip="")
    return {kind: kind._default_manager.get() for kind in TABLE}


def test_the_table_names_every_kind_that_has_an_owner() -> None:
    assert set(TABLE) == set(OWNER_OF) == set(POLICY)


@pytest.mark.parametrize("action", ACTIONS)
@pytest.mark.parametrize("kind", TABLE, ids=lambda kind: kind.__name__)
def test_each_actor_may_do_with_each_kind_what_the_table_says(
    api: Api, other: Api, things: dict[type[Model], Model], kind: type[Model], action: Any
) -> None:
    thing = things[kind]
    for user, words in zip((other.user, api.user, AnonymousUser()), TABLE[kind], strict=True):
        may = action in words.split()
        assert allowed(user, action, thing) == may
        assert list(visible(user, kind, action)) == ([thing] if may else [])
        if may:
            assert find(user, kind, thing.pk, action) == thing
        else:
            with pytest.raises(Unknown, match=f"There is no such {kind._meta.verbose_name} on your shelf"):
                find(user, kind, thing.pk, action)


def test_what_is_found_for_a_change_is_held(other: Api, theirs: dict[str, Any]) -> None:
    """By the row lock that PostgreSQL says it took, and by none where nothing is to be changed."""
    for lock in (True, False):
        with CaptureQueriesContext(connection) as asked:
            find(other.user, Palette, theirs["palette_id"], "change", lock=lock)
        assert ["FOR UPDATE" in query["sql"] for query in asked] == [lock]


def test_an_action_that_the_policy_does_not_know_is_nobodys(other: Api, theirs: dict[str, Any]) -> None:
    assert not visible(other.user, Palette, cast(Any, "sell")).exists()
