"""A PostgreSQL cluster of the project's own, on loopback, on a free port, inside the state folder where its user may enter that."""

import contextlib
import hashlib
import os
import pwd
import secrets
import shutil
import socket
import subprocess
from collections.abc import Iterator
from pathlib import Path

from tools.needs import postgres_programs
from tools.steps import LOGS, STATE, StepFailed, step

USER = "huvren"
OUTSIDE = Path("/var/lib/huvren")


def free_port(wanted: int = 0) -> int:
    """A loopback port that nobody listens on: `wanted` where it is free."""
    for port in (wanted, 0):
        with socket.socket() as probe:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                probe.bind(("127.0.0.1", port))
            except OSError:
                continue
            return int(probe.getsockname()[1])
    raise StepFailed("No free port could be found on 127.0.0.1.")


def _unprivileged() -> pwd.struct_passwd:
    """The user that PostgreSQL runs as where this script is root, which PostgreSQL refuses to be."""
    for name in ("postgres", "nobody"):
        with contextlib.suppress(KeyError):
            return pwd.getpwnam(name)
    raise StepFailed("PostgreSQL refuses to run as root, and there is no user “postgres” or “nobody” to run it as.")


def _may_enter(folder: Path) -> bool:
    """Whether PostgreSQL's user may pass through a folder and all above it."""
    while not folder.exists():
        folder = folder.parent
    command = ["runuser", "-u", _unprivileged().pw_name, "--", "test", "-x", str(folder)]
    return subprocess.run(command, cwd="/", capture_output=True).returncode == 0


def cluster_folder(name: str) -> Path:
    """Where a cluster lies: in the state folder, or, for root in a home that nobody else may enter, below /var/lib/huvren.

    A cluster that is there already stays where it is.
    """
    inside = STATE / name
    if os.geteuid() != 0:
        return inside
    outside = OUTSIDE / hashlib.sha256(str(STATE).encode()).hexdigest()[:12] / name
    if (outside / "data" / "PG_VERSION").exists():
        return outside
    return inside if _may_enter(STATE) else outside


class Cluster:
    """One cluster: `name` tells the artist's data from the tests'."""

    def __init__(self, name: str, *, durable: bool) -> None:
        self.folder = cluster_folder(name)
        self.data = self.folder / "data"
        self.durable = durable
        self.password_file = self.folder / "password"
        self.port = 0

    @property
    def programs(self) -> Path:
        found = postgres_programs()
        if found is None:
            raise StepFailed("PostgreSQL's server is missing; its initdb cannot be found.")
        return found

    def _as_owner(self, *words: str | Path) -> subprocess.CompletedProcess[str]:
        command = [str(word) for word in words]
        if os.geteuid() == 0:
            command = ["runuser", "-u", _unprivileged().pw_name, "--", *command]
        return subprocess.run(command, cwd="/", capture_output=True, text=True)

    def create(self) -> None:
        """Make the cluster if it is not there."""
        if (self.data / "PG_VERSION").exists():
            return
        programs = self.programs
        with step(f"Creating the database cluster in {self.data}"):
            self.folder.mkdir(parents=True, exist_ok=True)
            for above in (OUTSIDE, self.folder.parent) if self.folder.is_relative_to(OUTSIDE) else ():
                above.chmod(0o755)
            shutil.rmtree(self.data, ignore_errors=True)
            self.password_file.write_text(secrets.token_urlsafe(24))
            if os.geteuid() == 0:
                owner = _unprivileged()
                for path in (self.folder, self.password_file):
                    os.chown(path, owner.pw_uid, owner.pw_gid)
            self.password_file.chmod(0o600)
            result = self._as_owner(
                programs / "initdb", "-D", self.data, "-U", USER, "--auth=scram-sha-256", "--encoding=UTF8",
                "--locale=C.UTF-8", f"--pwfile={self.password_file}",
            )  # fmt: skip
            if result.returncode != 0:
                raise StepFailed(f"initdb failed: {result.stderr.strip()[-800:]}")

    def _running_port(self) -> int | None:
        if self._as_owner(self.programs / "pg_ctl", "-D", self.data, "status").returncode != 0:
            return None
        with contextlib.suppress(OSError, IndexError, ValueError):
            return int((self.data / "postmaster.pid").read_text().splitlines()[3])
        return None

    @contextlib.contextmanager
    def running(self) -> Iterator["Cluster"]:
        """Start the cluster for the time of a block, or use it where it runs already and leave it running."""
        self.create()
        if port := self._running_port():
            self.port = port
            yield self
            return
        self.port = free_port()
        self._start()
        try:
            yield self
        finally:
            self._as_owner(self.programs / "pg_ctl", "-D", self.data, "-m", "fast", "-w", "stop")

    def start_again(self) -> None:
        """On the same port, after it was killed."""
        self._start()

    def _start(self) -> None:
        options = f"-c listen_addresses=127.0.0.1 -c port={self.port} -c unix_socket_directories="
        if not self.durable:
            options += " -c fsync=off -c synchronous_commit=off -c full_page_writes=off"
        with step(f"Starting PostgreSQL on 127.0.0.1:{self.port}"):
            result = self._as_owner(
                self.programs / "pg_ctl", "-D", self.data, "-w", "-t", "60", "-l", self.folder / "server.log",
                "-o", options, "start",
            )  # fmt: skip
            if result.returncode != 0:
                raise StepFailed(f"PostgreSQL did not start; see {self.folder / 'server.log'}. {result.stderr.strip()}")

    def remove(self) -> None:
        """Throw the whole cluster away."""
        if (self.data / "PG_VERSION").exists() and self._running_port():
            raise StepFailed("The database is in use by another ./run. Stop that one first.")
        shutil.rmtree(self.folder, ignore_errors=True)

    def environment(self) -> dict[str, str]:
        """What the settings read."""
        return {
            "HUVREN_DB_HOST": "127.0.0.1",
            "HUVREN_DB_PORT": str(self.port),
            "HUVREN_DB_NAME": USER,
            "HUVREN_DB_USER": USER,
            "HUVREN_DB_PASSWORD": self.password_file.read_text(),
        }

    def create_database(self) -> None:
        """The database inside the cluster, if it is not there."""
        env = {**os.environ, "PGPASSWORD": self.password_file.read_text()}
        where = ["-h", "127.0.0.1", "-p", str(self.port), "-U", USER]
        listed = subprocess.run(
            [self.programs / "psql", *where, "-d", "postgres", "-Atc", "select datname from pg_database"],
            env=env, capture_output=True, text=True,
        )  # fmt: skip
        if USER not in listed.stdout.split():
            made = subprocess.run([self.programs / "createdb", *where, USER], env=env, capture_output=True, text=True)
            if made.returncode != 0:
                raise StepFailed(f"The database could not be made: {(made.stderr or listed.stderr).strip()}")


LOGS.mkdir(parents=True, exist_ok=True)
