"""Checks and lenses through the API: verdicts, drafts, live colors, limits that are kept, files that no lens touches."""

import base64
import io
import json
import zipfile
from typing import Any

import numpy as np
import pytest
from PIL import Image

from huvren.core.checks import CHECKS
from huvren.core.lenses import LENSES
from huvren.core.palette.document import palette_from_document
from huvren.studio.services.bench.checks import touching_of
from huvren.studio.services.shelf import limit_sets
from huvren.studio.services.shelf.palettes import get_state
from tests.pictures import opaque, png
from tests.server.conftest import Api
from tests.server.stored import document_of, rewrite

MUDDY = "#8a8f6a #a39a78 #7d8a92 #b0a58c"


def typed(api: Api, text: str = MUDDY) -> Any:
    return api.post("/palettes", {"text": text}, 201)


def ask(api: Api, palette: Any, status: int = 200, **body: Any) -> Any:
    return api.post(f"/palettes/{palette['id']}/checks", body, status)


def verdict(answer: Any, check: str) -> str:
    return next(str(report["verdict"]) for report in answer["reports"] if report["id"] == check)


def test_every_registered_check_and_lens_is_in_the_menus(api: Api) -> None:
    menus = api.get("/menus/checks")
    assert [entry["id"] for entry in menus["checks"]] == list(CHECKS.ids())
    assert [entry["id"] for entry in menus["lenses"]] == list(LENSES.ids())
    for entry in menus["checks"]:
        example = api.get(f"/menus/checks/{entry['id']}")
        assert example["drawing"]["shapes"]
        assert example["sentence"]
    assert "There is no check" in api.get("/menus/checks/tone", 404)["message"]


def test_a_mend_is_tried_out_made_and_undone(api: Api) -> None:
    palette = typed(api)
    answer = ask(api, palette, open="text")
    assert [report["id"] for report in answer["reports"]] == list(CHECKS.ids())
    assert verdict(answer, "text") == "fails"
    (text,) = [report for report in answer["reports"] if report["id"] == "text"]
    named = {swatch for part in text["parts"] for swatch in part["ids"]}
    assert len(named) == 2
    assert answer["open"]["drawing"]["caption"]
    mend = answer["open"]["mends"][0]["operation"]
    tried = ask(api, palette, open="text", operation=mend)
    assert verdict(tried, "text") == "holds"
    assert verdict(ask(api, palette), "text") == "fails", "nothing was stored"
    mended = api.operate(palette, **mend)
    assert verdict(ask(api, palette), "text") == "holds"
    api.post(f"/palettes/{palette['id']}/undo", {"base": mended["revision"]})
    assert verdict(ask(api, palette), "text") == "fails"


def test_verdicts_follow_a_color_that_is_dragged(api: Api) -> None:
    palette = typed(api)
    first = palette["swatches"][0]["id"]
    assert verdict(ask(api, palette, colors={first: "oklch(0.2 0.02 260)"}, only=["text"]), "text") == "holds"
    assert verdict(ask(api, palette, only=["text"]), "text") == "fails"
    assert "is no color" in ask(api, palette, 422, colors={first: "blurple"})["message"]


def test_limits_are_kept_with_the_palette_and_go_to_another(api: Api) -> None:
    palette, second = typed(api, "#777777 #ffffff"), typed(api, "#777777 #fefefe")
    assert verdict(ask(api, palette), "text") == "look"
    tried = ask(api, palette, limits={"text": {"low": 4}})
    assert verdict(tried, "text") == "holds"
    kept = api.operate(palette, kind="set_limits", limits={"text": {"low": 4, "high": 21}, "eyes": {"severity": 100}})
    assert kept["limits"] == {"text": {"low": 4.0}}, "what is usual is not kept"
    assert verdict(ask(api, palette), "text") == "holds"
    assert kept["label"] == "Set the limits of checks"
    named = api.post("/limits", {"name": " Gallery  wall ", "limits": kept["limits"]}, 201)
    assert named["name"] == "Gallery wall"
    assert api.get("/limits") == [named]
    again = api.post("/limits", {"name": "Gallery wall", "limits": {"text": {"low": 4}, "eyes": {"apart": 12}}}, 201)
    assert again["id"] == named["id"], "one of the same name is replaced"
    taken = api.operate(second, kind="set_limits", limits=again["limits"], source=again["name"])
    assert taken["label"] == "Check by the limits “Gallery wall”"
    assert verdict(ask(api, second), "text") == "holds"
    back = api.post(f"/palettes/{second['id']}/undo", {"base": taken["revision"]})
    assert back["limits"] == {}
    document = api.get(f"/palettes/{palette['id']}/document")["document"]
    assert palette_from_document(document).limits == (("text", (("low", 4.0),)),)
    api.client.delete(f"/api/limits/{named['id']}")
    assert api.get("/limits") == []
    for limits, words in (
        ({"tone": {}}, "There is no check"), ({"text": {"low": 99}}, "is 1 to 21"), ({"text": {"glow": 1}}, "has no limit"),
        ({"charts": {"ground": "blurple"}}, "is no color"),
    ):  # fmt: skip
        status = 404 if "no check" in words else 422
        assert words in api.operate(kept, status, kind="set_limits", limits=limits)["message"]
        assert words in api.post("/limits", {"name": "x", "limits": limits}, status)["message"]
        assert words in ask(api, palette, status, limits=limits)["message"]
    assert "needs a name" in api.post("/limits", {"name": " ", "limits": {}}, 422)["message"]


