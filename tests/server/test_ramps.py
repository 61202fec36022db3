"""Ramps through the API: lanes, checks, makers, changes of stops, files, fits; kept ramps with history, cards and archives."""

import base64
import io
from typing import Any

import numpy as np
import pytest
from PIL import Image

from huvren.core.color.notation import parse_color
from huvren.core.formats.gradients.ggr import FIRST_LINE
from huvren.core.palette.document import palette_from_document
from huvren.core.ramp.plan import plain_only, plan_of
from tests.pictures import png
from tests.server.conftest import Api

NIGHT, LEAF, LAMP = "#262b5c", "#2bb5a0", "#ffd478"


def two(api: Api) -> Any:
    return api.post("/palettes", {"text": f"{NIGHT} {LAMP}"}, 201)


def tied(palette: Any, **settings: Any) -> dict[str, Any]:
    return {"stops": [{"swatch": swatch["id"]} for swatch in palette["swatches"][:2]], "steps": 5, **settings}


def plain(*codes: str, **settings: Any) -> dict[str, Any]:
    return {"stops": [{"text": code} for code in codes], "steps": 5, **settings}


def ask(api: Api, palette: Any, path: str, body: Any, status: int = 200) -> Any:
    return api.post(f"/palettes/{palette['id']}/ramps{path}", body, status)


def samples(coded: str) -> np.ndarray:  # type: ignore[type-arg]
    return np.frombuffer(base64.b64decode(coded), np.uint8).reshape(-1, 4)


def test_lanes_are_drawn_and_measured(api: Api) -> None:
    palette = two(api)
    answer = ask(
        api, palette, "", {"ramp": tied(palette), "lanes": ["oklab", "srgb", "hsv-longer"], "compare": ["own", "srgb"], "views": True}
    )
    lanes = {lane["id"]: lane for lane in answer["lanes"]}
    assert list(lanes) == ["oklab", "srgb", "hsv-longer"]
    assert answer["own"]["id"] == "oklab"
    assert lanes["srgb"]["dip"] > lanes["oklab"]["dip"]
    assert samples(lanes["srgb"]["rgba"]).shape == (512, 4)
    steps = ["#{:02x}{:02x}{:02x}".format(*row[:3]) for row in samples(lanes["oklab"]["steps"]).tolist()]
    assert (steps[0], steps[-1], len(steps)) == (NIGHT, LAMP, 5)
    assert [stop["tied"] for stop in answer["stops"]] == [True, True]
    assert [stop["share"] for stop in answer["stops"]] == [0, 1]
    assert max(answer["difference"]) > 1
    assert {view["id"] for view in answer["views"]} == {"gray", "protan", "deutan", "tritan"}
    gray = samples(answer["views"][0]["rgba"])
    assert (gray[:, 0] == gray[:, 1]).all()
    assert answer["sentence"].startswith("Ramp from ")
    for ramp, words in (
        (plain(NIGHT), "A ramp needs two colors or more"), (plain(NIGHT, "nope"), "“nope” is no color"),
        ({"stops": [{"swatch": "gone"}, {"text": LAMP}]}, "no longer in the palette"),
        (plain(NIGHT, LAMP, space="rainbow"), "rainbow"),
        (plain(NIGHT, LAMP, steps=1), "greater than or equal to 2"), (plain(NIGHT, LAMP, steps=2000), "less than or equal to 1024"),
        (plain(*[NIGHT] * 65), "at most 64"),
        ({"stops": [{"text": NIGHT, "easing": {"kind": "bezier", "numbers": [2, 0, 0, 1]}}, {"text": LAMP}]}, "x1 = 2"),
        ({"stops": [{"color": {"space": "oklab", "coords": [1]}}, {"text": LAMP}]}, "has 3 coordinates"),
        ({"stops": [{"color": {"space": "zzz", "coords": [1]}}, {"text": LAMP}]}, "There is no color space"),
    ):  # fmt: skip
        status = 404 if "palette" in words or "color space" in words else 422
        assert words in ask(api, palette, "", {"ramp": ramp}, status)["message"], words
    assert "There is no lane" in ask(api, palette, "", {"ramp": tied(palette), "lanes": ["x"]}, 404)["message"]


