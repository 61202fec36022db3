"""Ramp, arrange, import and deliver over HTTP: proposed steps, linked pictures, keep reports."""

import io
from typing import Any

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from huvren.core.formats import FORMATS, Document
from huvren.core.formats.readings import read_palette
from huvren.demo.library import typed_palettes
from huvren.studio.models import Palette, Picture, Revision
from tests.pictures import painted, png
from tests.server.conftest import Api
from tests.server.test_palettes import ids, shown

PRESS = next(palette for palette in typed_palettes() if palette.name.startswith("Press"))


def look(api: Api, data: bytes, name: str, status: int = 200, **fields: Any) -> Any:
    response = api.client.post("/api/imports", {"file": SimpleUploadedFile(name, data), **fields})
    assert response.status_code == status, response.content[:400]
    return response.json()


def proposed(api: Api, palette: Any, status: int = 200, **operation: Any) -> Any:
    return api.post(f"/palettes/{palette['id']}/operations/preview", {"operation": operation}, status)


def test_a_proposed_step_is_what_the_step_gives_and_stores_nothing(api: Api) -> None:
    palette = api.bench(colors=16)
    operation = {"kind": "merge_near_twins", "tolerance": 8.0}
    before = Revision.objects.count()
    would = proposed(api, palette, **operation)
    assert Revision.objects.count() == before
    assert would["changes"]
    did = api.operate(palette, **operation)
    assert would["swatches"] == did["swatches"]
    assert would["tables"][0]["table"] == did["links"][0]["table"]
    assert did["label"] == would["sentence"] == "Merge near twins within ΔE 8, keeping the most used"
    assert set(would["successors"]) == set(ids(palette)) - set(ids(did))
    assert not proposed(api, did, kind="merge_near_twins", tolerance=0)["changes"]


def test_merging_remaps_linked_pictures_in_the_same_step(api: Api) -> None:
    palette = api.bench(colors=12)
    before = shown(api, palette)
    one, other = palette["swatches"][2], palette["swatches"][9]
    most = max((one, other), key=lambda swatch: swatch["coverage"])
    merged = api.operate(palette, kind="merge_swatches", ids=[one["id"], other["id"]])
    expected = before.copy()
    for swatch in (one, other):
        expected[(before == swatch["rgb"]).all(axis=-1)] = most["rgb"]
    assert np.array_equal(shown(api, merged), expected)
    back = api.post(f"/palettes/{palette['id']}/undo", {"base": merged["revision"]})
    assert np.array_equal(shown(api, back), before)


def test_sorting_and_grouping_keep_the_look(api: Api) -> None:
    palette = api.bench()
    before = shown(api, palette)
    ordered = api.operate(palette, kind="sort_swatches", keys=["hue", "lightness"], descending=True)
    assert ids(ordered) != ids(palette)
    assert np.array_equal(shown(api, ordered), before)
    grouped = api.operate(ordered, kind="make_group", ids=[ids(ordered)[1], ids(ordered)[7]], name="Wings")
    assert np.array_equal(shown(api, grouped), before)
    assert [group["name"] for group in grouped["groups"]] == ["Wings"]
    replaced = api.operate(grouped, kind="bring_in", document={"name": "x", "swatches": [
        {"id": "n", "color": {"space": "srgb", "coords": [0, 0, 0]}}, {"id": "m", "color": {"space": "srgb", "coords": [1, 1, 1]}}]},
        source="two.hex", how="replace")  # fmt: skip
    assert {tuple(color) for color in shown(api, replaced).reshape(-1, 3).tolist()} <= {(0, 0, 0), (255, 255, 255)}


@pytest.mark.parametrize("format_id", ["gpl", "ase", "aco", "csv", "css", "json"])
def test_files_are_looked_into_and_nothing_is_stored(api: Api, format_id: str) -> None:
    entry = FORMATS[format_id]
    assert entry.write
    found = look(api, entry.written(Document(PRESS)), f"press{entry.endings[0]}")
    assert Palette.objects.count() == Picture.objects.count() == 0
    reading = found["readings"][0]
    assert reading["label"] == entry.label
    assert [swatch["name"] for swatch in reading["swatches"]] == [swatch.name for swatch in PRESS.swatches]
    made = api.post("/palettes", {"document": reading["document"], "source": "press", "name": "Mine"}, 201)
    assert (made["name"], made["label"]) == ("Mine", "Begin with 15 swatches from “press”")
    assert [swatch["hex"] for swatch in made["swatches"]] == [swatch.color.hex for swatch in PRESS.swatches]


def test_pictures_are_offered_by_their_colors_or_reduced(api: Api) -> None:
    photo = look(api, png(painted()), "photo.png", colors=9)
    assert [(r["is_reduction"], len(r["swatches"])) for r in photo["readings"]] == [(True, 9)]
    assert photo["picture"]["distinct"] > 256
    strip = FORMATS["strip-png"].written
    squares = look(api, strip(Document(PRESS)), "strip.png")
    assert squares["readings"][0]["label"] == ".png strip of squares"
    assert squares["readings"][0]["areas"][1] == [32, 0, 32, 32]
    assert squares["readings"][0]["notes"] == ["Read as a grid of 15 × 1 cells of 32 × 32 pixels."]
    assert not any(reading["is_reduction"] for reading in squares["readings"])


