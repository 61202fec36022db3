"""An artist's own account: another password, places one is signed in; and what an operator does with accounts."""

import io
import zipfile
from datetime import timedelta
from pathlib import Path
from typing import Any

import pytest
from django.contrib.sessions.backends.db import SessionStore as OldStore
from django.core.management import call_command
from django.core.management.base import CommandError
from django.db import connection
from django.test import Client
from django.utils import timezone

from huvren.studio.middleware.demo import DEMO_USER
from huvren.studio.models import Artist, FailedSignIn, IndexMap, Job, Palette, Picture, Revision, SignedIn, StoredBytes
from tests.pictures import painted, png
from tests.server.conftest import Api
from tests.server.test_operating import typed

OLD, NEW = "a long enough word", "another word that is long"


def signed_in(name: str = "ada", password: str = OLD, address: str = "192.0.2.7") -> Client:
    client = Client(REMOTE_ADDR=address)
    assert client.post("/sign-in", {"username": name, "password": password}).status_code == 302
    return client


def is_in(client: Client) -> bool:
    return client.get("/api/session").status_code == 200


def places(client: Client) -> Any:
    return client.get("/api/account").json()["places"]


def ask_for(client: Client, present: str, wanted: str) -> Any:
    return client.post("/api/account/password", {"present": present, "wanted": wanted}, content_type="application/json")


def test_places_say_when_and_from_where_and_are_ended_one_by_one(api: Api, other: Api) -> None:
    first, second = signed_in(address="192.0.2.1"), signed_in(address="192.0.2.2")
    seen = places(second)
    assert [(place["address"], place["is_this"]) for place in seen] == [("192.0.2.2", True), ("192.0.2.1", False), ("", False)]
    assert seen[0]["began"] > seen[1]["began"]
    assert seen[2]["began"] is None, "one of before sessions knew that"
    keys = set(SignedIn.objects.values_list("session_key", flat=True))
    assert not any(key in str(seen) for key in keys), "a key would be as good as the password"
    assert second.delete(f"/api/account/places/{seen[1]['id']}").status_code == 204
    assert (is_in(first), is_in(second), is_in(api.client), is_in(other.client)) == (False, True, True, True)
    assert second.delete(f"/api/account/places/{seen[1]['id']}").status_code == 404
    assert second.delete("/api/account/places").json() == {"ended": 1}
    assert (is_in(second), is_in(api.client), is_in(other.client)) == (True, False, True)
    assert [place["is_this"] for place in places(second)] == [True]
    second.post("/sign-out")
    assert not is_in(second)


def test_another_password_signs_out_everywhere_else(api: Api) -> None:
    here, there = signed_in(), signed_in()
    assert ask_for(here, OLD, NEW).status_code == 204
    assert (is_in(here), is_in(there), is_in(api.client)) == (True, False, False)
    assert SignedIn.objects.filter(artist=api.user).count() == 1
    assert ask_for(here, NEW, OLD).status_code == 204, "one goes on here, and may change it again"
    assert is_in(here)
    assert is_in(signed_in(password=OLD))


@pytest.mark.parametrize(
    ("present", "wanted", "words"),
    [
        ("not the word", NEW, "not the present password"), (OLD, "short", "at least 10"), (OLD, "1234567890123", "numeric"),
        (OLD, OLD, "Choose another"), (OLD, "password123", "too common"), ("", NEW, "not the present password"),
        (OLD, "x" * 1001, "at most 1000"),
    ],
)  # fmt: skip
def test_a_password_that_cannot_be_is_said_and_the_old_one_stays(api: Api, present: str, wanted: str, words: str) -> None:
    here = signed_in()
    answer = ask_for(here, present, wanted)
    assert answer.status_code == 422
    assert words in answer.json()["message"]
    assert OLD not in answer.content.decode()
    assert is_in(here)
    assert is_in(signed_in())


def test_guessing_at_the_present_password_costs_what_it_costs_at_the_door(api: Api) -> None:
    here = signed_in()
    for _ in range(5):
        assert ask_for(here, "not the word", NEW).json()["code"] == "wrong_password"
    assert "Too many wrong passwords" in ask_for(here, OLD, NEW).json()["message"]
    refused = Client(REMOTE_ADDR="192.0.2.7").post("/sign-in", {"username": "ada", "password": OLD})
    assert refused.status_code == 200
    FailedSignIn.objects.all().delete()
    assert ask_for(here, OLD, NEW).status_code == 204
    assert not FailedSignIn.objects.filter(count__gt=0).exists()


def test_the_demo_has_no_password(db: None, settings: Any) -> None:
    settings.DEMO = True
    Artist.objects.create_user(DEMO_USER)
    visitor = Client(HTTP_HOST="127.0.0.1")
    assert visitor.get("/api/account").json() == {"name": "demo", "has_password": False, "places": []}
    assert "no password to change" in ask_for(visitor, "", NEW).json()["message"]
    assert visitor.delete("/api/account/places").json() == {"ended": 0}


