"""Processes that descend from one of ours. Whatever ends processes ends these, by their ids: others may be called alike."""

import contextlib
from pathlib import Path

PROC = Path("/proc")


def _parents() -> dict[int, int]:
    """Every process with its parent."""
    found = {}
    for folder in PROC.iterdir():
        if folder.name.isdecimal():
            # The name in brackets may hold anything; behind it come state and parent.
            with contextlib.suppress(OSError):
                found[int(folder.name)] = int((folder / "stat").read_text().rpartition(")")[2].split()[1])
    return found


def descendants(of: int) -> list[int]:
    """Ids of all processes that a process has started, and of those that they have, parents first."""
    children: dict[int, list[int]] = {}
    for process, parent in _parents().items():
        children.setdefault(parent, []).append(process)
    found, waiting = list[int](), [of]
    while waiting:
        next_ones = sorted(children.get(waiting.pop(0), []))
        found += next_ones
        waiting += next_ones
    return found


def command_of(process: int) -> str:
    """What it was started with, empty where it is over."""
    with contextlib.suppress(OSError):
        return (PROC / str(process) / "cmdline").read_bytes().replace(b"\0", b" ").decode(errors="replace").strip()
    return ""


def named(words: str, of: int) -> list[int]:
    """Those descendants of a process whose command holds these words."""
    return [process for process in descendants(of) if words in command_of(process)]
