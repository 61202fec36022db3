"""The shelf over HTTP: favorites, copies, nearness to a color, and the archive out and in."""

import io
import json
import zipfile
from pathlib import Path
from typing import Any

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from huvren.core.stored import LIBRARY
from huvren.studio.models import Picture
from tests.pictures import painted, png
from tests.server.conftest import Api


def archive_of(api: Api) -> bytes:
    response = api.client.get("/api/library/archive")
    assert response.status_code == 200
    return b"".join(response.streaming_content)


def take(api: Api, data: bytes, status: int = 200) -> Any:
    response = api.client.post("/api/library/archive", {"file": SimpleUploadedFile("library.zip", data)})
    assert response.status_code == status, response.content[:400]
    return response.json()


def favor(api: Api, kind: str, object_id: str, favorite: bool = True) -> int:
    path = f"/api/library/{kind}/{object_id}/favorite"
    return int(api.client.put(path, {"favorite": favorite}, content_type="application/json").status_code)


def test_favorites_are_of_the_owner(api: Api, other: Api) -> None:
    palette = api.bench()
    picture = palette["links"][0]["picture"]["id"]
    assert favor(api, "palettes", palette["id"]) == 204
    assert favor(api, "pictures", picture) == 204
    shelf = api.shelf()
    assert [card["favorite"] for card in (*shelf["palettes"], *shelf["pictures"])] == [True, True]
    assert favor(other, "palettes", palette["id"]) == 404
    assert favor(api, "recipes", palette["id"]) == 404
    favor(api, "palettes", palette["id"], False)
    assert api.shelf()["palettes"][0]["favorite"] is False
    assert api.get(f"/palettes/{palette['id']}")["revision"] == palette["revision"], "that is no step"


def test_a_duplicate_is_a_palette_of_its_own(api: Api, other: Api) -> None:
    palette = api.operate(api.bench(), kind="tag_palette", tags=["press"])
    copy = api.post(f"/library/palettes/{palette['id']}/duplicate", status=201)
    again = api.post(f"/library/palettes/{palette['id']}/duplicate", status=201)
    assert (copy["name"], again["name"]) == ("plate copy", "plate copy 2")
    assert copy["label"] == "Duplicate of “plate”"
    assert (copy["tags"], copy["revision"], copy["can_undo"]) == (["press"], 1, False)
    assert copy["swatches"] == palette["swatches"]
    assert copy["links"][0]["maps"][0] == palette["links"][0]["maps"][0]
    changed = api.operate(copy, kind="recolor_swatch", id=copy["swatches"][0]["id"], text="#010203")
    assert changed["swatches"][0]["hex"] == "#010203"
    assert api.get(f"/palettes/{palette['id']}") == palette
    other.post(f"/library/palettes/{palette['id']}/duplicate", status=404)


def test_the_shelf_says_how_near_each_palette_is_to_a_color(api: Api) -> None:
    for name, text in (("Browns", "#c48a3a #604020"), ("Blues", "#102040 #c48a3b00"), ("Empty", "")):
        api.post("/palettes", {"name": name, **({"text": text} if text else {})}, 201)
    near = {card["name"]: card["near"] for card in api.shelf(q="near #c48a3a within 100")["palettes"]}
    assert list(near) == ["Browns", "Blues"], "the nearest first; without a color there is nothing to be near to"
    assert near["Browns"] == 0
    assert near["Blues"] > 30, "a clear swatch has no color to be near to"
    assert len(api.shelf(q="near #c48a3a")["palettes"]) == 1, "so near as two colors are still like each other"
    assert {card["near"] for card in api.shelf()["palettes"]} == {None}
    assert "is no color" in api.get("/shelf/palettes", 422, q="near #12")["message"]


def full_shelf(api: Api) -> Any:
    palette = api.bench(colors=7, dither="burkes")
    palette = api.operate(palette, kind="lock_swatches", ids=[palette["swatches"][0]["id"]], locked=True)
    palette = api.operate(palette, kind="add_variant", name="Night", first_name="Day")
    palette = api.operate(palette, kind="set_slots", slots=12)
    picture = palette["links"][0]["picture"]["id"]
    api.client.put(f"/api/pictures/{picture}/proofs", {"recipes": [{"colors": 4}]}, content_type="application/json")
    favor(api, "pictures", picture)
    api.post("/palettes", {"name": "Typed", "text": "#102030 oklch(0.7 0.3 150)"}, 201)
    api.post("/recipes", {"name": "Short", "recipe": {"colors": 6}}, 201)
    return palette


