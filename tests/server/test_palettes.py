"""Palettes over HTTP, on PostgreSQL: operations, history, conflicts, reductions, delivery."""

import gzip
import io
import json
import uuid
import zipfile
from typing import Any

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from PIL import Image

from huvren.studio.models import IndexMap, Palette, Picture, Revision, StoredBytes
from tests.pictures import painted, png
from tests.server.conftest import Api


def ids(palette: Any) -> list[str]:
    return [swatch["id"] for swatch in palette["swatches"]]


def shown(api: Api, palette: Any) -> np.ndarray:
    """(h, w, 3) of the linked picture, painted as the browser does: map, table, swatches."""
    link = palette["links"][0]
    raw = api.get(f"/palettes/{palette['id']}/maps/{link['maps'][0]}").content
    indices = np.frombuffer(raw, np.uint8).reshape(link["height"], link["width"])
    rgb = {swatch["id"]: swatch["rgb"] for swatch in palette["swatches"]}
    return np.array([rgb.get(swatch_id, [0, 0, 0]) for swatch_id in link["table"]], dtype=np.uint8)[indices]


def test_a_picture_becomes_a_palette(api: Api) -> None:
    palette = api.bench()
    assert palette["name"] == "plate"
    assert len(palette["swatches"]) == 12
    assert palette["revision"] == 1
    assert palette["label"] == "Reduce to 12 colors chosen by perceptual split, dithered not at all."
    assert sum(swatch["coverage"] for swatch in palette["swatches"]) == pytest.approx(1)
    assert not palette["can_undo"]
    difference = np.abs(shown(api, palette).astype(int) - painted()[..., :3]).mean()
    assert difference < 12


def test_operations_undo_and_redo_survive_a_reload(api: Api) -> None:
    first = api.bench()
    swatch = first["swatches"][4]["id"]
    second = api.operate(first, kind="rename_swatch", id=swatch, name="Glow edge")
    third = api.operate(second, kind="move_swatches", ids=[swatch], to=0)
    assert ids(third)[0] == swatch
    fresh = api.get(f"/palettes/{first['id']}")
    assert fresh["swatches"] == third["swatches"]
    assert (fresh["can_undo"], fresh["can_redo"]) == (True, False)
    back = api.post(f"/palettes/{first['id']}/undo", {"base": third["revision"]})
    back = api.post(f"/palettes/{first['id']}/undo", {"base": back["revision"]})
    assert back["swatches"] == first["swatches"]
    assert api.get(f"/palettes/{first['id']}")["can_redo"]
    again = api.post(f"/palettes/{first['id']}/redo", {"base": back["revision"]})
    assert again["swatches"] == second["swatches"]
    labels = [step["label"] for step in api.get(f"/palettes/{first['id']}/history")]
    assert labels[0].startswith("Move “Glow edge” to 0")
    assert labels[1].endswith("to “Glow edge”")


def test_steps_left_behind_by_an_undo_can_still_be_reached(api: Api) -> None:
    first = api.post("/palettes", {"text": "#ff0000 #00ff00"}, 201)
    left = api.operate(first, kind="add_swatches", text="#0000ff")
    back = api.post(f"/palettes/{first['id']}/undo", {"base": left["revision"]})
    other = api.operate(back, kind="add_swatches", text="#ffffff")
    assert other["revision"] == 3
    there = api.post(f"/palettes/{first['id']}/go-to", {"base": 3, "number": 2})
    assert there["swatches"] == left["swatches"]
    api.post(f"/palettes/{first['id']}/go-to", {"base": 2, "number": 99}, 404)


def test_nothing_to_undo_or_redo_is_said(api: Api) -> None:
    palette = api.post("/palettes", {"name": "Empty"}, 201)
    assert "nothing to undo" in api.post(f"/palettes/{palette['id']}/undo", {"base": 1}, 422)["message"]
    assert "nothing to redo" in api.post(f"/palettes/{palette['id']}/redo", {"base": 1}, 422)["message"]


