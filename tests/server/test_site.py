"""The site around the API: signing in, headers, the schema snapshot, the demo."""

import gzip
import json
import re
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest
from django.contrib.auth import get_user_model
from django.core.management import call_command
from django.test import Client

from huvren.core.formats import FORMATS
from huvren.core.palette.operations.every import OPERATIONS
from huvren.core.ramp.curves import CURVES
from huvren.core.ramp.easings import EASINGS
from huvren.core.ramp.editing import EDITS
from huvren.core.ramp.makers import MAKERS
from huvren.core.ramp.starting import STARTING
from huvren.core.ramp.ways import lanes
from huvren.core.reduction.choosers import CHOOSERS
from huvren.core.reduction.dithers import DITHERS
from huvren.studio.models import IndexMap, Palette, Picture
from tests.server.conftest import Api
from tests.server.stored import document_of, links_of
from tools import schema
from tools.steps import ROOT


def test_the_checked_in_schema_is_that_of_the_code() -> None:
    assert schema.PATH.read_text(encoding="utf-8") == schema.render(), "Run ./run schema and commit what it writes."


def test_the_typescript_types_are_made_from_the_schema() -> None:
    types = (ROOT / "web" / "src" / "api" / "schema.d.ts").read_text()
    for entry in OPERATIONS:
        assert f'kind: "{entry.id}"' in types, "Run ./run schema and commit what it writes."
    for path in ("previews/size", "files/{format_id}/report", "colors/plane"):
        assert path in types


def test_menus_list_what_is_registered(api: Api) -> None:
    menus = api.get("/menus")
    assert [entry["id"] for entry in menus["dithers"]] == list(DITHERS.ids())
    assert [entry["id"] for entry in menus["choosers"]] == list(CHOOSERS.ids())
    ramps = api.get("/menus/ramps")
    shown = [entry["id"] for menu in (menus, ramps) for entry in menu["formats"]]
    assert set(shown) == {entry.id for entry in FORMATS if entry.write}, "each format is in one menu or the other, cpt in both"
    assert [entry["id"] for entry in ramps["makers"]] == list(MAKERS.ids())
    assert [entry["id"] for entry in ramps["starting"]] == list(STARTING.ids())
    assert [entry["id"] for entry in ramps["lanes"]] == [lane.id for lane in lanes()]
    for name, registry in (("curves", CURVES), ("easings", EASINGS), ("edits", EDITS)):
        assert [entry["id"] for entry in ramps[name]] == list(registry.ids())  # type: ignore[attr-defined]
    assert [entry["id"] for entry in menus["operations"]] == list(OPERATIONS.ids())


@pytest.mark.django_db
def test_without_the_demo_one_has_to_sign_in(client: Client) -> None:
    page = client.get("/palettes/anything")
    assert page.status_code == 302
    assert page.headers["Location"].startswith("/sign-in?next=")
    answer = client.get("/api/shelf/palettes")
    assert (answer.status_code, answer.json()["code"]) == (401, "signed_out")
    form = client.get("/sign-in")
    assert b"Password" in form.content
    get_user_model().objects.create_user("cy", password="a long enough word")
    wrong = client.post("/sign-in", {"username": "cy", "password": "no"})
    assert b"do not belong together" in wrong.content
    right = client.post("/sign-in", {"username": "cy", "password": "a long enough word", "next": "/"})
    assert right.headers["Location"] == "/"
    assert client.get("/api/session").json()["user"] == "cy"


@pytest.mark.django_db
def test_the_demo_signs_in_only_visitors_from_this_machine(client: Client, settings: Any) -> None:
    settings.DEMO = True
    settings.ALLOWED_HOSTS = ["*"]
    get_user_model().objects.create_user("demo")
    assert Client().get("/api/session", REMOTE_ADDR="192.0.2.7").status_code == 401
    assert Client().get("/api/session", headers={"host": "example.org"}).status_code == 401
    assert Client().get("/api/session", headers={"host": "127.0.0.1:8420"}).json()["user"] == "demo"