def test_a_kept_ramp_follows_its_swatches_their_variants_and_every_undo(api: Api) -> None:
    palette = two(api)
    kept = api.operate(palette, kind="keep_ramp", ramp=tied(palette), tags=["glow"])
    (ramp,) = kept["ramps"]
    assert (ramp["tags"], ramp["baked"], ramp["follows"]) == (["glow"], 0, True)
    assert ramp["strip"][:8] == f"{NIGHT[1:]}ff"
    recolored = api.operate(kept, kind="recolor_swatch", id=palette["swatches"][0]["id"], text="#000000")
    assert recolored["ramps"][0]["strip"][:8] == "000000ff", "stops follow recoloring"
    variant = api.operate(recolored, kind="add_variant", name="Day")
    day = api.operate(variant, kind="recolor_swatch", id=palette["swatches"][0]["id"], text="#ffffff")
    assert day["ramps"][0]["strip"][:8] == "ffffffff"
    night = api.operate(day, kind="show_variant", id=day["variants"][0]["id"])
    assert night["ramps"][0]["strip"][:8] == "000000ff", "and the variant that is shown"
    gone = api.operate(night, kind="delete_swatches", ids=[palette["swatches"][0]["id"]])
    stop = gone["ramps"][0]["ramp"]["stops"][0]
    assert stop["swatch"] is None
    assert stop["color"]["coords"] == [0, 0, 0], "the stop keeps the color that its swatch had"
    assert gone["notes"] == [f"A stop of the ramp “{ramp['name']}” lost its swatch and keeps the color it had."]
    back = api.post(f"/palettes/{palette['id']}/undo", {"base": gone["revision"]})
    assert back["ramps"][0]["ramp"]["stops"][0]["swatch"] == palette["swatches"][0]["id"]
    assert api.get(f"/palettes/{palette['id']}")["ramps"] == back["ramps"], "as it is after a reload"
    copy = api.post(f"/library/palettes/{palette['id']}/duplicate", {}, 201)
    assert [entry["name"] for entry in copy["ramps"]] == [ramp["name"]]


def test_merging_lets_stops_follow_who_took_over(api: Api) -> None:
    palette = api.post("/palettes", {"text": "#101010 #111111 #ffd478"}, 201)
    first, twin, lamp = (swatch["id"] for swatch in palette["swatches"])
    kept = api.operate(palette, kind="keep_ramp", ramp={"stops": [{"swatch": twin}, {"swatch": lamp}]})
    merged = api.operate(kept, kind="merge_near_twins", tolerance=2)
    assert len(merged["swatches"]) == 2
    assert merged["ramps"][0]["ramp"]["stops"][0]["swatch"] == first
    assert merged["notes"] == []


def test_keeping_changing_naming_moving_and_removing_are_steps(api: Api) -> None:
    palette = two(api)
    one = api.operate(palette, kind="keep_ramp", ramp=tied(palette), name="Dusk")
    two_kept = api.operate(one, kind="keep_ramp", ramp=plain(NIGHT, LEAF), after=one["ramps"][0]["id"])
    assert two_kept["ramps"][0]["name"] == "Dusk"
    first, second = (ramp["id"] for ramp in two_kept["ramps"])
    changed = api.operate(two_kept, kind="change_ramp", id=first, ramp=tied(palette, spacing="even"))
    assert changed["ramps"][0]["ramp"]["spacing"] == "even"
    named = api.operate(changed, kind="rename_ramp", id=first, name="Glow", tags=["a", "b"])
    assert (named["ramps"][0]["name"], named["ramps"][0]["tags"]) == ("Glow", ["a", "b"])
    assert "already" in api.operate(named, 422, kind="rename_ramp", id=second, name="Glow")["message"]
    assert "needs a name" in api.operate(named, 422, kind="rename_ramp", id=second, name="  ")["message"]
    moved = api.operate(named, kind="move_ramp", id=second, to=0)
    assert [ramp["id"] for ramp in moved["ramps"]] == [second, first]
    removed = api.operate(moved, kind="remove_ramp", id=first)
    assert [ramp["id"] for ramp in removed["ramps"]] == [second]
    assert api.operate(removed, 404, kind="remove_ramp", id=first)["code"] == "unknown"
    labels = [step["label"] for step in api.get(f"/palettes/{palette['id']}/history")]
    assert any(label.startswith("Remove the ramp “Glow”") for label in labels)
    assert any(label.startswith("Move the ramp") for label in labels)
    stale = api.post(f"/palettes/{palette['id']}/operations", {"base": 1, "operation": {"kind": "remove_ramp", "id": second}}, 409)
    assert stale["current"]["ramps"]