def test_a_stale_revision_is_answered_with_the_present_palette(api: Api) -> None:
    seen = api.bench()
    newer = api.operate(seen, kind="rename_palette", name="Changed elsewhere")
    problem = api.operate(seen, 409, kind="rename_palette", name="Overwritten")
    assert problem["code"] == "stale_revision"
    assert problem["current"]["name"] == "Changed elsewhere"
    assert problem["current"]["revision"] == newer["revision"]
    assert api.get(f"/palettes/{seen['id']}")["name"] == "Changed elsewhere"
    for path, body in (("undo", {}), ("go-to", {"number": 1}),
                       ("reductions", {"picture": seen["links"][0]["picture"]["id"], "recipe": {"colors": 4}})):  # fmt: skip
        assert api.post(f"/palettes/{seen['id']}/{path}", {"base": 1, **body}, 409)["code"] == "stale_revision"


def test_moving_keeps_the_look_recoloring_changes_it(api: Api) -> None:
    palette = api.bench()
    before = shown(api, palette)
    moved = api.operate(palette, kind="move_swatches", ids=ids(palette)[2:5], to=9)
    assert np.array_equal(shown(api, moved), before)
    swatch = moved["swatches"][0]
    red = api.operate(moved, kind="recolor_swatch", id=swatch["id"], text="#ff0000")
    after = shown(api, red)
    changed = (after != before).any(axis=-1)
    assert np.array_equal(changed, (before == swatch["rgb"]).all(axis=-1))
    assert (after[changed] == [255, 0, 0]).all()


def test_pixels_of_a_deleted_swatch_go_to_the_nearest_and_undo_brings_them_back(api: Api) -> None:
    palette = api.bench()
    before = shown(api, palette)
    gone = palette["swatches"][5]
    after = api.operate(palette, kind="delete_swatches", ids=[gone["id"]])
    heir = palette["swatches"][gone["nearest"]]
    mask = (before == gone["rgb"]).all(axis=-1)
    assert mask.any()
    assert (shown(api, after)[mask] == heir["rgb"]).all()
    assert np.array_equal(shown(api, after)[~mask], before[~mask])
    back = api.post(f"/palettes/{palette['id']}/undo", {"base": after["revision"]})
    assert np.array_equal(shown(api, back), before)


PARCEL = {"name": "P", "swatches": [{"id": f"p{n}", "color": {"space": "srgb", "coords": [n / 3, 0.5, 0.2]}} for n in range(3)]}
KINDS = [
    "move", "delete", "duplicate", "lock", "add", "recolor", "sort", "merge", "twins", "group", "bake", "bring", "keep", "again",
    "fill",
]  # fmt: skip


@pytest.mark.django_db
@settings(max_examples=12, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.lists(st.tuples(st.sampled_from(KINDS), st.integers(0, 40),
                          st.integers(0, 11)), max_size=8))  # fmt: skip