def test_sessions_of_before_stay_open(db: None, api: Api) -> None:
    """The migration brings over what stands in Django's own table."""
    from importlib import import_module

    migration = import_module("huvren.studio.migrations.0010_sessions_of_artists")
    row = SignedIn.objects.get(artist=api.user)
    with connection.cursor() as cursor:
        cursor.execute("CREATE TABLE django_session (session_key varchar(40), session_data text, expire_date timestamptz)")
        nobody, visitor = (OldStore().encode(data) for data in ({"_auth_user_id": "987654"}, {}))
        for key, until, data in (
            (row.session_key, row.expire_date, row.session_data), ("old", timezone.now() - timedelta(days=1), row.session_data),
            ("nobody", row.expire_date, nobody), ("visitor", row.expire_date, visitor),
        ):  # fmt: skip
            cursor.execute("INSERT INTO django_session VALUES (%s, %s, %s)", [key, data, until])
    SignedIn.objects.all().delete()
    from django.apps import apps

    with connection.schema_editor() as editor:
        migration.bring_over(apps, editor)
    assert is_in(api.client)
    assert set(SignedIn.objects.values_list("session_key", "artist")) == {
        (row.session_key, api.user.pk), ("nobody", None), ("visitor", None)
    }  # fmt: skip


# What an operator does


def said(capsys: Any, *words: str) -> str:
    call_command(*words)
    return str(capsys.readouterr().out)


def test_accounts_are_listed_disabled_and_enabled(api: Api, other: Api, capsys: Any) -> None:
    api.bench()
    api.post("/jobs/batches", {"pictures": [api.shelf()["pictures"][0]["id"]], "recipe": {"colors": 3}}, 202)
    client = signed_in()
    listed = said(capsys, "list_accounts").splitlines()
    assert listed[0].startswith("ada: last signed in 20")
    assert "1 palettes, 1 pictures" in listed[0]
    assert listed[1].startswith("ben: last signed in")
    assert "cannot sign in" in said(capsys, "disable_account", "ada")
    assert (is_in(client), is_in(api.client), is_in(other.client)) == (False, False, True)
    assert Client().post("/sign-in", {"username": "ada", "password": OLD}).status_code == 200
    assert Job.objects.get().state == "cancelled"
    assert Palette.objects.filter(owner=api.user).count() == 1
    assert "ada, disabled" in said(capsys, "list_accounts")
    said(capsys, "enable_account", "ada")
    FailedSignIn.objects.all().delete()
    assert is_in(signed_in())
    for command in ("disable_account", "enable_account"):
        with pytest.raises(CommandError, match="There is no account “nobody”"):
            call_command(command, "nobody")


def test_an_account_is_removed_with_all_it_kept_which_another_brings_in(
    api: Api, other: Api, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: Any
) -> None:
    palette = api.bench()
    api.operate(palette, kind="rename_palette", name="Moths")
    api.post("/recipes", {"name": "Short", "recipe": {"colors": 6}}, 201)
    api.post("/jobs/batches", {"pictures": [palette["links"][0]["picture"]["id"]], "recipe": {"colors": 3}}, 202)
    shared = png(painted(9, 9))
    api.upload(shared)
    theirs = other.upload(shared)
    target = tmp_path / "ada.zip"
    typed(monkeypatch, "bda")
    with pytest.raises(CommandError, match="not the name"):
        call_command("remove_account", "ada", "--export", str(target))
    assert not target.exists()
    assert is_in(api.client)
    typed(monkeypatch, "ada")
    told = said(capsys, "remove_account", "ada", "--export", str(target))
    assert "“ada” keeps 1 palettes and 2 pictures" in told
    assert "holds its 1 palettes and 2 pictures" in told
    assert not Artist.objects.filter(username="ada").exists()
    assert not is_in(api.client)
    for model in (Palette, Revision, IndexMap, Job):
        assert not model.objects.exists()
    assert [str(pk) for pk in Picture.objects.values_list("pk", flat=True)] == [theirs["id"]]
    # What another artist has too is there still.
    assert other.client.get(f"/api/pictures/{theirs['id']}/image").status_code == 200
    assert not list(tmp_path.glob("*.part"))
    answer = other.client.post("/api/library/archive", {"file": io.BytesIO(target.read_bytes())})
    assert (answer.json()["palettes"], answer.json()["recipes"]) == (1, 1)
    assert other.shelf()["palettes"][0]["name"] == "Moths"


def test_nothing_is_removed_where_the_export_cannot_be(api: Api, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    api.bench()
    there = tmp_path / "there.zip"
    there.write_bytes(b"mine")
    with pytest.raises(CommandError, match="is there already"):
        call_command("remove_account", "ada", "--export", str(there), "--yes")
    with pytest.raises(CommandError, match="cannot be written"):
        call_command("remove_account", "ada", "--export", str(tmp_path / "nowhere" / "a.zip"), "--yes")
    with pytest.raises(CommandError, match=r"export.*required|required.*export"):
        call_command("remove_account", "ada", "--yes")
    from huvren.studio.management.commands import remove_account

    def broken(artist: Artist) -> Any:
        buffer = io.BytesIO()
        with zipfile.ZipFile(buffer, "w") as archive:
            archive.writestr("library.json", "{")
        buffer.seek(0)
        return buffer

    monkeypatch.setattr(remove_account, "write_archive", broken)
    with pytest.raises(CommandError, match="cannot be read again"):
        call_command("remove_account", "ada", "--export", str(tmp_path / "a.zip"), "--yes")
    assert there.read_bytes() == b"mine"
    assert [path.name for path in tmp_path.iterdir()] == ["there.zip"]
    assert is_in(api.client)
    assert Palette.objects.count() == 1
    call_command("remove_account", "ada", "--no-export", "--yes")
    assert (Artist.objects.count(), Palette.objects.count(), StoredBytes.objects.count()) == (0, 0, StoredBytes.objects.count())