def test_baked_swatches_follow_their_ramp_but_not_those_changed_by_hand(api: Api) -> None:
    palette = two(api)
    kept = api.operate(palette, kind="keep_ramp", ramp=tied(palette), name="Dusk")
    ramp = kept["ramps"][0]["id"]
    assert "Bake it first" in api.operate(kept, 422, kind="bake_again", id=ramp)["message"]
    baked = api.operate(kept, kind="bake_ramp", id=ramp)
    made = baked["swatches"][2:]
    assert (len(made), baked["ramps"][0]["baked"], baked["groups"][-1]["name"]) == (5, 5, "Dusk")
    followed = api.operate(baked, kind="recolor_swatch", id=palette["swatches"][0]["id"], text="#123400")
    wanted = [c.hex for c in plan_of([parse_color("#123400"), parse_color(LAMP)]).ramp(plain_only).baked(5)]
    assert [swatch["hex"] for swatch in followed["swatches"][2:]] == wanted
    assert (followed["ramps"][0]["follows"], followed["ramps"][0]["following"]) == (True, True)
    still = api.operate(followed, kind="follow_ramp", id=ramp, following=False)
    assert not still["ramps"][0]["following"]
    by_hand = api.operate(still, kind="recolor_swatch", id=made[2]["id"], text="#00ff00")
    tie = api.operate(by_hand, kind="recolor_swatch", id=palette["swatches"][0]["id"], text="#7a0000")
    assert (tie["ramps"][0]["follows"], tie["ramps"][0]["by_hand"]) == (False, [made[2]["id"]])
    again = api.operate(tie, kind="bake_again", id=ramp)
    hexes = [swatch["hex"] for swatch in again["swatches"][2:]]
    wanted = [c.hex for c in plan_of([parse_color("#7a0000"), parse_color(LAMP)]).ramp(plain_only).baked(5)]
    assert hexes == [*wanted[:2], "#00ff00", *wanted[3:]]
    assert again["notes"] == [f"1 swatch changed by hand stayed as they are: “{made[2]['name']}”."]
    more = api.operate(again, kind="change_ramp", id=ramp, ramp=tied(palette, steps=7))
    seven = api.operate(more, kind="bake_again", id=ramp)
    assert len(seven["swatches"]) == 9
    assert {swatch["group"] for swatch in seven["swatches"][2:]} == {seven["groups"][-1]["id"]}
    fewer = api.operate(seven, kind="change_ramp", id=ramp, ramp=tied(palette, steps=2))
    three = api.operate(fewer, kind="bake_again", id=ramp)
    assert [swatch["hex"] for swatch in three["swatches"][2:]] == ["#7a0000", LAMP, "#00ff00"], "what was changed by hand stays"


def test_filling_between_swatches_and_empty_places(api: Api) -> None:
    palette = api.post("/palettes", {"text": "#000000 #808080 #ffffff"}, 201)
    ids = [swatch["id"] for swatch in palette["swatches"]]
    filled = api.operate(palette, kind="fill_between", ids=ids, count=3, ramp={"stops": [], "space": "srgb"})
    codes = [swatch["hex"] for swatch in filled["swatches"]]
    assert codes[:5] == ["#000000", "#202020", "#404040", "#606060", "#808080"]
    assert len(codes) == 9
    assert [swatch["id"] for swatch in filled["swatches"][::4]] == ids
    assert "Say how many" in api.operate(filled, 422, kind="fill_between", ids=ids)["message"]
    slots = api.post("/palettes", {"text": "#000000 #ffffff"}, 201)
    slots = api.operate(slots, kind="set_slots", slots=8)
    first, last = (swatch["id"] for swatch in slots["swatches"])
    assert "no empty place between" in api.operate(slots, 422, kind="fill_between", ids=[first, last])["message"]
    apart = api.operate(slots, kind="move_swatches", ids=[last], to=4)
    places = api.operate(apart, kind="fill_between", ids=[first, last], ramp={"stops": [], "space": "srgb"})
    assert [swatch["slot"] for swatch in places["swatches"]] == [0, 1, 2, 3, 4]
    assert [swatch["hex"] for swatch in places["swatches"]] == ["#000000", "#404040", "#808080", "#bfbfbf", "#ffffff"]
    assert "two swatches or more" in api.operate(places, 422, kind="fill_between", ids=[last], count=2)["message"]


