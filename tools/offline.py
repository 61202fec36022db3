"""Setting up from a folder in place of the package indexes: `./run pack FOLDER` writes one where they can be reached.

It holds the locked packages for this kind of machine and the built interface, and belongs to the version that it was packed for.
"""

import os
import shutil
from pathlib import Path

from tools.steps import PYTHON, ROOT, StepFailed, call, step

SETTING = "HUVREN_OFFLINE"
WHEELS, INTERFACE, BELONGS = "wheels", "interface", "belongs-to"


def folder() -> Path | None:
    """The folder that is set up from, or None where the indexes are asked."""
    said = os.environ.get(SETTING)
    return Path(said) if said else None


def use(said: str) -> None:
    """Set up from a folder from here on, and whatever is started. Raises `StepFailed` where it is no such folder."""
    path = (Path(os.environ.get("HUVREN_CALLED_FROM", ROOT)) / said).resolve()
    if not (path / WHEELS).is_dir():
        raise StepFailed(f"{path} is no folder that ./run pack wrote: it has no “{WHEELS}”.")
    os.environ[SETTING] = str(path)


def pip_words() -> list[str]:
    """What pip is told besides: to take packages from the folder alone, where there is one."""
    path = folder()
    return ["--no-index", "--find-links", str(path / WHEELS)] if path else []


def take_interface(target: Path, key: str) -> None:
    """Put the built interface in its place. key : of its sources. Raises `StepFailed` where the folder is of another version."""
    path = folder()
    assert path is not None
    stamp = path / BELONGS
    if not stamp.exists() or stamp.read_text().strip() != key:
        raise StepFailed(f"{path} was packed for another version. Pack it again from this checkout: ./run pack FOLDER")
    shutil.rmtree(target, ignore_errors=True)
    shutil.copytree(path / INTERFACE, target)


def pack(target: Path, lock: Path, interface: Path, key: str) -> None:
    """Write such a folder: what a lock file names as wheels, and an interface that was built. Raises `StepFailed`."""
    if target.exists() and any(target.iterdir()):
        raise StepFailed(f"{target} is not empty. Choose another folder; nothing was written.")
    (target / WHEELS).mkdir(parents=True, exist_ok=True)
    with step("Fetching the packages"):
        words: list[str | Path] = [
            "--disable-pip-version-check",
            "--no-deps",
            "--only-binary",
            ":all:",
            "-d",
            target / WHEELS,
            "-r",
            lock,
        ]
        call([PYTHON, "-m", "pip", "download", *words], log="pip-pack", advice="Is the Python package index reachable?")
    shutil.copytree(interface, target / INTERFACE)
    # Last: a folder that was broken off belongs to nothing.
    (target / BELONGS).write_text(key + "\n")
