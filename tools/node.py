"""Node.js and npm: the machine's own where they are new enough, else from the package index into the virtual environment."""

import os
import shutil
import subprocess
from functools import cache
from pathlib import Path

from tools.steps import PYTHON, ROOT, STATE, call, digest, mark, once, step

OLDEST = (20, 19)
WEB = ROOT / "web"
LOCK = ROOT / "requirements-node.lock"


def _is_new_enough(node: str) -> bool:
    said = subprocess.run([node, "--version"], capture_output=True, text=True).stdout.strip().removeprefix("v")
    try:
        return tuple(int(part) for part in said.split(".")[:2]) >= OLDEST
    except ValueError:
        return False


@cache
def bin_folder() -> Path | None:
    """The folder to put before PATH; None where the machine's own Node.js does. Installs one where there is none."""
    node, npm = shutil.which("node"), shutil.which("npm")
    if node and npm and _is_new_enough(node):
        return None
    key = digest([LOCK])
    if once(LOCK.name, key):
        with step("Installing Node.js from the package index"):
            call(
                [PYTHON, "-m", "pip", "install", "--disable-pip-version-check", "-r", LOCK],
                log="pip-node", advice="Is the Python package index reachable?",
            )  # fmt: skip
        mark(LOCK.name, key)
    return STATE / "venv" / "bin"


def node_environment() -> dict[str, str]:
    """The environment in which `npm` is found."""
    folder = bin_folder()
    return {**os.environ, "PATH": f"{folder}{os.pathsep}{os.environ['PATH']}"} if folder else dict(os.environ)


def npm(*words: str, log: str | None = None, advice: str = "") -> None:
    """Call npm in the front end's folder."""
    found = shutil.which("npm", path=node_environment()["PATH"]) or "npm"
    call([found, *words], folder=WEB, log=log, advice=advice, env=node_environment())


def set_up_node() -> None:
    """The packages of the front end."""
    key = digest([WEB / "package-lock.json"])
    if once("node", key) or not (WEB / "node_modules").exists():
        with step("Installing the packages of the front end"):
            npm("install", "--no-save", "--no-audit", "--no-fund", log="npm-install", advice="Is the npm registry reachable?")
        mark("node", key)