def test_a_forty_shade_ramp_is_two_actions(api: Api) -> None:
    palette = api.post("/palettes", {"text": "#000000 #ffd478"}, 201)
    ids = [swatch["id"] for swatch in palette["swatches"]]
    assert len(api.operate(palette, kind="fill_between", ids=ids, count=38)["swatches"]) == 40


def test_checks_mends_makers_and_changes_of_stops(api: Api) -> None:
    palette = two(api)
    bent = plain("#000000", "#ffffff", "#444444", steps=None, purpose="sequential")
    answers = {row["id"]: row for row in ask(api, palette, "/check", {"ramp": bent})["answers"]}
    assert (answers["monotone"]["verdict"], answers["monotone"]["given"]) == ("fails", True)
    assert answers["monotone"]["repair"] == "Straighten the lightness"
    mended = ask(api, palette, "/repair", {"ramp": bent, "promise": "monotone"})["ramp"]
    assert {row["id"]: row["verdict"] for row in ask(api, palette, "/check", {"ramp": mended})["answers"]}["monotone"] == "holds"
    calmed = ask(api, palette, "/repair", {"ramp": bent, "promise": "vision"})["ramp"]
    assert {row["id"]: row["verdict"] for row in ask(api, palette, "/check", {"ramp": calmed})["answers"]}["vision"] == "holds"
    made = ask(api, palette, "/make", {"maker": "diverging", "colors": [palette["swatches"][0]["id"], "#c46a1e"], "steps": 9})[
        "ramps"
    ]
    assert (len(made), made[0]["purpose"], len(made[0]["stops"])) == (1, "diverging", 3)
    both = ask(api, palette, "/make", {"maker": "shading", "colors": [s["id"] for s in palette["swatches"]], "steps": 6})["ramps"]
    for plan, swatch in zip(both, palette["swatches"], strict=True):
        assert [stop["swatch"] for stop in plan["stops"] if stop["swatch"]] == [swatch["id"]], "each goes through its own"
        assert plan["numbers"]
    reversed_ = ask(api, palette, "/edit", {"ramp": both[0], "edit": "reverse"})["ramp"]
    assert reversed_["numbers"] == {}, "what was changed is not made anew"
    baked = api.operate(palette, kind="bake_ramp", ramp=both[0], others=both[1:])
    assert palette["swatches"][0]["hex"] in {s["hex"] for s in baked["swatches"][2:8]}
    assert (len(baked["swatches"]), len(baked["groups"])) == (2 + 12, 2)
    assert "made from 2 colors" in ask(api, palette, "/make", {"maker": "diverging", "colors": ["#fff"]}, 422)["message"]
    ramp = plain(NIGHT, LEAF, LAMP)
    turned = ask(api, palette, "/edit", {"ramp": ramp, "edit": "reverse"})["ramp"]
    assert turned["stops"][0]["color"]["coords"] == list(parse_color(LAMP).coords)
    added = ask(api, palette, "/edit", {"ramp": ramp, "edit": "add", "share": 0.25})["ramp"]
    assert [stop["position"] for stop in added["stops"]] == [0, 0.25, 0.5, 1]
    fewer = ask(api, palette, "/edit", {"ramp": added, "edit": "remove", "place": 1})["ramp"]
    assert len(fewer["stops"]) == 3
    assert len(ask(api, palette, "/edit", {"ramp": ramp, "edit": "duplicate", "place": 1})["ramp"]["stops"]) == 4
    assert "there is none at place 9" in ask(api, palette, "/edit", {"ramp": ramp, "edit": "remove", "place": 9}, 422)["message"]
    assert "There is no change" in ask(api, palette, "/edit", {"ramp": ramp, "edit": "fold"}, 404)["message"]