def test_a_library_goes_elsewhere_whole_and_twice_makes_no_doubles(api: Api, other: Api) -> None:
    palette = full_shelf(api)
    data = archive_of(api)
    assert take(other, data) == {"palettes": 2, "pictures": 1, "recipes": 1, "known": 0}
    (card,) = [card for card in other.shelf()["palettes"] if card["name"] == "plate"]
    there = other.get(f"/palettes/{card['id']}")
    for field in ("swatches", "groups", "slots", "variants", "variant", "tags"):
        assert there[field] == palette[field]
    assert there["links"][0]["recipe"] == palette["links"][0]["recipe"]
    maps = [
        artist.get(f"/palettes/{p['id']}/maps/{p['links'][0]['maps'][0]}").content for artist, p in ((api, palette), (other, there))
    ]
    assert maps[0] == maps[1]
    assert (
        other.get(f"/palettes/{card['id']}/files/indexed-png", picture=there["links"][0]["picture"]["id"]).content
        == api.get(f"/palettes/{palette['id']}/files/indexed-png", picture=palette["links"][0]["picture"]["id"]).content
    )
    assert other.get(f"/pictures/{there['links'][0]['picture']['id']}/proofs")["recipes"][0]["colors"] == 4
    assert take(other, data) == {"palettes": 0, "pictures": 0, "recipes": 0, "known": 3}
    assert take(api, data) == {"palettes": 0, "pictures": 0, "recipes": 0, "known": 3}
    assert len(other.shelf()["palettes"]) == 2
    renamed = other.operate(there, kind="rename_palette", name="Mine by now")
    assert take(other, data)["palettes"] == 1, "a palette changed since comes beside it, and nothing of it is overwritten"
    assert other.get(f"/palettes/{there['id']}") == renamed


def rewritten(data: bytes, change: Any) -> bytes:
    """The archive with other contents: `change` is given the table of contents with the steps of each palette in it."""
    source = zipfile.ZipFile(io.BytesIO(data))
    library = json.loads(source.read("library.json"))
    for entry in library["palettes"]:
        entry["revisions"] = [json.loads(line) for line in source.read(f"palettes/{entry['id']}.jsonl").splitlines()]
    change(library)
    target = io.BytesIO()
    with zipfile.ZipFile(target, "w") as archive:
        for name in source.namelist():
            if name.startswith(("pictures/", "maps/")):
                archive.writestr(name, source.read(name))
        for entry in library["palettes"] if isinstance(library["palettes"], list) else []:
            lines = "".join(json.dumps(step) + "\n" for step in entry.pop("revisions"))
            archive.writestr(f"palettes/{entry['id']}.jsonl", lines)
        archive.writestr("library.json", json.dumps(library))
    return target.getvalue()


def first(library: Any) -> Any:
    """The first step of the first palette."""
    return library["palettes"][0]["revisions"][0]


def linked(library: Any) -> Any:
    """The link of the last step of the palette that has one."""
    return library["palettes"][-1]["revisions"][-1]["links"][0]


def numbered(number: int) -> Any:
    """The first palette's only step gets another number."""

    def change(library: Any) -> None:
        first(library)["number"] = library["palettes"][0]["head"] = number

    return change


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (lambda library: library.update(format="other"), "no library archive"),
        (lambda library: library.update(version=LIBRARY.version + 1), "made by a newer version"),
        (lambda library: first(library)["document"].pop("swatches"), "'swatches' is missing"),
        (
            lambda library: linked(library)["table"].__setitem__(0, "nobody"),
            "does not fit its palette",
        ),
        (lambda library: linked(library).update(width=3), "does not fit the picture"),
        (lambda library: library["pictures"][0].update(id="../../etc/passwd", sha256="0"), "cannot be understood"),
        (lambda library: library["palettes"][0].update(head=7), "a history with a gap"),
        (lambda library: first(library).update(parent=7), "a history with a gap"),
        (lambda library: library.update(glow=1), "“glow” is unknown here"),
        (
            lambda library: first(library).update(number=10**12) or library["palettes"][0].update(head=10**12),
            "damaged",
        ),
        (
            lambda library: first(library).update(number=-3) or library["palettes"][0].update(head=-3),
            "damaged",
        ),
        (lambda library: first(library).update(label="a\x00b"), "damaged"),
        (lambda library: first(library)["document"].update(version=99), "newer Huvren"),
        (
            lambda library: first(library)["document"]["swatches"][0].update(shine=1),
            "“shine” is unknown here",
        ),
        (lambda library: library["palettes"][0].update(id="x"), "valid UUID"),
        (lambda library: library["pictures"][0].update(proofs=[{"dither": "sparkle"}]), "There is no dither “sparkle”"),
        (lambda library: linked(library)["frames"][0].update(map="x"), "damaged"),
        (lambda library: linked(library).update(frames=[]), "at least 1 item"),
        (
            lambda library: linked(library)["frames"][0]["counts"].append(1),
            "do not fit the table",
        ),
        (lambda library: linked(library).update(picture="x"), "damaged"),
        (lambda library: library.update(palettes={"a": 1}), "valid list"),
        (lambda library: library["recipes"].append({"name": "x", "recipe": {"colors": 9999}}), "damaged"),
    ],
)
def test_a_damaged_archive_brings_nothing(api: Api, other: Api, change: Any, words: str) -> None:
    api.post("/palettes", {"name": "Typed", "text": "#102030"}, 201)
    api.bench()
    api.post("/recipes", {"name": "Short", "recipe": {"colors": 6}}, 201)

    def last_has_links(library: Any) -> None:
        library["palettes"].sort(key=lambda entry: len(entry["revisions"][-1]["links"]))
        change(library)

    data = rewritten(archive_of(api), last_has_links)
    assert words in take(other, data, 422)["message"]
    shelf = other.shelf()
    assert (shelf["palettes"], shelf["pictures"], other.get("/recipes")) == ([], [], [])
    assert Picture.objects.filter(owner=other.user).count() == 0


