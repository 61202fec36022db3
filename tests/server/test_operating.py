"""What an administrator does: accounts, backups, figures, several processes; each command as it is typed."""

import hashlib
import io
import os
import stat
import subprocess
import sys
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import psycopg
import pytest
from django.apps import apps
from django.conf import settings as site
from django.contrib.auth import get_user_model
from django.core.management import CommandError, call_command
from django.db import connection
from django.test import Client

from huvren.studio.models import FailedSignIn, SignedIn
from huvren.studio.services.files import archives
from tests.server.conftest import Api
from tests.server.test_library import full_shelf
from tools import backup
from tools.postgres import Cluster
from tools.proxy import Places
from tools.serving import behind_proxy
from tools.setup import environment
from tools.steps import PYTHON, ROOT, StepFailed


def typed(monkeypatch: pytest.MonkeyPatch, text: str) -> None:
    monkeypatch.setattr("sys.stdin", io.StringIO(text + "\n"))


def test_an_account_is_made_and_its_password_changed(db: None, monkeypatch: pytest.MonkeyPatch, capsys: Any) -> None:
    typed(monkeypatch, "a long enough word")
    call_command("make_account", "dora")
    assert "“dora” can sign in now" in capsys.readouterr().out
    visitor = Client()
    assert visitor.post("/sign-in", {"username": "dora", "password": "a long enough word"}).status_code == 302
    typed(monkeypatch, "another word that is long")
    FailedSignIn.objects.create(key="both:192.0.2.1:dora", count=9, last="2026-01-01T00:00Z")
    call_command("change_password", "dora")
    assert not SignedIn.objects.exists(), "nor listed as a place any more"
    assert visitor.get("/api/session").status_code == 401, "signed out everywhere"
    assert not FailedSignIn.objects.filter(key__startswith="both").exists()
    assert Client().post("/sign-in", {"username": "dora", "password": "another word that is long"}).status_code == 302
    assert SignedIn.objects.exists()


@pytest.mark.parametrize(
    ("name", "password", "words"),
    [
        ("dora", "short", "at least 10"), ("dora", "1234567890123", "entirely numeric"), ("dora", "password123", "too common"),
        ("dora-the-first", "dora-the-first", "too similar"), ("a b", "a long enough word", "valid username"),
        ("ADA", "a long enough word", "There is an account"),
    ],
)  # fmt: skip
def test_bad_names_and_passwords_make_no_account(
    api: Api, monkeypatch: pytest.MonkeyPatch, name: str, password: str, words: str
) -> None:
    typed(monkeypatch, password)
    with pytest.raises(CommandError, match=words):
        call_command("make_account", name)
    assert list(get_user_model().objects.values_list("username", flat=True)) == ["ada"]


def test_nobody_has_no_password(db: None, monkeypatch: pytest.MonkeyPatch) -> None:
    typed(monkeypatch, "a long enough word")
    with pytest.raises(CommandError, match="There is no account “nobody”"):
        call_command("change_password", "nobody")


@pytest.fixture
def empty_cluster() -> Iterator[dict[str, str]]:
    cluster = Cluster(f"restore-test-{os.getpid()}", durable=False)
    cluster.remove()
    with cluster.running():
        cluster.create_database()
        yield cluster.environment()
    cluster.remove()


def here() -> dict[str, str]:
    known = connection.settings_dict
    return {f"HUVREN_DB_{name}": str(known[name]) for name in ("HOST", "PORT", "NAME", "USER", "PASSWORD")}


def tables() -> list[str]:
    return sorted(model._meta.db_table for model in apps.get_models(include_auto_created=True) if model._meta.managed)


def contents(env: dict[str, str]) -> dict[str, str]:
    """A digest of every row of every table."""
    found = {}
    with psycopg.connect(
        host=env["HUVREN_DB_HOST"], port=env["HUVREN_DB_PORT"], dbname=env["HUVREN_DB_NAME"], user=env["HUVREN_DB_USER"],
        password=env["HUVREN_DB_PASSWORD"],
    ) as other:  # fmt: skip
        for table in tables():
            rows = other.execute(f"SELECT t::text FROM {table} AS t ORDER BY 1").fetchall()  # type: ignore[arg-type]
            found[table] = f"{len(rows)} rows, {hashlib.sha256(repr(rows).encode()).hexdigest()}"
    return found


EXPORT = """
import sys, django; django.setup()
from django.contrib.auth import get_user_model
from huvren.studio.services.files.archives import write_archive
sys.stdout.buffer.write(write_archive(get_user_model().objects.get(username="ada")).read())
"""