@pytest.mark.django_db
def test_changes_need_the_csrf_token(api: Api) -> None:
    strict = Client(enforce_csrf_checks=True)
    strict.force_login(api.user)
    answer = strict.post("/api/palettes", "{}", content_type="application/json")
    assert answer.status_code == 403


def test_pages_allow_only_their_own_origin(api: Api) -> None:
    policy = api.client.get("/").headers["Content-Security-Policy"]
    assert "default-src 'self'" in policy
    assert "unsafe" not in policy
    nonces = {part for part in policy.split("'") if part.startswith("nonce-")}
    assert len(nonces) == 1
    assert nonces.isdisjoint(api.client.get("/").headers["Content-Security-Policy"].split("'"))
    assert api.client.get("/").headers["X-Frame-Options"] == "DENY"


def test_user_files_are_served_without_trust(api: Api) -> None:
    palette = api.bench()
    answer = api.client.get(f"/api/pictures/{palette['links'][0]['picture']['id']}/image")
    assert answer.headers["X-Content-Type-Options"] == "nosniff"
    assert answer.headers["Content-Security-Policy"] == "default-src 'none'; sandbox"
    again = api.client.get(answer.request["PATH_INFO"], headers={"if-none-match": answer.headers["ETag"]})
    assert again.status_code == 304


def test_colors_are_compared_parsed_and_drawn(api: Api) -> None:
    pair = api.get("/colors/compare", first="#000", second="white")
    assert pair["contrast"] == pytest.approx(21)
    assert pair["delta_eok"] == pytest.approx(100, abs=0.01)
    assert [c["hex"] for c in api.get("/colors/parse", text="tomato, #123456, K25")["colors"]] == ["#ff6347", "#123456", "#bfbfbf"]
    half = api.get("/colors/parse", text="#12")
    assert (half["colors"], half["taken"], half["left"]) == ([], "", "#12")
    assert half["wrong"][0]["parts"] == [{"text": "#12", "is_wrong": True}]
    mixed = api.get("/colors/parse", text="Ivory black #231f20\nCadmium #ed872g\nLamp core #ffcc66\ntomato\nnonsense")
    assert [(c["hex"], c["name"]) for c in mixed["colors"]][:2] == [("#231f20", "Ivory black"), ("#ffcc66", "Lamp core")]
    assert mixed["colors"][2]["hex"] == "#ff6347"
    assert [[part["text"] for part in line["parts"] if part["is_wrong"]] for line in mixed["wrong"]] == [["#ed872g"], ["nonsense"]]
    assert "no digit" in mixed["wrong"][0]["why"]
    assert (mixed["taken"], mixed["left"]) == ("Ivory black #231f20\nLamp core #ffcc66\ntomato", "Cadmium #ed872g\nnonsense")
    long = api.post("/colors/parse", {"text": "lamp\n" * 100_001}, 422)
    assert "100,000 words" in long["message"]
    plane = api.client.get("/api/colors/plane", {"held": 30, "width": 40, "height": 20})
    assert plane.content[:4] == b"\x89PNG"
    assert "between 1 and 1024" in api.get("/colors/plane", 422, held=1, width=5000)["message"]


@pytest.mark.django_db
def test_the_demo_loads_once_and_keeps_the_artists_work() -> None:
    call_command("load_demo", verbosity=0)
    pictures, palettes = Picture.objects.count(), Palette.objects.count()
    assert (pictures, palettes) == (6, 10)
    lamplight = Palette.objects.get(name="Plate 4, lamplight")
    groups = [group["name"] for group in document_of(lamplight.revisions.get(number=lamplight.head))["groups"]]
    assert {"Night", "Wings", "Marks", "Lamp"} <= set(groups)
    links = links_of(lamplight.revisions.get(number=lamplight.head))
    names = [Picture.objects.get(pk=link["picture"]).name for link in links]
    assert names == ["Plate 4, lantern moth.png", "Plate 4, tail piece.png"]
    plate = Palette.objects.get(name="Plate 7, first light")
    document = document_of(plate.revisions.get(number=plate.head))
    assert [variant["name"] for variant in document["variants"]] == ["First light", "At dusk"]
    beat = Palette.objects.get(name="Wing beat, 16")
    assert document_of(beat.revisions.get(number=beat.head))["slots"] == 20
    Palette.objects.filter(pk=lamplight.pk).update(name="Mine now")
    call_command("load_demo", verbosity=0)
    assert (Picture.objects.count(), Palette.objects.count()) == (pictures, palettes)
    assert Palette.objects.filter(name="Mine now").exists()