def test_a_text_comes_with_its_finds_marked_as_a_browser_counts(api: Api) -> None:
    text = "🌙 Lamp #ffcc66, see #fade and 🌙 a tan moth; ink: #1b1a1d\n"
    found = look(api, text.encode(), "notes.txt")
    (reading,) = found["readings"]
    units = found["text"].encode("utf-16-le")
    said = [units[2 * begin : 2 * end].decode("utf-16-le") for begin, end in reading["marks"]]
    assert said[0] == "#ffcc66"
    assert said[-1] == "#1b1a1d"
    assert len(reading["doubts"]) in (0, len(reading["swatches"]))
    sheet = look(api, b":root { --gap: 4px; --eye: #e85421; }", "a.css")["readings"][0]
    ((begin, end),) = sheet["marks"]
    assert (begin, end) == (27, 34), "readers that do not say where they read have their colors looked for"
    doubtful = look(api, b"Lamp #ffcc66\nEye #e85421\nInk #1b1a1d\nand painted in tomato\n", "notes.txt")["readings"][0]
    assert any(doubtful["doubts"])
    assert doubtful["doubts"][0] == ""


def test_bad_files_are_told_why(api: Api) -> None:
    for data, name, words in (
        (b"ASEF\0\1\0\0\0\0\0\1\0\1", "a.ase", "“a.ase” cannot be read as .ase swatch exchange. Byte 12"),
        (b"no color here", "a.txt", "There is no color in that text"),
        (png(painted())[:300], "a.png", "damaged or cut short"),
    ):
        assert words in look(api, data, name, 422)["message"]


def test_some_swatches_are_delivered_with_a_keep_report(api: Api) -> None:
    palette = api.post("/palettes", {"text": "#ff0000 color(display-p3 0 1 0) #0000ff"}, 201)
    palette = api.operate(palette, kind="make_group", ids=ids(palette)[:2], name="Two")
    path = f"/palettes/{palette['id']}/files/hex"
    report = api.post(f"{path}/report", {})
    assert [loss["code"] for loss in report["losses"]] == ["groups", "gamut", "ids"]
    assert report["losses"][1]["text"].startswith("1 color outside sRGB mapped into it (largest change ΔE ")
    assert report["losses"][1]["mean"] == pytest.approx(report["losses"][1]["worst"])
    assert (report["count"], report["bytes"], report["problem"]) == (3, 21, None)
    part = {"ids": [ids(palette)[2], ids(palette)[0]]}
    assert api.post(path, part).content == b"ff0000\n0000ff\n"
    assert [loss["code"] for loss in api.post(f"{path}/report", part)["losses"]] == ["groups", "ids"]
    lab = api.post(f"/palettes/{palette['id']}/files/ase", {}).content
    assert not read_palette(lab)[1].palette.swatches[1].color.in_srgb
    css = api.post(f"/palettes/{palette['id']}/files/css", {"options": {"notation": "oklch"}}).content.decode()
    assert "oklch(" in css
    assert "has no option “mood”" in api.post(path, {"options": {"mood": "x"}}, 422)["message"]
    empty = api.post("/palettes", {"name": "Empty"}, 201)
    assert api.post(f"/palettes/{empty['id']}/files/strip-png/report", {})["problem"] == "There is no swatch to draw. Add one first."
    assert "Add one first" in api.post(f"/palettes/{empty['id']}/files/strip-png", {}, 422)["message"]


def test_somebody_elses_palette_cannot_be_proposed_ramped_or_delivered(api: Api, other: Api) -> None:
    palette = api.bench()
    operation = {"kind": "sort_swatches", "keys": ["hue"]}
    for path, body in (
        ("operations/preview", {"operation": operation}),
        ("ramps", {"ramp": {"stops": [{"text": "#000"}, {"text": "#fff"}]}}),
        ("files/gpl", {}),
        ("files/gpl/report", {}),
    ):
        assert other.post(f"/palettes/{palette['id']}/{path}", body, 404)["code"] == "unknown"


def test_import_of_a_large_palette_is_one_step(api: Api) -> None:
    codes = io.BytesIO(b"".join(b"%06x\n" % (n * 7919 % 0x1000000) for n in range(2000))).getvalue()
    reading = look(api, codes, "many.hex")["readings"][0]
    assert len(reading["swatches"]) == 2000
    assert len({swatch["name"] for swatch in reading["swatches"]}) == 2000
    palette = api.post("/palettes", {"text": "#000"}, 201)
    after = api.operate(palette, kind="bring_in", document=reading["document"], source="many.hex", how="union", tolerance=0)
    assert len(after["swatches"]) == 2000, "black was there already"