def test_the_whole_history_goes_along_and_can_be_walked(api: Api, other: Api) -> None:
    palette = full_shelf(api)
    steps = api.get(f"/palettes/{palette['id']}/history")
    take(other, archive_of(api))
    (card,) = [card for card in other.shelf()["palettes"] if card["name"] == "plate"]
    assert other.get(f"/palettes/{card['id']}/history") == steps, "numbers, parents, labels and times"
    here, there = palette, other.get(f"/palettes/{card['id']}")
    for _ in steps[1:]:
        here, there = (
            artist.post(f"/palettes/{p['id']}/undo", {"base": p["revision"]}) for artist, p in ((api, here), (other, there))
        )
        assert (there["swatches"], there["slots"], there["revision"]) == (here["swatches"], here["slots"], here["revision"])
        maps = [
            artist.get(f"/palettes/{p['id']}/maps/{p['links'][0]['maps'][0]}").content for artist, p in ((api, here), (other, there))
        ]
        assert maps[0] == maps[1]
    assert there["can_undo"] is False
    redone = other.post(f"/palettes/{there['id']}/redo", {"base": there["revision"]})
    assert redone["label"] == steps[-2]["label"]


def test_an_archive_of_before_histories_comes_in(api: Api) -> None:
    data = (Path(__file__).parent / "samples" / "library-v1.zip").read_bytes()
    assert take(api, data) == {"palettes": 2, "pictures": 1, "recipes": 1, "known": 0}
    (card,) = [card for card in api.shelf()["palettes"] if card["name"] == "plate"]
    palette = api.get(f"/palettes/{card['id']}")
    assert (palette["label"], palette["revision"], palette["not_understood"]) == ("Bring in from an archive", 1, [])
    assert palette["links"][0]["recipe"]["dither"] == "burkes"
    pixels = api.get(f"/palettes/{palette['id']}/maps/{palette['links'][0]['maps'][0]}").content
    assert len(pixels) == palette["links"][0]["width"] * palette["links"][0]["height"]


def test_what_is_no_archive_is_told(api: Api) -> None:
    for data in (b"", b"hello", png(painted(10, 10)), archive_of(api)[:-30]):
        assert "no library archive" in take(api, data, 422)["message"]


def test_palettes_are_found_by_the_names_of_their_swatches(api: Api, other: Api) -> None:
    gold = api.post("/palettes", {"text": "Gold size #c9a227\nUmber #8a3324", "name": "One"}, 201)
    api.post("/palettes", {"text": "Size #111111", "name": "Two"}, 201)
    other.post("/palettes", {"text": "Gold size #c9a227", "name": "Theirs"}, 201)

    def holding(*searches: str, trash: bool = False) -> list[int]:
        return [len(api.shelf(q=search, trash=trash)["palettes"]) for search in searches]

    assert holding("GOLD", "size", "nothing", "%", " ", "_", "gold size", '"gold size"', '"size gold"') == [1, 2, 0, 0, 2, 0, 1, 1, 0]
    renamed = api.operate(gold, kind="rename_swatch", id=gold["swatches"][0]["id"], name="Leaf ☘ 50 %")
    assert holding("gold", "☘", '"50 %"', "leaf one") == [0, 1, 1, 1]
    api.post(f"/palettes/{renamed['id']}/undo", {"base": renamed["revision"]})
    assert holding("gold") == [1]
    api.client.delete(f"/api/palettes/{gold['id']}")
    assert holding("gold") == [0]
    assert holding("gold", trash=True) == [1]