def test_any_steps_then_undo_to_the_start_give_the_first_document(api: Api, steps: list[tuple[str, int, int]]) -> None:
    first = palette = api.bench(colors=8)
    for kind, pick, to in steps:
        swatch = ids(palette)[pick % len(palette["swatches"])]
        operations: dict[str, dict[str, Any]] = {
            "move": {"kind": "move_swatches", "ids": [swatch], "to": to},
            "delete": {"kind": "delete_swatches", "ids": [swatch]},
            "duplicate": {"kind": "duplicate_swatches", "ids": [swatch]},
            "lock": {"kind": "lock_swatches", "ids": [swatch], "locked": to % 2 == 0},
            "add": {"kind": "add_swatches", "text": f"#0{to % 10}80f0"},
            "recolor": {"kind": "recolor_swatch", "id": swatch, "text": f"#a{to % 10}20f0"},
            "sort": {"kind": "sort_swatches", "keys": ["hue", "lightness"], "descending": to % 2 == 0},
            "merge": {"kind": "merge_swatches", "ids": ids(palette)[:2], "keep": "average"},
            "twins": {"kind": "merge_near_twins", "tolerance": to},
            "group": {"kind": "make_group", "ids": [swatch], "name": f"Group {to}"},
            "bake": {"kind": "bake_ramp", "ramp": {"stops": [{"swatch": swatch}, {"text": "#ffd478"}], "steps": 3}},
            "keep": {"kind": "keep_ramp", "ramp": {"stops": [{"swatch": swatch}, {"swatch": ids(palette)[0]}], "steps": 3}},
            "again": (
                {"kind": "bake_again" if palette["ramps"][0]["baked"] else "bake_ramp", "id": palette["ramps"][0]["id"]}
                if palette["ramps"]
                else {"kind": "rename_palette", "name": "Without a ramp"}
            ),
            "fill": {"kind": "fill_between", "ids": [swatch, ids(palette)[0]], "count": 2},
            "bring": {"kind": "bring_in", "document": PARCEL, "source": "p.json", "how": ["append", "union", "replace"][to % 3]},
        }
        response = api.client.post(
            f"/api/palettes/{palette['id']}/operations",
            json.dumps({"base": palette["revision"], "operation": operations[kind]}), content_type="application/json",
        )  # fmt: skip
        if response.status_code == 200:
            palette = response.json()
        else:
            assert response.status_code == 422
            known = ("locked", "already", "Merging needs two", "needs two swatches or more")
            assert any(word in response.json()["message"] for word in known), response.json()
        assert len(set(ids(palette))) == len(ids(palette))
        present = set(ids(palette))
        for kept in palette["ramps"]:
            stops = kept["ramp"]["stops"]
            assert len(stops) == 2
            assert all((stop["swatch"] in present) if stop["swatch"] else stop["color"] for stop in stops)
    while palette["can_undo"]:
        palette = api.post(f"/palettes/{palette['id']}/undo", {"base": palette["revision"]})
    for key in ("swatches", "groups", "name", "ramps"):
        assert palette[key] == first[key]
    assert np.array_equal(shown(api, palette), shown(api, first))


def preview(api: Api, palette: Any, **recipe: Any) -> tuple[Any, np.ndarray]:
    response = api.post(f"/palettes/{palette['id']}/previews", {"picture": palette["links"][0]["picture"]["id"], "recipe": recipe})
    body = response.content
    length = int.from_bytes(body[:4], "little")
    head = json.loads(body[4 : 4 + length])
    return head, np.frombuffer(body[4 + length :], np.uint8).reshape(head["height"], head["width"])


def test_a_preview_stores_nothing_and_is_what_keeping_gives(api: Api) -> None:
    palette = api.bench()
    locked = api.operate(palette, kind="lock_swatches", ids=ids(palette)[3:5], locked=True)
    rows = Revision.objects.count(), IndexMap.objects.count()
    head, indices = preview(api, locked, colors=6, dither="floyd-steinberg", strength=80)
    assert (Revision.objects.count(), IndexMap.objects.count()) == rows
    assert set(ids(palette)[3:5]) <= {swatch["id"] for swatch in head["swatches"]}
    kept = api.post(
        f"/palettes/{palette['id']}/reductions",
        {"base": locked["revision"], "picture": palette["links"][0]["picture"]["id"],
         "recipe": {"colors": 6, "dither": "floyd-steinberg", "strength": 80}},
    )  # fmt: skip
    assert kept["swatches"] == head["swatches"]
    rgb = {swatch["id"]: swatch["rgb"] for swatch in head["swatches"]}
    assert np.array_equal(shown(api, kept), np.array([rgb[i] for i in head["table"]], dtype=np.uint8)[indices])
    assert kept["label"].startswith("Reduce to 6 colors chosen by perceptual split, keeping 2 locked, dithered Floyd–Steinberg")
    back = api.post(f"/palettes/{palette['id']}/undo", {"base": kept["revision"]})
    assert np.array_equal(shown(api, back), shown(api, locked))


def test_figures_are_measured_as_the_palette_stands(api: Api) -> None:
    palette = api.bench()
    picture = palette["links"][0]["picture"]["id"]
    before = api.get(f"/palettes/{palette['id']}/pictures/{picture}/figures")
    assert before["mean"] == pytest.approx(palette["links"][0]["figures"]["mean"], abs=1e-4)
    file = api.get(f"/palettes/{palette['id']}/files/indexed-png", picture=picture).content
    assert before["bytes"] == len(file)
    changed = api.operate(palette, kind="recolor_swatch", id=ids(palette)[0], text="#00ff00")
    assert api.get(f"/palettes/{changed['id']}/pictures/{picture}/figures")["mean"] > before["mean"] + 1


