"""Printing steps, running commands, and remembering what is done already."""

import hashlib
import os
import subprocess
import sys
import time
from collections.abc import Iterable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
STATE = Path(os.environ.get("HUVREN_STATE", ROOT / ".huvren")).resolve()
LOGS = STATE / "logs"
PYTHON = STATE / "venv" / "bin" / "python"


class StepFailed(Exception):
    """A step went wrong; the message says why and what to do."""


@contextmanager
def step(name: str) -> Iterator[None]:
    """Print a step's name, and how long it took; by its name again, as others may go on beside it."""
    print(f"· {name} …", flush=True)
    begun = time.monotonic()
    yield
    print(f"  {name.partition(' in /')[0]}: done in {time.monotonic() - begun:.1f} s", flush=True)


def call(
    command: Sequence[str | Path], *, log: str | None = None, advice: str = "", env: dict[str, str] | None = None,
    folder: Path = ROOT,
) -> None:  # fmt: skip
    """Run a command; quietly into a log where one is named. Raises `StepFailed` with the log's end."""
    words = [str(word) for word in command]
    if log is None:
        result = subprocess.run(words, cwd=folder, env=env)
        tail = ""
    else:
        LOGS.mkdir(parents=True, exist_ok=True)
        path = LOGS / f"{log}.log"
        with path.open("wb") as output:
            result = subprocess.run(words, cwd=folder, env=env, stdout=output, stderr=subprocess.STDOUT)
        tail = "" if result.returncode == 0 else "\n".join(path.read_text(errors="replace").splitlines()[-15:]) + "\n"
    if result.returncode != 0:
        raise StepFailed(f"{tail}“{' '.join(words[:6])}” ended with {result.returncode}. {advice}".strip())


def digest(paths: Iterable[Path]) -> str:
    """One hash over files and folders, by name and contents."""
    total = hashlib.sha256()
    for path in paths:
        files = sorted(p for p in path.rglob("*") if p.is_file()) if path.is_dir() else [path]
        for file in files:
            total.update(str(file.relative_to(ROOT)).encode())
            total.update(file.read_bytes())
    return total.hexdigest()


def once(name: str, key: str) -> bool:
    """Whether a step with this key still has to be done. `mark` records that it is."""
    stamp = STATE / "stamps" / name
    return not (stamp.exists() and stamp.read_text() == key)


def mark(name: str, key: str) -> None:
    stamp = STATE / "stamps" / name
    stamp.parent.mkdir(parents=True, exist_ok=True)
    stamp.write_text(key)


def check_python() -> None:
    if sys.version_info < (3, 11):
        raise StepFailed(f"Python {sys.version.split()[0]} is too old; Huvren needs 3.11 or newer.")
