"""Backup and restore: everything is in PostgreSQL, so one file of its own dump holds all of it."""

import contextlib
import os
import subprocess
from collections.abc import Iterator
from pathlib import Path

from tools.needs import postgres_programs
from tools.postgres import Cluster
from tools.steps import StepFailed, step


@contextlib.contextmanager
def database() -> Iterator[dict[str, str]]:
    """HUVREN_DB_* of the database that is meant: the environment's, or else the demo's own, started where it does not run."""
    if os.environ.get("HUVREN_DB_HOST"):
        yield {name: os.environ[name] for name in os.environ if name.startswith("HUVREN_DB_")}
        return
    cluster = Cluster("studio", durable=True)
    with cluster.running():
        cluster.create_database()
        yield cluster.environment()


def _run(program: str, env: dict[str, str], *words: str | Path) -> subprocess.CompletedProcess[str]:
    folder = postgres_programs()
    if folder is None:
        raise StepFailed("PostgreSQL's programs are missing. Install them with: apt-get install postgresql-client")
    where = ["-h", env["HUVREN_DB_HOST"], "-p", env.get("HUVREN_DB_PORT", "5432"), "-U", env.get("HUVREN_DB_USER", "huvren")]
    more = {**os.environ, "PGPASSWORD": env.get("HUVREN_DB_PASSWORD", ""), "PGCONNECT_TIMEOUT": "10"}
    return subprocess.run([str(folder / program), *where, *map(str, words)], env=more, capture_output=True, text=True)


def backup(env: dict[str, str], file: Path) -> None:
    """Write a consistent dump, while the server goes on. A file that is there stays until the new one is whole."""
    part = file.with_name(file.name + ".part")
    with step(f"Writing {file}"):
        name = env.get("HUVREN_DB_NAME", "huvren")
        result = _run("pg_dump", env, "--format=custom", "--no-owner", "--no-privileges", "--file", part, name)
        if result.returncode != 0:
            part.unlink(missing_ok=True)
            raise StepFailed(f"The backup failed; nothing was written. {result.stderr.strip()[-600:]}")
        part.replace(file)
    print(f"  {file.stat().st_size / 1048576:,.1f} MB")


def restore(env: dict[str, str], file: Path) -> None:
    """Bring a dump into an empty database, all of it or nothing."""
    if not file.is_file():
        raise StepFailed(f"There is no file {file}.")
    name = env.get("HUVREN_DB_NAME", "huvren")
    listed = _run("psql", env, "-d", name, "-Atc", "select count(*) from pg_tables where schemaname = 'public'")
    if listed.returncode != 0:
        raise StepFailed(f"The database cannot be reached. {listed.stderr.strip()[-600:]}")
    if listed.stdout.strip() != "0":
        raise StepFailed("That database is not empty, and nothing in it was touched. Restore into a new one.")
    with step(f"Restoring {file}"):
        words: list[str | Path] = ["--single-transaction", "--exit-on-error", "--no-owner", "--no-privileges", "--dbname", name, file]
        result = _run("pg_restore", env, *words)
        if result.returncode != 0:
            raise StepFailed(f"The restore failed; the database is as empty as before. {result.stderr.strip()[-600:]}")