def test_files_of_a_ramp_and_what_they_keep(api: Api) -> None:
    palette = two(api)
    body = {"ramp": tied(palette, space="oklch", steps=None), "name": "Dusk, “warm”"}
    report = ask(api, palette, "/files/ggr/report", body)
    assert any("2 ties to swatches dropped" in loss["text"] for loss in report["losses"])
    assert report["text"].startswith(f"{FIRST_LINE}\nName: Dusk, “warm”")
    response = ask(api, palette, "/files/ggr", body)
    assert response.content.decode() == report["text"]
    assert "filename*=UTF-8''Dusk%2C%20%E2%80%9Cwarm%E2%80%9D.ggr" in response.headers["Content-Disposition"]
    image = Image.open(io.BytesIO(ask(api, palette, "/files/ramp-png", {**body, "options": {"size": "lookup"}}).content))
    assert image.size == (256, 1)
    assert "holds no ramp" in ask(api, palette, "/files/gpl", body, 422)["message"]
    assert "has no option" in ask(api, palette, "/files/ggr", {**body, "options": {"x": "y"}}, 422)["message"]
    assert "is no choice" in ask(api, palette, "/files/ramp-png/report", {**body, "options": {"size": "y"}}, 422)["message"]


def test_a_dithered_lane_has_the_colors_of_the_strip(api: Api) -> None:
    palette = two(api)
    response = ask(api, palette, "/dithered", {"ramp": tied(palette), "dither": "floyd-steinberg"})
    colors = np.asarray(Image.open(io.BytesIO(response.content)).convert("RGB")).reshape(-1, 3)
    assert {tuple(row) for row in np.unique(colors, axis=0).tolist()} == {parse_color(NIGHT).bytes[:3], parse_color(LAMP).bytes[:3]}
    empty = api.post("/palettes", {"name": "Empty"}, 201)
    assert "no swatch to dither with" in ask(api, empty, "/dithered", {"ramp": plain(NIGHT, LAMP), "dither": "none"}, 422)["message"]
    assert ask(api, palette, "/dithered", {"ramp": tied(palette), "dither": "sparkle"}, 404)["code"] == "unknown"


def test_a_ramp_is_read_from_a_picture_of_ones_own_and_from_no_other(api: Api, other: Api) -> None:
    row = plan_of([parse_color(NIGHT), parse_color(LAMP)]).ramp(plain_only).shown(np.linspace(0, 1, 200))[0]
    picture = np.full((20, 200, 4), 255, np.uint8)
    picture[..., :3] = np.floor(row * 255 + 0.5)
    palette = two(api)
    mine = api.upload(png(picture))
    body = {"picture": mine["id"], "line": [0, 0.5, 1, 0.5], "tolerance": 1}
    found = ask(api, palette, "/fit", body)
    assert (len(found["ramp"]["stops"]), found["fewest"]) == (2, True)
    assert found["worst"] <= 1
    assert "no length" in ask(api, palette, "/fit", {**body, "line": [0.5, 0.5, 0.5, 0.5]}, 422)["message"]
    theirs = other.upload(png(picture))
    assert ask(api, palette, "/fit", {**body, "picture": theirs["id"]}, 404)["code"] == "unknown"


def test_a_toned_picture_is_kept_and_delivered(api: Api) -> None:
    palette = api.bench(colors=6)
    picture = palette["links"][0]["picture"]["id"]
    codes = [c.hex for c in plan_of([parse_color(NIGHT), parse_color(LAMP)]).ramp(plain_only).baked(5)]
    tone = plain(NIGHT, LAMP)
    recipe = {"chooser": "fixed-list", "listed": codes, "colors": 5, "tone": tone}
    toned = api.post(f"/palettes/{palette['id']}/reductions", {"base": palette["revision"], "picture": picture, "recipe": recipe})
    assert {swatch["hex"] for swatch in toned["swatches"]} == set(codes)
    assert toned["links"][0]["recipe"]["tone"]["stops"][0]["text"] == NIGHT
    assert "toned by a ramp of 5 steps" in toned["label"]
    file = api.get(f"/palettes/{palette['id']}/files/indexed-png", picture=picture)
    shown = np.asarray(Image.open(io.BytesIO(file.content)).convert("RGB")).reshape(-1, 3)
    assert {"#{:02x}{:02x}{:02x}".format(*row) for row in np.unique(shown, axis=0).tolist()} <= set(codes)
    again = api.get(f"/palettes/{palette['id']}")
    assert again["links"][0]["recipe"]["tone"] == toned["links"][0]["recipe"]["tone"]


