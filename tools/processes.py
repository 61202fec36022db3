"""Processes that descend from one of ours. Whatever ends processes ends these, by their ids: others may be called alike."""

import contextlib
import json
import os
import signal
import threading
import time
from pathlib import Path

PROC = Path("/proc")


def _said_of(process: int) -> list[str] | None:
    """What the system says of a process: its state, its parent, and so on (proc(5), from the third field on)."""
    with contextlib.suppress(OSError):
        # The name in brackets before it may hold anything.
        return (PROC / str(process) / "stat").read_text().rpartition(")")[2].split()
    return None


def _all() -> list[int]:
    return [int(folder.name) for folder in PROC.iterdir() if folder.name.isdecimal()]


def parent_of(process: int) -> int | None:
    """The process that a process belongs to; None where it is over."""
    said = _said_of(process)
    return int(said[1]) if said else None


def _parents() -> dict[int, int]:
    """Every process with its parent."""
    return {process: parent for process in _all() if (parent := parent_of(process)) is not None}


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


def of_session(session: int) -> list[int]:
    """All processes of a session that go on: it has the id of the one that began it, which no other gets while there is one."""
    return [process for process in _all() if (said := _said_of(process)) and said[0] != "Z" and int(said[3]) == session]


def end_session(session: int, patience_s: float = 5.0) -> None:
    """End what a process started in a session of its own has left behind, and that process itself where it is still there."""
    for number, seconds in ((signal.SIGTERM, patience_s), (signal.SIGKILL, 1.0)):
        for process in of_session(session):
            with contextlib.suppress(ProcessLookupError):
                os.kill(process, number)
        until = time.monotonic() + seconds
        while (left := of_session(session)) and time.monotonic() < until:
            time.sleep(0.05)
        if not left:
            return


def _begun(process: int) -> int:
    """When a process began, in ticks since the computer did; 0 where it is over."""
    said = _said_of(process)
    return int(said[19]) if said else 0


class Sessions:
    """A file that names the sessions that this process has started, for the next one, should this one be killed with some of them."""

    def __init__(self, file: Path) -> None:
        self.file = file
        self._lock = threading.Lock()
        self._sessions: list[int] = []

    def end_left(self) -> list[int]:
        """End what an earlier process has left behind; what belongs to one that is still there is left alone. Their processes."""
        try:
            said = json.loads(self.file.read_text())
        except (OSError, ValueError):
            return []
        if said["boot"] != self._boot() or _begun(said["process"]) == said["begun"]:
            return []
        left = [process for session in said["sessions"] for process in of_session(session)]
        for session in said["sessions"]:
            end_session(session)
        return left

    def add(self, session: int) -> None:
        """One more that was started; those that are over are forgotten."""
        with self._lock:
            self._sessions = [one for one in self._sessions if of_session(one)] + [session]
            said = {"boot": self._boot(), "process": os.getpid(), "begun": _begun(os.getpid()), "sessions": self._sessions}
            self.file.parent.mkdir(parents=True, exist_ok=True)
            part = self.file.with_suffix(".part")
            part.write_text(json.dumps(said))
            part.replace(self.file)

    @staticmethod
    def _boot() -> str:
        return (PROC / "sys/kernel/random/boot_id").read_text().strip()


def named(words: str, of: int) -> list[int]:
    """Those descendants of a process whose command holds these words."""
    return [process for process in descendants(of) if words in command_of(process)]
