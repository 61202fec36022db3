"""A palette that paints several pictures: each keeps its look, and every step on the links can be undone."""

import gzip
import json
from io import BytesIO
from typing import Any

import numpy as np
import psycopg
import pytest
from django.db import connection
from django.test import Client
from django.urls import get_resolver
from PIL import Image

from huvren.studio.models import IndexMap
from tests.pictures import painted, png
from tests.server.conftest import Api

AS_IT_IS = {"chooser": "as-it-is"}


def second_picture(api: Api) -> Any:
    """Another picture than the one of `api.bench()`: smaller, and turned."""
    return api.upload(png(np.ascontiguousarray(painted(40, 30)[:, ::-1])), "wing.png")


def linked(api: Api, **recipe: Any) -> tuple[Any, str, str]:
    """A bench whose palette paints two pictures, and their ids."""
    bench = api.bench()
    other = second_picture(api)["id"]
    both = api.post(
        f"/palettes/{bench['id']}/reductions",
        {"base": bench["revision"], "picture": other, "recipe": {**AS_IT_IS, **recipe}},
    )
    return both, bench["links"][0]["picture"]["id"], other


def painted_pixels(palette: Any, picture: str) -> np.ndarray:
    """(h, w) hexes, the picture as the palette paints it."""
    link = next(entry for entry in palette["links"] if entry["picture"]["id"] == picture)
    row = IndexMap.objects.get(pk=link["maps"][0])
    indices = np.frombuffer(gzip.decompress(bytes(row.data)), np.uint8).reshape(row.height, row.width)
    hexes = {swatch["id"]: swatch["hex"] for swatch in palette["swatches"]}
    return np.array([hexes.get(entry, "gone") for entry in link["table"]])[indices]


def test_a_second_picture_is_painted_with_the_strip_as_it_is(api: Api) -> None:
    both, first, second = linked(api)
    before = api.get(f"/palettes/{both['id']}/document", step=1)["document"]
    now = api.get(f"/palettes/{both['id']}/document")["document"]
    assert now["swatches"] == before["swatches"]
    assert [link["picture"]["id"] for link in both["links"]] == [first, second]
    assert both["label"] == "wing: Paint with the palette as it is, dithered not at all."
    shares = [swatch["coverage"] for swatch in both["swatches"]]
    assert sum(shares) == pytest.approx(1, abs=1e-5)
    pixels = {entry: painted_pixels(both, entry) for entry in (first, second)}
    total = sum(shown.size for shown in pixels.values())
    for swatch in both["swatches"]:
        count = sum(int((shown == swatch["hex"]).sum()) for shown in pixels.values())
        assert swatch["coverage"] == pytest.approx(count / total, abs=1e-5)


def test_reducing_one_again_leaves_the_other_its_look(api: Api) -> None:
    both, first, second = linked(api)
    look = painted_pixels(both, second)
    preview = api.client.post(
        f"/api/palettes/{both['id']}/previews",
        {"picture": first, "recipe": {"colors": 5}}, content_type="application/json",
    )  # fmt: skip
    proposed = preview.content[4 : 4 + int.from_bytes(preview.content[:4], "little")]
    fewer = api.post(f"/palettes/{both['id']}/reductions", {"base": both["revision"], "picture": first, "recipe": {"colors": 5}})
    assert len(fewer["swatches"]) == 5
    assert [link["picture"]["id"] for link in fewer["links"]] == [first, second]
    assert not (painted_pixels(fewer, second) == "gone").any()
    # What the preview said of the strip, coverage over both pictures included, is what was kept.
    assert [(s["hex"], s["coverage"]) for s in json.loads(proposed)["swatches"]] == [
        (s["hex"], s["coverage"]) for s in fewer["swatches"]
    ]
    back = api.post(f"/palettes/{both['id']}/undo", {"base": fewer["revision"]})
    assert np.array_equal(painted_pixels(back, second), look)


def test_a_merge_reaches_every_linked_picture(api: Api) -> None:
    both, first, second = linked(api)
    used = [swatch for swatch in both["swatches"] if swatch["coverage"]]
    stays, gone = used[0], used[1]
    merged = api.operate(both, kind="merge_swatches", ids=[stays["id"], gone["id"]], keep="first")
    for picture in (first, second):
        before, after = painted_pixels(both, picture), painted_pixels(merged, picture)
        assert np.array_equal(after, np.where(before == gone["hex"], stays["hex"], before))