def test_the_shelf_shows_kept_ramps_and_another_palette_takes_one(api: Api, other: Api) -> None:
    palette = two(api)
    kept = api.operate(palette, kind="keep_ramp", ramp=tied(palette), name="Dusk", tags=["glow"])
    (card,) = api.shelf(q="near #ffd478 within 100")["ramps"]
    assert (card["name"], card["tags"], card["palette"], card["palette_name"]) == ("Dusk", ["glow"], palette["id"], kept["name"])
    assert card["near"] == 0
    assert card["strip"] == kept["ramps"][0]["strip"]
    assert other.shelf()["ramps"] == []
    target = api.post("/palettes", {"text": "#00ff00"}, 201)
    for along, swatches in ((False, 1), (True, 3)):
        taken = api.get(f"/palettes/{palette['id']}/ramps/{card['id']}/document", tied=along)
        assert len(taken["swatches"]) == (2 if along else 0)
        target = api.operate(target, kind="bring_in", document=taken["document"], source="Dusk", how="append")
        assert len(target["swatches"]) == swatches
    names = [ramp["name"] for ramp in target["ramps"]]
    assert len(set(names)) == 2
    assert [bool(ramp["ramp"]["stops"][0]["swatch"]) for ramp in target["ramps"]] == [False, True]
    assert target["label"].startswith("Append the ramp with 2 swatches")
    assert {entry["palette"] for entry in api.shelf()["ramps"]} == {palette["id"], target["id"]}
    api.client.delete(f"/api/palettes/{palette['id']}")
    assert {entry["palette"] for entry in api.shelf()["ramps"]} == {target["id"]}, "those of the trash are not shown"


def test_files_with_ramps_are_looked_into_and_brought_in(api: Api) -> None:
    from django.core.files.uploadedfile import SimpleUploadedFile

    palette = two(api)
    body = {"ramp": tied(palette, steps=None), "name": "Dusk"}
    data = ask(api, palette, "/files/ggr", body).content
    found = api.client.post("/api/imports", {"file": SimpleUploadedFile("dusk.ggr", data)}).json()
    reading = found["readings"][0]
    assert [ramp["name"] for ramp in reading["ramps"]] == ["Dusk"]
    document = reading["document"] | {"swatches": []}
    made = api.post("/palettes", {"document": document, "source": "dusk.ggr", "name": "Ramps alone"}, 201)
    assert (len(made["swatches"]), len(made["ramps"])) == (0, 1)
    palette_from_document(api.get(f"/palettes/{made['id']}/document")["document"])


def test_ramps_travel_with_the_whole_library(api: Api, other: Api) -> None:
    palette = two(api)
    kept = api.operate(palette, kind="keep_ramp", ramp=tied(palette, curve="natural"), name="Dusk")
    archive = b"".join(api.client.get("/api/library/archive").streaming_content)  # type: ignore[attr-defined]
    from django.core.files.uploadedfile import SimpleUploadedFile

    response = other.client.post("/api/library/archive", {"file": SimpleUploadedFile("library.zip", archive)})
    assert response.status_code == 200, response.content
    (card,) = other.shelf()["ramps"]
    there = other.get(f"/palettes/{card['palette']}")
    assert there["ramps"][0]["ramp"] == kept["ramps"][0]["ramp"]


@pytest.mark.parametrize("count", [200, 201])
def test_a_palette_keeps_so_many_ramps(api: Api, count: int) -> None:
    ramp = {"plan": {"stops": [{"color": {"space": "srgb", "coords": [0, 0, 0]}}, {"color": {"space": "srgb", "coords": [1, 1, 1]}}]}}
    document = {"swatches": [], "ramps": [{"id": f"r{n}", "name": f"R{n}", **ramp} for n in range(count)]}
    answer = api.post("/palettes", {"document": document, "source": "x.json"}, 201 if count == 200 else 422)
    assert len(answer["ramps"]) == 200 if count == 200 else "at most 200" in answer["message"]
