"""Reductions in depth over HTTP: every setting, the curve, error maps, proof sheets and kept recipes."""

import io

import numpy as np
import pytest
from PIL import Image

from huvren.core.reduction.choosers import CHOOSERS
from huvren.core.reduction.dithers import DITHERS
from huvren.core.reduction.views import in_gray
from tests.pictures import painted, png
from tests.server.conftest import Api
from tests.server.test_palettes import shown


def test_settings_are_kept_with_the_step_and_come_back(api: Api) -> None:
    palette = api.bench()
    picture = palette["links"][0]["picture"]["id"]
    recipe = {
        "colors": 9, "accent": 30, "solid": ["white"], "dither": "atkinson", "flats": 1.5, "space": "ciede2000", "order": "use",
        "tile": {"width": 8, "height": 8, "colors": 3},
        "marks": [{"shape": "rectangle", "x": 0, "y": 0, "width": 0.5, "height": 1, "weight": 4}],
    }  # fmt: skip
    body = {"picture": picture, "recipe": recipe}
    kept = api.post(f"/palettes/{palette['id']}/reductions", {**body, "base": palette["revision"]})
    link = kept["links"][0]
    assert link["recipe"] == {**link["recipe"], **recipe}
    assert "at most 3 in each 8×8 tile" in kept["label"]
    raw = api.get(f"/palettes/{palette['id']}/maps/{link['maps'][0]}").content
    indices = np.frombuffer(raw, np.uint8).reshape(link["height"], link["width"])
    assert max(len(np.unique(indices[y : y + 8, x : x + 8])) for y in range(0, 96, 8) for x in range(0, 128, 8)) <= 3
    assert len(link["worst_tiles"]) > 0
    assert link["worst_tiles"] == sorted(link["worst_tiles"], key=lambda tile: -tile[2])


@pytest.mark.parametrize(
    ("recipe", "words"),
    [
        ({"chooser": "own"}, "colors of its own"),
        ({"chooser": "fixed-list"}, "The list holds no color"),
        ({"chooser": "best-of-list", "listed": ["#000"], "colors": 5}, "The list has 1 colors, but 5 are to be picked"),
        ({"depth": "99"}, "is no channel depth"),
        ({"marks": [{"shape": "rectangle", "x": 0, "y": 0, "width": 2, "height": 1, "weight": 1}]}, "less than or equal to 1"),
        ({"marks": [{"shape": "star", "weight": 1}]}, "star"),
        ({"tile": {"width": 0, "height": 8, "colors": 2}}, "greater than or equal to 1"),
        ({"colors": 2, "solid": ["black", "white"], "chooser": "median-cut", "flats": 99}, "less than or equal to 50"),
    ],
)
def test_contradictions_are_told_and_change_nothing(api: Api, recipe: dict[str, object], words: str) -> None:
    palette = api.bench()
    body = {"picture": palette["links"][0]["picture"]["id"], "recipe": recipe}
    assert words in api.post(f"/palettes/{palette['id']}/previews", body, 422)["message"]
    assert words in api.post(f"/palettes/{palette['id']}/reductions", {**body, "base": 1}, 422)["message"]
    assert api.get(f"/palettes/{palette['id']}") == palette


def test_own_colors_are_counted_in_the_whole_picture(api: Api) -> None:
    """A picture that is previewed smaller has other colors there: means of its own."""
    few = np.random.default_rng(4).integers(0, 200, (900, 900))
    ladder = np.stack([few, 255 - few, (few * 7) % 256, np.full_like(few, 255)], axis=-1).astype(np.uint8)
    many = painted(800, 1000)
    palette = api.post("/palettes", {"name": "Plate"}, 201)
    for rgba, distinct in ((ladder, 200), (many, None)):
        picture = api.upload(png(rgba))
        body = {"picture": picture["id"], "recipe": {"chooser": "own"}}
        if distinct:
            assert picture["distinct"] == distinct
            api.post(f"/palettes/{palette['id']}/previews", body)
        else:
            words = f"The picture has {picture['distinct']:,} colors of its own"
            assert words in api.post(f"/palettes/{palette['id']}/previews", body, 422)["message"]


def test_menus_list_every_chooser_and_dither(api: Api) -> None:
    menus = api.get("/menus")
    assert [entry["id"] for entry in menus["choosers"]] == list(CHOOSERS.ids())
    assert [entry["id"] for entry in menus["dithers"]] == list(DITHERS.ids())
    assert {entry["needs"] for entry in menus["choosers"]} == {"", "list", "depth", "palette"}


def test_the_curve_error_map_and_gray_picture(api: Api, other: Api) -> None:
    palette = api.bench(colors=6)
    picture = palette["links"][0]["picture"]["id"]
    path = f"/palettes/{palette['id']}/pictures/{picture}"
    curve = api.get(f"{path}/curve")
    assert curve["distinct"] == palette["links"][0]["picture"]["distinct"]
    assert curve["mean"] == sorted(curve["mean"], reverse=True)
    errors = np.asarray(Image.open(io.BytesIO(api.post(f"{path}/errors", {}).content)))
    assert errors.shape == (96, 128)
    assert float(errors.mean()) / 255 * 20 == pytest.approx(palette["links"][0]["figures"]["mean"], abs=0.15)
    better = np.asarray(Image.open(io.BytesIO(api.post(f"{path}/errors", {"recipe": {"colors": 200}}).content)))
    assert better.mean() < errors.mean() / 2
    gray = np.asarray(Image.open(io.BytesIO(api.get(f"/pictures/{picture}/gray").content)).convert("RGBA"))
    assert np.array_equal(gray, in_gray(painted()))
    other.get(f"{path}/curve", 404)
    other.post(f"{path}/errors", {}, 404)
    other.get(f"/pictures/{picture}/gray", 404)
    assert shown(api, palette).shape == (96, 128, 3)


def test_proof_sheets_are_saved_with_the_picture(api: Api, other: Api) -> None:
    picture = api.bench()["links"][0]["picture"]["id"]
    recipes = [{"colors": count} for count in (4, 8)]
    put = api.client.put(f"/api/pictures/{picture}/proofs", {"recipes": recipes}, content_type="application/json")
    assert put.status_code == 200
    assert [recipe["colors"] for recipe in api.get(f"/pictures/{picture}/proofs")["recipes"]] == [4, 8]
    many = api.client.put(f"/api/pictures/{picture}/proofs", {"recipes": [{}] * 13}, content_type="application/json")
    assert "at most 12 recipes; that would make 13" in many.json()["message"]
    assert len(api.get(f"/pictures/{picture}/proofs")["recipes"]) == 2
    other.get(f"/pictures/{picture}/proofs", 404)


def test_recipes_are_kept_by_name(api: Api, other: Api) -> None:
    mark = {"shape": "rectangle", "x": 0, "y": 0, "width": 1, "height": 1, "weight": 2}
    kept = api.post("/recipes", {"name": " Short ", "recipe": {"colors": 6, "marks": [mark]}}, 201)
    assert (kept["name"], kept["recipe"]["colors"], kept["recipe"]["marks"]) == ("Short", 6, [])
    api.post("/recipes", {"name": "Short", "recipe": {"colors": 7}}, 201)
    assert [entry["recipe"]["colors"] for entry in api.get("/recipes")] == [7]
    assert "A recipe needs a name" in api.post("/recipes", {"name": " ", "recipe": {}}, 422)["message"]
    assert other.get("/recipes") == []
    assert other.client.delete(f"/api/recipes/{kept['id']}").status_code == 404
    assert api.client.delete(f"/api/recipes/{kept['id']}").status_code == 204
    assert api.get("/recipes") == []
