"""Gather and Arrange over HTTP: samples, mixtures, companions, the editor's figures, selecting, matching, variants."""

import io

import numpy as np
import pytest
from PIL import Image

from tests.pictures import painted, png
from tests.server.conftest import Api
from tests.server.test_palettes import shown


def test_samples_of_a_picture(api: Api, other: Api) -> None:
    flat = np.zeros((40, 60, 4), np.uint8)
    flat[..., 3] = 255
    flat[:, 30:, 0] = 200
    picture = api.upload(png(flat))["id"]
    one = api.get(f"/pictures/{picture}/sample", x=45, y=20, diameter=9)
    assert (one["hex"], one["spread"], one["kinds"]) == ("#c80000", 0, [])
    edge = api.get(f"/pictures/{picture}/sample", x=30, y=20, diameter=21)
    assert {kind["hex"] for kind in edge["kinds"]} == {"#c80000", "#000000"}
    assert sum(kind["share"] for kind in edge["kinds"]) == pytest.approx(1, abs=1e-3)
    line = api.get(f"/pictures/{picture}/samples", x=5, y=5, to_x=55, to_y=5, count=4)
    assert [entry["hex"] for entry in line["samples"]] == ["#000000", "#000000", "#c80000", "#c80000"]
    assert "lies outside the picture" in api.get(f"/pictures/{picture}/sample", 422, x=99, y=2)["message"]
    other.get(f"/pictures/{picture}/sample", 404, x=1, y=1)


def test_the_editor_is_told_every_figure(api: Api) -> None:
    told = api.post("/colors/describe", {"text": "#c04030"})
    spaces = {space["id"]: [channel["value"] for channel in space["channels"]] for space in told["spaces"]}
    assert spaces["srgb"] == pytest.approx([192 / 255, 64 / 255, 48 / 255])
    assert spaces["hsv"] == pytest.approx([6.667, 0.75, 192 / 255], abs=1e-3)
    assert spaces["cmyk"] == pytest.approx([0, 2 / 3, 0.75, 1 - 192 / 255], abs=1e-3)
    assert {entry["id"]: entry["text"] for entry in told["notations"]}["rgb"] == "rgb(192 64 48)"
    lightness = spaces["oklch"][0]
    held = api.post("/colors/describe", {"space": "hsv", "coords": [6.667, 0.2, 0.75], "hold": lightness})
    after = {space["id"]: [channel["value"] for channel in space["channels"]] for space in held["spaces"]}
    assert after["oklch"][0] == pytest.approx(lightness, abs=1e-6), "saturation moved, lightness did not"
    assert after["hsv"][1] < 0.5
    exact = api.post("/colors/describe", {"space": "lab-d65", "coords": [60.0, 12.345, -7.5]})
    assert [c["value"] for s in exact["spaces"] if s["id"] == "lab-d65" for c in s["channels"]] == [60.0, 12.345, -7.5]
    assert "no color space" in api.post("/colors/describe", {"space": "xyz9", "coords": [1, 2, 3]}, 404)["message"]


def test_mixtures_and_companions(api: Api) -> None:
    body = {"texts": ["#fcd200", "#0a3fb0"], "parts": [1, 1], "steps": 3}
    mixed = {m["model"]: m for m in api.post("/colors/mix", body)["mixtures"]}
    assert mixed["pigment"]["hex"] == mixed["pigment"]["ladder"][1]
    assert mixed["pigment"]["hex"] != mixed["light"]["hex"]
    assert "All parts are 0" in api.post("/colors/mix", {"texts": ["#000", "#fff"], "parts": [0, 0]}, 422)["message"]
    found = api.get("/colors/companions", base="oklch(0.6 0.1 40)", scheme="split", spread=25)["companions"]
    assert [round(entry["oklch"][2]) for entry in found] == [40, 195, 245]
    assert "There is no scheme" in api.get("/colors/companions", 404, base="red", scheme="nonet")["message"]
    for kind in ("hue-chroma", "hue-lightness", "saturation-value", "hue-disc"):
        plane = Image.open(io.BytesIO(api.get("/colors/plane", kind=kind, held=0.6, width=50, height=40).content))
        assert plane.size == (50, 40)
    assert "There is no plane" in api.get("/colors/plane", 404, kind="cube", held=1)["message"]