def test_delivered_files(api: Api) -> None:
    palette = api.bench()
    palette = api.operate(palette, kind="move_swatches", ids=[ids(palette)[0]], to=11)
    picture = palette["links"][0]["picture"]["id"]
    response = api.get(f"/palettes/{palette['id']}/files/indexed-png", picture=picture)
    image = Image.open(io.BytesIO(response.content))
    raw = image.getpalette() or []
    assert raw[:36] == [channel for swatch in palette["swatches"] for channel in swatch["rgb"]]
    assert np.array_equal(np.asarray(image.convert("RGB")), shown(api, palette))
    codes = api.get(f"/palettes/{palette['id']}/files/hex")
    assert codes.content.decode().split() == [swatch["hex"][1:] for swatch in palette["swatches"]]
    assert "plate.hex" in codes.headers["Content-Disposition"]
    assert api.get(f"/palettes/{palette['id']}/files/indexed-png", 404, picture=uuid.uuid4())["code"] == "unknown"
    assert "There is no format “psd”" in api.get(f"/palettes/{palette['id']}/files/psd", 404)["message"]


def test_names_in_download_headers_cannot_break_out(api: Api) -> None:
    palette = api.post("/palettes", {"name": 'Möwe "x"\r\nSet-Cookie: a', "text": "#fff"}, 201)
    header = api.get(f"/palettes/{palette['id']}/files/hex").headers["Content-Disposition"]
    assert "\n" not in header
    assert 'filename="M-we -x- Set-Cookie- a.hex"' in header
    assert "filename*=UTF-8''M%C3%B6we%20%22x%22" in header


@pytest.mark.parametrize(
    ("operation", "words"),
    [
        ({"kind": "add_swatches", "text": "#12"}, "“#12” is no color: a hex code has 3, 4, 6 or 8 digits"),
        ({"kind": "add_swatches", "text": "rgb(300"}, "the closing bracket is missing"),
        ({"kind": "rename_swatch", "id": "FIRST", "name": "n" * 10_000}, "10,000 characters; 200 is the most"),
        ({"kind": "rename_palette", "name": " "}, "A palette needs a name"),
        ({"kind": "recolor_swatch", "id": "FIRST", "text": "mud"}, "neither a hex code"),
        ({"kind": "paint_it_black"}, "paint_it_black"),
        ({"kind": "move_swatches", "ids": ["FIRST"], "to": -1}, "greater than or equal to 0"),
    ],
)
def test_bad_operations_change_nothing_and_say_why(api: Api, operation: dict[str, Any], words: str) -> None:
    palette = api.bench()
    operation = {key: ids(palette)[0] if value == "FIRST" else value for key, value in operation.items()}
    problem = api.operate(palette, 422, **operation)
    assert words in problem["message"]
    assert api.get(f"/palettes/{palette['id']}") == palette


def test_bad_recipes_are_told_why(api: Api) -> None:
    palette = api.bench()
    picture = palette["links"][0]["picture"]["id"]
    for recipe, words in (
        ({"colors": 257}, "less than or equal to 256"),
        ({"colors": 0}, "greater than or equal to 1"),
        ({"dither": "snow"}, "There is no dither “snow”. Choose one of: none, floyd-steinberg, ordered"),
    ):
        body = {"picture": picture, "recipe": recipe}
        assert words in api.post(f"/palettes/{palette['id']}/previews", body, 422)["message"]
        assert words in api.post(f"/palettes/{palette['id']}/reductions", {**body, "base": 1}, 422)["message"]
    locked = api.operate(palette, kind="lock_swatches", ids=ids(palette)[:5], locked=True)
    body = {"picture": picture, "recipe": {"colors": 3}}
    assert "5 colors are locked" in api.post(f"/palettes/{palette['id']}/previews", body, 422)["message"]
    assert api.get(f"/palettes/{palette['id']}") == locked