def told(name: str) -> dict[str, Any]:
    """All of a palette that does not differ by chance: every step of it, with ids counted in the order in which they come."""
    row = Palette.objects.get(name=name)
    steps = [
        [step.number, step.parent, step.label, document_of(step), [link | {"picture": "", "frames": []} for link in links_of(step)]]
        for step in row.revisions.order_by("number")
    ]
    known: dict[str, str] = {}
    an_id = r"[0-9a-f]{8}(?:-?[0-9a-f]{4}){3}-?[0-9a-f]{12}"
    plain = re.sub(an_id, lambda found: known.setdefault(found[0], f"id {len(known)}"), json.dumps(steps))
    maps = [
        index_map.data
        for revision in row.revisions.order_by("number")
        for link in links_of(revision)
        for index_map in IndexMap.objects.filter(pk__in=[frame["map"] for frame in link["frames"]]).order_by("pk")
    ]
    return {"steps": json.loads(plain), "maps": {gzip.decompress(bytes(data)) for data in maps}}


@pytest.mark.django_db(transaction=True)
def test_the_shelf_that_is_remembered_is_what_is_drawn_today() -> None:
    call_command("load_demo", verbosity=0)
    names = sorted(Palette.objects.values_list("name", flat=True))
    remembered = {name: told(name) for name in names}
    pixels = sorted(Picture.objects.values_list("original_id", flat=True))
    Palette.objects.all().delete()
    Picture.objects.all().delete()
    call_command("load_demo", "--drawn", verbosity=0)
    assert sorted(Palette.objects.values_list("name", flat=True)) == names
    assert sorted(Picture.objects.values_list("original_id", flat=True)) == pixels, "manage.py load_demo --remember writes it anew"
    for name in names:
        assert told(name) == remembered[name], name


@pytest.mark.django_db
def test_licenses_of_what_ships_are_served_to_anybody(client: Client) -> None:
    answer = client.get("/static/licenses.txt")
    assert answer.status_code == 200
    text = b"".join(answer.streaming_content).decode() if answer.streaming else answer.content.decode()
    assert text.startswith("HUVREN")
    assert "SIL OPEN FONT LICENSE" in text


def test_a_file_saved_by_mistake_does_not_vanish_with_the_process(settings: Any, tmp_path: Path) -> None:
    from django.core.files.base import ContentFile
    from django.core.files.storage import storages

    kept = settings.STORAGES["default"]
    assert kept["BACKEND"].endswith("FileSystemStorage")
    settings.STORAGES = settings.STORAGES | {"default": kept | {"OPTIONS": {"location": tmp_path}}}
    name = storages["default"].save("a.txt", ContentFile(b"here"))
    assert (tmp_path / name).read_bytes() == b"here"


@pytest.mark.django_db
def test_the_user_model_is_our_own() -> None:
    assert get_user_model().__name__ == "Artist"
    assert get_user_model()._meta.label == "studio.Artist"
    assert get_user_model().objects.create_superuser("root", password="a long enough word").is_staff


def test_what_is_loaded_before_processes_are_copied_has_begun_no_thread_and_opened_nothing() -> None:
    """The threads of kernels do not outlive a copy: the first kernel of the copy would end it."""
    look = (
        "import threading, huvren.site.wsgi\nfrom numba.np.ufunc import parallel\nfrom django.db import connection\n"
        "print(parallel._is_initialized, threading.active_count(), connection.connection)"
    )
    run = subprocess.run([sys.executable, "-c", look], cwd=ROOT, capture_output=True, text=True, check=True)
    assert run.stdout.split() == ["False", "1", "None"]