def parts(data: bytes) -> dict[str, bytes]:
    archive = zipfile.ZipFile(io.BytesIO(data))
    return {name: archive.read(name) for name in archive.namelist()}


def test_a_backup_restored_elsewhere_is_the_same_in_every_object_and_export(
    transactional_db: None, empty_cluster: dict[str, str], tmp_path: Path
) -> None:
    api = Api("ada")
    full_shelf(api)
    api.post("/limits", {"name": "House", "limits": {"text": {"low": 7}}}, 201)
    file = tmp_path / "all.backup"
    backup.backup(here(), file)
    api.post("/palettes", {"name": "After the backup"}, 201)
    with pytest.raises(StepFailed, match="not empty"):
        backup.restore(here(), file)
    backup.restore(empty_cluster, file)
    there = contents(empty_cluster)
    after = contents(here())
    assert there["studio_palette"] != after["studio_palette"], "what came later is not in it"
    api.client.delete(f"/api/palettes/{api.shelf()['palettes'][0]['id']}")
    after_backup = {"studio_palette", "studio_revision", "studio_asked", "studio_worked", "django_session"}
    assert {name: there[name] for name in there if name not in after_backup} == {
        name: after[name] for name in after if name not in after_backup
    }
    get_user_model().objects.get(username="ada").palettes.filter(name="After the backup").delete()
    env = {**environment(), **empty_cluster}
    exported = subprocess.run([PYTHON, "-c", EXPORT], cwd=ROOT, env=env, capture_output=True, check=True)
    with archives.write_archive(api.user) as archive:
        assert parts(exported.stdout) == parts(archive.read())
    moved = subprocess.run([PYTHON, ROOT / "manage.py", "migrate", "--check"], cwd=ROOT, env=env, capture_output=True)
    assert moved.returncode == 0, moved.stderr


def test_a_backup_that_fails_leaves_the_last_one(tmp_path: Path) -> None:
    file = tmp_path / "all.backup"
    file.write_bytes(b"the last one")
    with pytest.raises(StepFailed, match="cannot be reached"):
        backup.backup({**here(), "HUVREN_DB_NAME": "nothing_of_that_name"}, file)
    assert file.read_bytes() == b"the last one"
    assert os.listdir(tmp_path) == ["all.backup"]


def test_what_is_no_backup_restores_nothing(empty_cluster: dict[str, str], tmp_path: Path) -> None:
    file = tmp_path / "no.backup"
    file.write_bytes(b"no dump")
    with pytest.raises(StepFailed, match="is no backup"):
        backup.restore(empty_cluster, file)
    with pytest.raises(StepFailed, match="There is no file"):
        backup.restore(empty_cluster, tmp_path / "none")


@pytest.mark.parametrize("words", [["backup", "all.backup"], ["restore", "all.backup"], ["manage", "empty_trash"]])
def test_a_forgotten_environment_is_refused(tmp_path: Path, words: list[str]) -> None:
    (tmp_path / "all.backup").write_bytes(b"the last one")
    env = {name: value for name, value in environment().items() if not name.startswith("HUVREN_DB_")}
    env["HUVREN_CALLED_FROM"] = str(tmp_path)
    refused = subprocess.run([PYTHON, "-m", "tools.run", *words], cwd=ROOT, env=env, capture_output=True, text=True)
    assert refused.returncode == 1
    assert "Which database is meant? Set HUVREN_DB_HOST" in refused.stderr
    assert "--demo" in refused.stderr
    assert (tmp_path / "all.backup").read_bytes() == b"the last one"


def test_a_database_without_a_studio_is_not_backed_up(empty_cluster: dict[str, str], tmp_path: Path) -> None:
    with pytest.raises(StepFailed, match="There is no studio in the database “huvren”"):
        backup.backup(empty_cluster, tmp_path / "all.backup")
    assert os.listdir(tmp_path) == []


def test_what_is_meant_and_what_is_there_is_said(transactional_db: None, tmp_path: Path, capsys: Any) -> None:
    api = Api("ada")
    api.post("/palettes", {"name": "One"}, 201)
    assert backup.rows_of(here()) == {"artists": 1, "palettes": 1, "revisions": 1, "pictures": 0}
    backup.backup(here(), tmp_path / "all.backup")
    said = capsys.readouterr().out
    assert f"“{here()['HUVREN_DB_NAME']}” at {here()['HUVREN_DB_HOST']}:{here()['HUVREN_DB_PORT']}" in said
    assert "1 artists, 1 palettes, 1 revisions, 0 pictures" in said