def test_selecting_matching_and_the_merge_tree(api: Api, other: Api) -> None:
    palette = api.bench(colors=10)
    path = f"/palettes/{palette['id']}"
    first = palette["swatches"][0]["id"]
    added = api.operate(palette, kind="add_swatches", text="#00ff00")
    assert api.post(f"{path}/selection", {"rule": "unused"})["ids"] == [added["swatches"][-1]["id"]]
    assert first in api.post(f"{path}/selection", {"rule": "similar", "ids": [first], "tolerance": 0})["ids"]
    assert "selection rule" in api.post(f"{path}/selection", {"rule": "odd"}, 404)["message"]
    document = api.get(f"{path}/document")["document"]
    assert api.get(f"{path}/document", step=1)["document"]["swatches"] != document["swatches"]
    assert "no step 99" in api.get(f"{path}/document", 422, step=99)["message"]
    matches = api.post(f"{path}/match", {"document": document})["matches"]
    assert {match["delta"] for match in matches} == {0.0}
    tree = api.post(f"{path}/merge-tree", {})
    assert len(tree["joins"]) == len(tree["ids"]) - 1
    heights = [join["height"] for join in tree["joins"]]
    assert heights == sorted(heights)
    for call in (f"{path}/selection", f"{path}/merge-tree", f"{path}/match"):
        other.post(call, {"rule": "locked", "document": document}, 404)


def test_the_preview_of_a_step_says_how_far_the_picture_changes(api: Api) -> None:
    palette = api.bench(colors=6)
    before = shown(api, palette)
    operation = {"kind": "adjust_swatches", "lightness": 6}
    told = api.post(f"/palettes/{palette['id']}/operations/preview", {"operation": operation})
    after = shown(api, api.operate(palette, **operation))
    assert 5 < told["change_mean"] < 7
    assert told["change_mean"] <= told["change_max"]
    assert after.mean() > before.mean()
    empty = api.post("/palettes", {"name": "Typed", "text": "#102030 #ff0000"}, 201)
    preview = {"operation": {"kind": "reverse_swatches"}}
    assert api.post(f"/palettes/{empty['id']}/operations/preview", preview)["change_mean"] is None


def test_variants_and_slots_keep_the_look_of_linked_pictures(api: Api) -> None:
    palette = api.bench(colors=8)
    look = shown(api, palette)
    palette = api.operate(palette, kind="set_slots", slots=20)
    palette = api.operate(palette, kind="move_swatches", ids=[palette["swatches"][2]["id"]], to=17)
    palette = api.operate(palette, kind="smooth_order")
    palette = api.operate(palette, kind="swap_swatches", ids=[palette["swatches"][0]["id"], palette["swatches"][5]["id"]])
    assert np.array_equal(shown(api, palette), look)
    palette = api.operate(palette, kind="add_variant", name="Night", first_name="Day")
    palette = api.operate(palette, kind="adjust_swatches", lightness=-20)
    assert shown(api, palette).mean() < look.mean() - 10
    assert [variant["name"] for variant in palette["variants"]] == ["Day", "Night"]
    day = palette["variants"][0]
    assert [hex_code[:7] for hex_code in day["hexes"]] != [swatch["hex"][:7] for swatch in palette["swatches"]]
    palette = api.operate(palette, kind="show_variant", id=day["id"])
    assert np.array_equal(shown(api, palette), look)
    assert "do not fit" in api.operate(palette, 422, kind="set_slots", slots=5)["message"]


def test_a_slot_palette_is_delivered_with_its_places(api: Api) -> None:
    palette = api.post("/palettes", {"name": "Card", "text": "#ff0000 #00ff00"}, 201)
    palette = api.operate(palette, kind="set_slots", slots=6)
    palette = api.operate(palette, kind="move_swatches", ids=[palette["swatches"][1]["id"]], to=4)
    path = f"/palettes/{palette['id']}/files"
    act = api.get(f"{path}/act").content
    assert act[:18].hex() == "ff0000" + "000000" * 3 + "00ff00" + "000000"
    report = api.post(f"{path}/act/report")
    assert any("3 empty places filled" in loss["text"] for loss in report["losses"])
    assert any("close up" in loss["text"] for loss in api.post(f"{path}/gpl/report")["losses"])
    picture = api.upload(png(painted()))["id"]
    reduced = api.post("/palettes", {"picture": picture, "recipe": {"colors": 4}}, 201)
    reduced = api.operate(reduced, kind="set_slots", slots=16)
    reduced = api.operate(reduced, kind="move_swatches", ids=[reduced["swatches"][0]["id"]], to=9)
    image = Image.open(io.BytesIO(api.get(f"/palettes/{reduced['id']}/files/indexed-png", picture=picture).content))
    assert sorted(set(np.unique(np.asarray(image)).tolist())) == [1, 2, 3, 9]
    assert np.array_equal(np.asarray(image.convert("RGB")), shown(api, reduced))