def test_named_limits_travel_in_an_archive_and_are_not_without_end(api: Api, other: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    api.post("/limits", {"name": "House", "limits": {"text": {"low": 7}}}, 201)
    data = b"".join(api.client.get("/api/library/archive").streaming_content)  # type: ignore[attr-defined]
    library = json.loads(zipfile.ZipFile(io.BytesIO(data)).read("library.json"))
    assert library["limits"] == [{"name": "House", "limits": {"text": {"low": 7.0}}}]
    response = other.client.post("/api/library/archive", {"file": io.BytesIO(data)})
    assert response.status_code in (200, 201), response.content
    assert [entry["name"] for entry in other.get("/limits")] == ["House"]
    monkeypatch.setattr(limit_sets, "MOST_KEPT", 1)
    assert "already" in api.post("/limits", {"name": "Second", "limits": {}}, 422)["message"]
    api.post("/limits", {"name": "House", "limits": {}}, 201)


def test_house_rules_refer_to_a_palette_that_may_go_or_be_somebody_elses(api: Api, other: Api) -> None:
    palette, rules, theirs = typed(api), typed(api, "#8a8f6a #000000"), typed(other)
    limits = {"rules": {"reference": rules["id"]}}
    answer = ask(api, palette, limits=limits, only=["rules"])
    assert verdict(answer, "rules") == "fails"
    assert "1 of 2 colors" in "".join(part["text"] for part in answer["reports"][0]["parts"])
    api.client.delete(f"/api/palettes/{rules['id']}")
    for gone in (rules["id"], theirs["id"], "no id"):
        answer = ask(api, palette, limits={"rules": {"reference": gone}}, only=["rules"])
        assert "no longer on the shelf" in answer["reports"][0]["parts"][0]["text"]
        ask(api, palette, open="balance", views={"beside": gone})
    assert "short text" in ask(api, palette, 422, limits={"rules": {"reference": "x" * 300}})["message"]


def test_limits_of_a_check_that_is_gone_are_said_and_kept(api: Api) -> None:
    palette = typed(api)
    state = get_state(api.user, palette["id"])
    limits = {"tone": {"loud": 3}, "text": {"low": 7}, "eyes": {"severity": 400}}
    rewrite(state.revision, document=document_of(state.revision) | {"limits": limits})
    answer = ask(api, palette)
    assert any("There is no check “tone”" in note for note in answer["notes"])
    assert any("400 was given" in note for note in answer["notes"])
    assert ", to 7 on " in ask(api, palette, open="text")["open"]["mends"][0]["label"], "what can be gone by is gone by"
    named = api.operate(palette, kind="rename_palette", name="Still there")
    assert named["limits"]["tone"] == {"loud": 3.0}, "the next step keeps what it does not know"


def test_what_touches_in_the_picture_is_counted_in_its_index_maps(api: Api) -> None:
    rgb = np.zeros((8, 12, 3), np.uint8)
    rgb[:, 4:8] = (176, 72, 58)
    rgb[:, 8:] = (63, 127, 74)
    picture = api.upload(png(opaque(rgb)))
    palette = api.post("/palettes", {"picture": picture["id"], "recipe": {"colors": 3}}, 201)
    by_color = {swatch["hex"]: swatch["id"] for swatch in palette["swatches"]}
    red, green, black = by_color["#b0483a"], by_color["#3f7f4a"], by_color["#000000"]
    found = touching_of(get_state(api.user, palette["id"]).links)
    assert found == {tuple(sorted((black, red))): 8, tuple(sorted((red, green))): 8}
    answer = ask(api, palette, open="value")
    sentence = "".join(part["text"] for part in next(r for r in answer["reports"] if r["id"] == "value")["parts"])
    assert "50 % of the borders in the picture" in sentence
    merged = api.operate(palette, kind="merge_swatches", ids=[red, black])
    assert len(touching_of(get_state(api.user, palette["id"]).links)) == 1, "what is one swatch has no border"
    assert merged["links"]
    mixtures = next(r for r in ask(api, palette)["reports"] if r["id"] == "mixtures")
    assert mixtures["verdict"] in {"holds", "look"}


def test_lenses_see_colors_and_pictures_and_change_no_file(api: Api) -> None:
    seen = api.post("/lenses/deutan/see", {"colors": "c83c142bb5a0", "amount": 80})["colors"]
    lens = LENSES["deutan"]
    wanted = lens.through_bytes(np.array([[200, 60, 20], [43, 181, 160]], np.uint8), 80)
    assert bytes.fromhex(seen) == wanted.tobytes()
    assert api.post("/lenses/lightness/see", {"colors": ""})["colors"] == ""
    for body, status, words in (
        ({"colors": "12345"}, 422, "six digits"), ({"colors": "zz"}, 422, "colors"),
        ({"colors": "123456", "amount": 300}, 422, "0 to 100"),
    ):  # fmt: skip
        assert words in api.post("/lenses/deutan/see", body, status)["message"]
    assert "There is no lens" in api.post("/lenses/sepia/see", {"colors": ""}, 404)["message"]
    palette = api.bench()
    picture = palette["links"][0]["picture"]["id"]
    before = api.client.get(f"/api/palettes/{palette['id']}/files/indexed-png").content
    shown = api.client.get(f"/api/pictures/{picture}/seen", {"lens": "lightness"})
    rgba = np.asarray(Image.open(io.BytesIO(shown.content)).convert("RGBA"))
    assert (rgba[..., 0] == rgba[..., 1]).all()
    own = np.asarray(Image.open(io.BytesIO(api.client.get(f"/api/pictures/{picture}/image").content)).convert("RGB"))
    assert (rgba[..., :3] == LENSES["lightness"].through_bytes(own)).all()
    assert api.client.get(f"/api/palettes/{palette['id']}/files/indexed-png").content == before
    assert "is no amount" in api.client.get(f"/api/pictures/{picture}/seen", {"lens": "deutan:x"}).json()["message"]


def test_a_drawing_carries_its_images_and_its_handle(api: Api) -> None:
    palette = typed(api, "#2a1610 #8a3c14 #c8641e #ffd478")
    answer = ask(api, palette, open="forms", views={"light": 200})
    drawing = answer["open"]["drawing"]
    assert drawing["handle"]["view"] == "light"
    images = [shape for shape in drawing["shapes"] if shape["kind"] == "image"]
    assert len(images) == 4
    indices = np.frombuffer(base64.b64decode(images[0]["pixels"]), np.uint8)
    assert len(indices) % images[0]["across"] == 0
    assert set(np.unique(indices)) <= {*range(len(images[0]["table"])), 255}
    other = ask(api, palette, open="forms", views={"light": 20})["open"]["drawing"]
    assert [s["pixels"] for s in other["shapes"]] != [s["pixels"] for s in drawing["shapes"]]
    assert "has no limit" in ask(api, palette, 422, open="forms", views={"dark": 1})["message"]


def test_a_review_is_one_page_that_fetches_nothing(api: Api) -> None:
    palette = api.post("/palettes", {"text": MUDDY, "name": "<Night> & day"}, 201)
    response = api.client.get(f"/api/palettes/{palette['id']}/review")
    page = response.content.decode()
    assert response.headers["Content-Disposition"].startswith("attachment")
    assert "&lt;Night&gt; &amp; day" in page
    assert "<Night>" not in page
    for check in CHECKS:
        assert check.question in page
    assert page.count("<svg") == len(CHECKS)
    links = {piece.split('"')[0] for mark in ('href="', 'src="', "url(") for piece in page.split(mark)[1:]}
    assert all(link.startswith(("#", "data:image/png")) for link in links)
    assert "<script" not in page
