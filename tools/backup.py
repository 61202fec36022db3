"""Backup and restore: everything is in PostgreSQL, so one file of its own dump holds all of it. What is meant is always said."""

import contextlib
import os
import subprocess
from collections.abc import Iterator
from pathlib import Path

from tools.needs import postgres_programs
from tools.postgres import Cluster
from tools.steps import StepFailed, step

KINDS = {"studio_artist": "artists", "studio_palette": "palettes", "studio_revision": "revisions", "studio_picture": "pictures"}
"""What is counted to tell one database from another."""


def check_meant(*, demo: bool) -> None:
    """Before anything is set up: a forgotten environment must not look like an empty studio. Raises `StepFailed`."""
    if not demo and not os.environ.get("HUVREN_DB_HOST"):
        raise StepFailed(
            "Which database is meant? Set HUVREN_DB_HOST and the other HUVREN_DB_… in the environment, "
            "or say --demo for the demo's own."
        )


@contextlib.contextmanager
def database(*, demo: bool = False) -> Iterator[dict[str, str]]:
    """HUVREN_DB_* of the database that is meant: the environment's, or, where that is said, the demo's own, which is started.

    Raises `StepFailed` where neither is.
    """
    if demo:
        cluster = Cluster("studio", durable=True)
        with cluster.running():
            cluster.create_database()
            yield cluster.environment()
        return
    check_meant(demo=demo)
    yield {name: os.environ[name] for name in os.environ if name.startswith("HUVREN_DB_")}


def named(env: dict[str, str]) -> str:
    """Which database that is, in words."""
    user, host = env.get("HUVREN_DB_USER", "huvren"), env["HUVREN_DB_HOST"]
    return f"database “{env.get('HUVREN_DB_NAME', 'huvren')}” at {host}:{env.get('HUVREN_DB_PORT', '5432')}, as “{user}”"


def _asked(env: dict[str, str], sql: str) -> str:
    """What `psql` answers to one question. Raises `StepFailed` where the database does not."""
    answer = _run("psql", env, "-d", env.get("HUVREN_DB_NAME", "huvren"), "-Atc", sql)
    if answer.returncode != 0:
        raise StepFailed(f"The {named(env)} cannot be reached. {answer.stderr.strip()[-600:]}")
    return answer.stdout.strip()


def rows_of(env: dict[str, str]) -> dict[str, int] | None:
    """How many rows of each kind are there; None where it is no database of ours."""
    there = _tables(env)
    if not KINDS.keys() <= there:
        return None
    counts = _asked(env, "select " + ", ".join(f"(select count(*) from {table})" for table in KINDS)).split("|")
    return dict(zip(KINDS.values(), map(int, counts), strict=True))


def _said(counts: dict[str, int]) -> str:
    return ", ".join(f"{count:,} {kind}" for kind, count in counts.items())


def _run(program: str, env: dict[str, str], *words: str | Path, is_local: bool = False) -> subprocess.CompletedProcess[str]:
    folder = postgres_programs(program)
    if folder is None:
        raise StepFailed("PostgreSQL's programs are missing. Install them with: apt-get install postgresql-client")
    where = ["-h", env["HUVREN_DB_HOST"], "-p", env.get("HUVREN_DB_PORT", "5432"), "-U", env.get("HUVREN_DB_USER", "huvren")]
    where = [] if is_local else where
    more = {**os.environ, "PGPASSWORD": env.get("HUVREN_DB_PASSWORD", ""), "PGCONNECT_TIMEOUT": "10"}
    return subprocess.run([str(folder / program), *where, *map(str, words)], env=more, capture_output=True, text=True)


def backup(env: dict[str, str], file: Path) -> None:
    """Write a consistent dump, while the server goes on. A file that is there stays until the new one is whole and has been read."""
    counts = rows_of(env)
    if counts is None:
        raise StepFailed(f"There is no studio in the {named(env)}; nothing was written.")
    print(f"  The {named(env)}: {_said(counts)}")
    part = file.with_name(file.name + ".part")
    with step(f"Writing {file}"):
        name = env.get("HUVREN_DB_NAME", "huvren")
        result = _run("pg_dump", env, "--format=custom", "--no-owner", "--no-privileges", "--file", part, name)
        if result.returncode != 0:
            part.unlink(missing_ok=True)
            raise StepFailed(f"The backup failed; nothing was written. {result.stderr.strip()[-600:]}")
        if missing := _tables(env) - _tables_in(env, part):
            part.unlink(missing_ok=True)
            raise StepFailed(f"The backup failed; nothing was written. It was read again, and lacks {', '.join(sorted(missing))}.")
        part.replace(file)
    print(f"  {file.stat().st_size / 1048576:,.1f} MB")


def _tables(env: dict[str, str]) -> set[str]:
    return set(_asked(env, "select tablename from pg_tables where schemaname = 'public'").split())


def _contents(env: dict[str, str], file: Path) -> list[str]:
    """The lines of a dump's list of contents. Raises `StepFailed` where it has none."""
    listed = _run("pg_restore", env, "--list", file, is_local=True)
    if listed.returncode != 0:
        raise StepFailed(f"{file} is no backup. {listed.stderr.strip()[-600:]}")
    return [line for line in listed.stdout.splitlines() if line and not line.startswith(";")]


def _tables_in(env: dict[str, str], file: Path) -> set[str]:
    """Tables whose rows a dump holds."""
    return {line.split(" TABLE DATA public ")[1].split()[0] for line in _contents(env, file) if " TABLE DATA public " in line}


def restore(env: dict[str, str], file: Path) -> None:
    """Bring a dump into an empty database, all of it or nothing. Extensions that are there already stay as they are."""
    if not file.is_file():
        raise StepFailed(f"There is no file {file}.")
    name = env.get("HUVREN_DB_NAME", "huvren")
    if _tables(env):
        raise StepFailed(f"The {named(env)} is not empty, and nothing in it was touched. Restore into a new one.")
    _contents(env, file)
    with step(f"Restoring {file} into the {named(env)}"):
        # An extension that is there belongs to who made the database: an ordinary role may say nothing about it.
        words: list[str | Path] = ["--single-transaction", "--exit-on-error", "--no-owner", "--no-privileges", "--no-comments"]
        result = _run("pg_restore", env, *words, "--dbname", name, file)
        if result.returncode != 0:
            raise StepFailed(f"The restore failed; the database is as empty as before. {result.stderr.strip()[-600:]}")
    counts = rows_of(env)
    if counts is None:
        raise StepFailed(f"{file} was restored, and holds no studio.")
    print(f"  {_said(counts)}")