@pytest.mark.parametrize(
    ("data", "status", "words"),
    [
        (b"", 422, "no file"),
        (b"hello", 422, "is not a picture that can be read"),
        (png(painted())[:300], 422, "damaged or cut short"),
    ],
)
def test_bad_files_leave_nothing_behind(api: Api, data: bytes, status: int, words: str) -> None:
    problem = api.upload(data, "x.png", status)
    if data:
        assert words in problem["message"]
    assert (Picture.objects.count(), StoredBytes.objects.count(), Palette.objects.count()) == (0, 0, 0)
    assert api.get("/health") == {"status": "ok"}


def test_the_same_picture_is_stored_once(api: Api, other: Api) -> None:
    api.upload(png(painted()), "a.png")
    count = StoredBytes.objects.count()
    other.upload(png(painted()), "b.png")
    assert StoredBytes.objects.count() == count
    assert Picture.objects.count() == 2


def test_somebody_elses_things_do_not_exist(api: Api, other: Api) -> None:
    palette = api.bench()
    picture = palette["links"][0]["picture"]["id"]
    map_id = palette["links"][0]["maps"][0]
    for path in (f"/palettes/{palette['id']}", f"/palettes/{palette['id']}/history", f"/palettes/{palette['id']}/files/hex",
                 f"/pictures/{picture}", f"/pictures/{picture}/image", f"/pictures/{picture}/thumbnail",
                 f"/palettes/{palette['id']}/maps/{map_id}", f"/palettes/{palette['id']}/pictures/{picture}/figures"):  # fmt: skip
        assert other.get(path, 404)["code"] == "unknown"
    other.operate(palette, 404, kind="rename_palette", name="Mine")
    other.post("/palettes", {"picture": picture}, 404)
    assert other.client.delete(f"/api/palettes/{palette['id']}").status_code == 404
    mine = other.post("/palettes", {"text": "#fff"}, 201)
    other.post(f"/palettes/{mine['id']}/previews", {"picture": picture, "recipe": {"colors": 4}}, 404)
    assert other.shelf()["pictures"] == []


def test_trash_and_restore(api: Api) -> None:
    palette = api.bench()
    assert api.client.delete(f"/api/palettes/{palette['id']}").status_code == 204
    assert api.shelf()["palettes"] == []
    assert [card["id"] for card in api.shelf(trash=True)["palettes"]] == [palette["id"]]
    api.post(f"/palettes/{palette['id']}/restore", status=204)
    card = api.shelf()["palettes"][0]
    assert card["strip"] == "".join(swatch["hex"][1:].ljust(8, "f") for swatch in palette["swatches"])


def test_index_maps_come_gzipped_to_browsers(api: Api) -> None:
    palette = api.bench()
    path = f"/api/palettes/{palette['id']}/maps/{palette['links'][0]['maps'][0]}"
    plain = api.client.get(path)
    packed = api.client.get(path, headers={"accept-encoding": "gzip, br"})
    assert packed.headers["Content-Encoding"] == "gzip"
    assert gzip.decompress(packed.content) == plain.content
    assert len(plain.content) == 96 * 128


def test_wide_gamut_colors_are_kept_and_marked(api: Api) -> None:
    palette = api.post("/palettes", {"text": "color(display-p3 0 1 0)"}, 201)
    swatch = palette["swatches"][0]
    assert (swatch["space"], swatch["coords"], swatch["in_srgb"]) == ("display-p3", [0, 1, 0], False)


def test_transparent_pictures_get_a_transparent_swatch_first(api: Api) -> None:
    rgba = painted()
    rgba[:40, :50, 3] = 0
    picture = api.upload(png(rgba))
    palette = api.post("/palettes", {"picture": picture["id"], "recipe": {"colors": 8}}, 201)
    assert [swatch["alpha"] for swatch in palette["swatches"]] == [0] + [1] * 7
    file = api.get(f"/palettes/{palette['id']}/files/indexed-png", picture=picture["id"]).content
    image = np.asarray(Image.open(io.BytesIO(file)).convert("RGBA"))
    assert np.array_equal(image[..., 3] == 0, rgba[..., 3] == 0)


