"""A web process that is stuck hands over: another one that takes its place answers before it ends; of several, one at a time.

gunicorn's master starts one process more when it is told to (SIGTTIN), and goes on with as many from then on. So who leaves also
leaves word, and the master takes the one more back when that process is over. Who has come and who leaves stands in a folder, one
empty file for each, named by its id. The master imports this before Django is set up: it needs nothing but Python.
"""

import fcntl
import os
import signal
import threading
import time
from pathlib import Path
from typing import Any, TextIO

PATIENCE_S = 60.0
"""So long one that leaves waits for who comes."""
LOOK_S = 0.1

_kept: list[TextIO] = []
"""Held as long as this process lives."""


def _place(kind: str) -> Path | None:
    """Where files of a kind lie, or None where nobody takes over from anybody."""
    folder = os.environ.get("HUVREN_HANDOVER")
    if not folder:
        return None
    place = Path(folder) / kind
    place.mkdir(parents=True, exist_ok=True)
    return place


def begin() -> None:
    """In a master that begins: whatever was said to the one before it is over."""
    for kind in ("come", "leaving"):
        if place := _place(kind):
            for file in place.iterdir():
                file.unlink(missing_ok=True)


def has_come() -> None:
    """This process is ready to answer."""
    if place := _place("come"):
        (place / str(os.getpid())).touch()


def present(folder: Path) -> list[int]:
    """The processes that have come, by the folder in which they say so."""
    come = folder / "come"
    return [int(file.name) for file in come.iterdir()] if come.is_dir() else []


def has_gone(master: Any, process: int) -> None:
    """In gunicorn's master: a process is over. One that has left has been replaced already."""
    come, leaving = _place("come"), _place("leaving")
    if come is None or leaving is None:
        return
    (come / str(process)).unlink(missing_ok=True)
    if (leaving / str(process)).exists():
        (leaving / str(process)).unlink()
        master.num_workers -= 1


def leave() -> None:
    """Let another process come, and end this one once that answers, or after a while. Returns when it has been told to end."""
    come, leaving = _place("come"), _place("leaving")
    if come is None or leaving is None:
        return
    _kept.append((leaving.parent / "one at a time").open("w"))
    fcntl.flock(_kept[-1], fcntl.LOCK_EX)
    there = set(come.iterdir())
    (leaving / str(os.getpid())).touch()
    os.kill(os.getppid(), signal.SIGTTIN)
    until = time.monotonic() + PATIENCE_S
    while set(come.iterdir()) <= there and time.monotonic() < until:
        time.sleep(LOOK_S)
    os.kill(os.getpid(), signal.SIGTERM)


_lock = threading.Lock()
_is_leaving = False


def leave_once() -> None:
    """Begin to leave, in a thread of its own; asked for again it changes nothing."""
    global _is_leaving
    with _lock:
        if not _is_leaving:
            _is_leaving = True
            threading.Thread(target=leave, name="leaving", daemon=True).start()