def test_a_dump_is_read_for_the_tables_that_it_holds(transactional_db: None, tmp_path: Path) -> None:
    name = here()["HUVREN_DB_NAME"]
    backup._run("pg_dump", here(), "--format=custom", "-T", "studio_palette", "--file", tmp_path / "part", name)
    assert backup._tables(here()) - backup._tables_in(here(), tmp_path / "part") == {"studio_palette"}
    (tmp_path / "no").write_bytes(b"no dump")
    with pytest.raises(StepFailed, match="is no backup"):
        backup._tables_in(here(), tmp_path / "no")


def test_an_ordinary_role_restores_beside_an_extension(transactional_db: None, empty_cluster: dict[str, str], tmp_path: Path) -> None:
    """The extension belongs to who made the database: the role may neither make it nor say anything about it."""
    Api("ada").post("/palettes", {"name": "One"}, 201)
    with connection.cursor() as cursor:
        cursor.execute("CREATE EXTENSION IF NOT EXISTS pg_stat_statements")
    try:
        backup.backup(here(), tmp_path / "all.backup")
    finally:
        with connection.cursor() as cursor:
            cursor.execute("DROP EXTENSION pg_stat_statements")
    sql = (
        "CREATE ROLE plain LOGIN PASSWORD 'plain'", "CREATE DATABASE plain OWNER plain",
    )  # fmt: skip
    for words in sql:
        assert backup._run("psql", empty_cluster, "-d", "huvren", "-c", words).returncode == 0, words
    made = backup._run("psql", empty_cluster, "-d", "plain", "-c", "CREATE EXTENSION pg_stat_statements")
    assert made.returncode == 0, made.stderr
    env = {**empty_cluster, "HUVREN_DB_NAME": "plain", "HUVREN_DB_USER": "plain", "HUVREN_DB_PASSWORD": "plain"}
    backup.restore(env, tmp_path / "all.backup")
    assert (backup.rows_of(env) or {})["palettes"] == 1


def test_serving_a_demo_to_the_world_is_refused() -> None:
    env = {**environment(), "HUVREN_DEMO": "1", "HUVREN_HTTPS": "1"}
    refused = subprocess.run([PYTHON, ROOT / "manage.py", "check"], cwd=ROOT, env=env, capture_output=True, text=True)
    assert refused.returncode != 0
    assert "without a password" in refused.stderr


def test_decoded_pictures_are_kept_for_all_processes_together(tmp_path: Path) -> None:
    env = behind_proxy({**environment(), "HUVREN_CACHE_MB": "400"}, Places(tmp_path), 4)
    words = [PYTHON, "-c", "from huvren.studio.bounds import CACHE_BYTES; print(CACHE_BYTES)"]
    assert int(subprocess.run(words, cwd=ROOT, env=env, capture_output=True, text=True, check=True).stdout) == 100 * 1024 * 1024


def test_every_setting_is_written_down() -> None:
    named = {
        word.strip('"(,')
        for file in ("huvren/site/settings.py", "huvren/studio/bounds.py", "tools/proxy.py", "tools/serving.py", "tools/run.py")
        for word in (ROOT / file).read_text().replace("(", " ").split()
        if word.startswith('"HUVREN_')
    }
    told = (ROOT / "docs" / "OPERATING.md").read_text()
    inner = {"HUVREN_OWN_PROXY", "HUVREN_HANDOVER", "HUVREN_HEAVY", "HUVREN_PROCESSES", "HUVREN_CALLED_FROM", "HUVREN_API"}
    missing = sorted(name for name in {name.split('"')[0] for name in named} - inner if name not in told)
    assert not missing, missing
    assert site.DATABASES["default"]["OPTIONS"]["connect_timeout"] <= 5


def test_the_key_is_readable_by_nobody_else_and_the_same_for_all_who_begin_at_once(tmp_path: Path) -> None:
    env = {name: value for name, value in environment().items() if name != "HUVREN_SECRET_KEY"} | {
        "HUVREN_STATE": str(tmp_path / "state")
    }
    words = [sys.executable, "-c", "from huvren.site import settings; print(settings.SECRET_KEY)"]
    begun = [subprocess.Popen(words, cwd=ROOT, env=env, stdout=subprocess.PIPE, text=True) for _ in range(6)]
    keys = {process.communicate()[0].strip() for process in begun}
    assert len(keys) == 1
    assert len(keys.pop()) > 40
    (key,) = (tmp_path / "state").glob("secret-key*")
    assert stat.S_IMODE(key.stat().st_mode) == 0o600