def test_variants_are_delivered_one_by_one_in_one_file_and_packed(api: Api) -> None:
    palette = api.post("/palettes", {"text": "#f3ead6 Paper\n#e85421 Lamp\n#1b1a1d Ink", "name": "Press"}, 201)
    both = api.operate(palette, kind="add_variant", name="Night", first_name="Day")
    night = api.operate(both, kind="recolor_swatch", id=palette["swatches"][0]["id"], text="#10131c")
    day_id, night_id = (variant["id"] for variant in night["variants"])
    base = f"/palettes/{palette['id']}/files"

    def said(format_id: str, **wish: object) -> dict[str, Any]:
        return api.post(f"{base}/{format_id}/report", wish)

    # The one that is shown, and its name in the file's.
    assert said("gpl")["name"] == "Press, Night.gpl"
    assert said("json")["name"] == "Press.json", "it holds every variant"
    assert "#10131c" not in said("hex", variants=[day_id])["text"]
    assert said("hex", variants=[day_id])["name"] == "Press, Day.hex"
    assert any(loss["code"] == "variants" for loss in said("gpl")["losses"])
    # A file for each, with the variant in every name.
    packed = said("gpl", variants=[day_id, night_id])
    assert (packed["files"], packed["name"], packed["text"]) == (2, "Press.zip", None)
    assert not any(loss["code"] == "variants" for loss in packed["losses"])
    answer = api.post(f"{base}/gpl", {"variants": [day_id, night_id]})
    assert answer["Content-Type"] == "application/zip"
    with zipfile.ZipFile(io.BytesIO(answer.content)) as archive:
        assert archive.namelist() == ["Press, Day.gpl", "Press, Night.gpl"]
        day, dark = (archive.read(name).decode() for name in archive.namelist())
    assert "243 234 214" in day
    assert " 16  19  28" in dark
    # One file of both, where it can be.
    sheet = said("css", variants=[day_id, night_id], joined=True)
    assert sheet["name"] == "Press.css"
    assert sheet["text"].startswith(":root {\n  --paper: #f3ead6;")
    assert "@media (prefers-color-scheme: dark) {\n  :root:not(.day) {\n    --paper: #10131c;\n  }\n}" in sheet["text"]
    assert ".night { /* Night */\n  --paper: #10131c;\n}" in sheet["text"]
    assert sheet["text"].count("--lamp") == 1, "what is the same is said once"
    assert '"variants"' in said("json", variants=[day_id, night_id], joined=True)["text"]
    menu = {entry["id"]: entry["joins_variants"] for entry in api.get("/menus")["formats"]}
    assert {format_id for format_id, joins in menu.items() if joins} == {"css", "json"}
    assert "holds one variant" in api.post(f"{base}/gpl/report", {"variants": [day_id, night_id], "joined": True}, 422)["message"]
    assert "no variant" in api.post(f"{base}/gpl/report", {"variants": ["x"]}, 422)["message"]
    # A name that would end its comment does not, and one that no file may have is written otherwise.
    odd = api.operate(night, kind="rename_variant", id=night_id, name="Night */ .x{} /\\ 2")
    sheet = said("css", variants=[day_id, night_id], joined=True)["text"]
    assert sheet.count("*/") == sheet.count("/*")
    with zipfile.ZipFile(io.BytesIO(api.post(f"{base}/gpl", {"variants": [day_id, night_id]}).content)) as archive:
        assert archive.namelist() == ["Press, Day.gpl", "Press, Night -- .x{} -- 2.gpl"]
    api.operate(odd, kind="rename_variant", id=night_id, name="Night")
    # The order of the wish is the order of the file; once each.
    turned = said("css", variants=[night_id, day_id, night_id], joined=True)["text"]
    assert turned.startswith(":root {\n  --paper: #10131c;")
    assert "prefers-color-scheme" not in turned, "neither says that it is dark, and the other is lighter"
