"""What the machine itself has to have, as Debian packages: looked for all together, installed or named all together."""

import importlib.util
import os
import shutil
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from tools.steps import StepFailed, call, step


@dataclass(frozen=True)
class Need:
    """Something that no package of Python or Node.js brings along."""

    what: str
    package: str
    is_there: Callable[[], bool]


def postgres_programs(one: str = "initdb") -> Path | None:
    """The folder of PostgreSQL's programs that has this one, the newest first: `initdb` of the server, `pg_dump` of the client."""
    for folder in sorted(Path("/usr/lib/postgresql").glob("*/bin"), reverse=True):
        if (folder / one).exists():
            return folder
    found = shutil.which(one)
    return Path(found).resolve().parent if found else None


CHROMIUM = Path("/usr/bin/chromium")
VENV = Need("Python's venv", "python3-venv", lambda: all(importlib.util.find_spec(name) for name in ("venv", "ensurepip")))
OPENMP = Need("the OpenMP runtime", "libgomp1", lambda: any(Path("/usr/lib").glob("*/libgomp.so.1")))
ATOMICS = Need("the atomics library", "libatomic1", lambda: any(Path("/usr/lib").glob("*/libatomic.so.1")))
POSTGRES = Need("PostgreSQL's server", "postgresql", lambda: postgres_programs() is not None)
CLIENT = Need("PostgreSQL's client", "postgresql-client", lambda: postgres_programs("pg_dump") is not None)
PROXY = Need("nginx", "nginx-light", lambda: shutil.which("nginx") is not None or Path("/usr/sbin/nginx").exists())
BROWSER = Need("Chromium", "chromium", CHROMIUM.exists)

UNITS = Need("systemd's checker of units", "systemd", lambda: shutil.which("systemd-analyze") is not None)

RUNNING = (VENV, OPENMP)
WEB = (*RUNNING, PROXY)
SERVING = (*WEB, POSTGRES)
KEEPING = (*RUNNING, CLIENT)
"""For backups of a database that is elsewhere."""
TESTING = (*SERVING, BROWSER, ATOMICS, UNITS)
"""The program that drives the browser needs the atomics library, which a minimal Debian lacks."""


def ensure(needs: tuple[Need, ...]) -> None:
    """Install what is missing through apt where this user may; else name all of it, with one command, in a sentence."""
    missing = [need for need in needs if not need.is_there()]
    if not missing:
        return
    names = [need.what for need in missing]
    said = names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"
    packages = [need.package for need in missing]
    command = f"apt-get install --no-install-recommends {' '.join(packages)}"
    if os.geteuid() != 0 or shutil.which("apt-get") is None:
        raise StepFailed(f"Missing on this machine: {said}. As its administrator, install all of it with: {command}")
    with step(f"Installing {said} with apt"):
        env = {**os.environ, "DEBIAN_FRONTEND": "noninteractive"}
        # An installation that was interrupted before stops every later one until it is finished.
        call(["dpkg", "--configure", "-a"], log="dpkg-configure", advice="Try by hand: dpkg --configure -a", env=env)
        call(["apt-get", "update", "-q"], log="apt-update", advice="Is the package mirror reachable?", env=env)
        call(
            ["apt-get", "install", "-y", "-q", "--no-install-recommends", *packages],
            log="apt-install", advice=f"Try by hand: {command}", env=env,
        )  # fmt: skip
    importlib.invalidate_caches()
    still = [need.what for need in needs if not need.is_there()]
    if still:
        raise StepFailed(f"Installed, but still not to be found: {', '.join(still)}. Look into the log apt-install.")