def test_a_picture_is_taken_off_as_one_step(api: Api) -> None:
    both, first, second = linked(api)
    off = api.post(f"/palettes/{both['id']}/pictures/{second}/unlink", {"base": both["revision"]})
    assert [link["picture"]["id"] for link in off["links"]] == [first]
    assert off["label"] == "Take “wing” off the palette"
    again = api.post(f"/palettes/{both['id']}/undo", {"base": off["revision"]})
    assert [link["picture"]["id"] for link in again["links"]] == [first, second]
    stale = api.post(f"/palettes/{both['id']}/pictures/{first}/unlink", {"base": 1}, 409)
    assert stale["current"]["revision"] == again["revision"]
    api.post(f"/palettes/{off['id']}/pictures/{second}/unlink", {"base": again["revision"]})
    api.post(f"/palettes/{off['id']}/pictures/{second}/unlink", {"base": again["revision"] + 2}, 404)


def test_another_artist_cannot_reach_the_links(api: Api, other: Api) -> None:
    both, first, second = linked(api)
    other.post(f"/palettes/{both['id']}/pictures/{first}/unlink", {"base": both["revision"]}, 404)
    own = other.bench()
    body = {"base": own["revision"], "picture": second, "recipe": AS_IT_IS}
    other.post(f"/palettes/{own['id']}/reductions", body, 404)


def test_an_empty_palette_has_nothing_to_paint_with(api: Api) -> None:
    empty = api.post("/palettes", {"name": "Empty"}, 201)
    picture = second_picture(api)["id"]
    body = {"base": empty["revision"], "picture": picture, "recipe": AS_IT_IS}
    problem = api.post(f"/palettes/{empty['id']}/reductions", body, 422)
    assert problem["message"] == "There is no palette with a color to take as it is. Choose colors another way."
    assert api.get(f"/palettes/{empty['id']}")["links"] == []
    refused = api.post("/jobs/batches", {"pictures": [picture], "recipe": AS_IT_IS}, 422)
    assert "Take a fixed list" in refused["message"]


def test_a_picture_is_delivered_with_its_own_pixels(api: Api) -> None:
    both, first, second = linked(api)
    for picture in (first, second):
        response = api.client.get(f"/api/palettes/{both['id']}/files/indexed-png", {"picture": picture})
        image = Image.open(BytesIO(response.content)).convert("RGB")
        wanted = painted_pixels(both, picture)
        assert image.size == wanted.shape[::-1]
        assert f"#{bytes(image.getpixel((3, 5))).hex()}" == wanted[5, 3]  # type: ignore[arg-type]


@pytest.mark.django_db(transaction=True)
def test_a_database_that_goes_away_is_said_and_comes_back() -> None:
    api = Api("cora")
    palette = api.post("/palettes", {"text": "#c48a3a"}, 201)
    step = {"base": palette["revision"], "operation": {"kind": "add_swatches", "text": "#112233"}}
    api.client.raise_request_exception = False
    backend = connection.connection.info.backend_pid
    with psycopg.connect(connection.connection.info.dsn, password=connection.connection.info.password) as other:
        other.execute("SELECT pg_terminate_backend(%s)", [backend])
    answered = api.client.post(f"/api/palettes/{palette['id']}/operations", step, content_type="application/json")
    assert answered.status_code == 503
    assert answered.headers["Retry-After"] == "2"
    assert answered.json()["message"] == "The database cannot be reached just now. Nothing was changed; try again in a moment."
    connection.close()
    again = api.client.post(f"/api/palettes/{palette['id']}/operations", step, content_type="application/json")
    assert again.status_code == 200
    assert [swatch["hex"] for swatch in again.json()["swatches"]] == ["#c48a3a", "#112233"]


def test_an_error_of_ours_is_words_and_not_a_page() -> None:
    handler = get_resolver().resolve_error_handler(500)
    request = Client().get("/api/menus").wsgi_request
    answer = handler(request)
    assert answer.status_code == 500
    assert b"Nothing was changed" in answer.content
