"""Changes of the interface that browser tests should notice: all of them in one build, each of which a test can switch on.

To build the interface anew for each change would take longer than most tests. So each changed expression becomes a question at run
time, `globalThis.__changed?.(7) ? (changed) : (as it is)`, which tells as well that it was asked: `tests/browser/conftest.py`
answers, and writes down which test asked for which change. Where nothing answers, everything is as it is.
"""

import json
import os
import shutil
import subprocess
import sys
from collections.abc import Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Protocol

from tools.node import node_environment
from tools.steps import PYTHON

TESTS = "tests/browser"


class Expression(Protocol):
    """An expression of a source that is written otherwise: see `tools.mutate.Change`."""

    @property
    def path(self) -> Path: ...
    @property
    def place(self) -> tuple[int, int]: ...
    @property
    def whole(self) -> str: ...


def weave(text: str, changes: Sequence[tuple[int, Expression]]) -> str:
    """A source in which each of these numbered changes can be switched on. One within another is not there while that is on."""
    units = text.encode("utf-16-le")

    def piece(begin: int, end: int, inside: list[tuple[int, Expression]]) -> str:
        parts, at = [], begin
        while inside:
            (number, change), rest = inside[0], inside[1:]
            first, last = change.place
            within = [entry for entry in rest if entry[1].place[1] <= last]
            parts.append(units[2 * at : 2 * first].decode("utf-16-le"))
            parts.append(f"(globalThis.__changed?.({number}) ? ({change.whole}) : ({piece(first, last, within)}))")
            at, inside = last, rest[len(within) :]
        return "".join([*parts, units[2 * at : 2 * end].decode("utf-16-le")])

    ordered = sorted(changes, key=lambda entry: (entry[1].place[0], -entry[1].place[1], entry[0]))
    return piece(0, len(units) // 2, ordered)


@dataclass
class Woven:
    """The tests that ask for each change, the quickest first, and how many seconds each takes."""

    asking: dict[int, list[str]] = field(default_factory=dict)
    seconds: dict[str, float] = field(default_factory=dict)

    @classmethod
    def read(cls, lines: Sequence[str]) -> "Woven":
        """From lines of JSON, one a test that passed: its name, the changes it asked for and its seconds."""
        found = cls()
        for line in lines:
            row = json.loads(line)
            found.seconds[row["test"]] = row["seconds"]
            for number in row["asked"]:
                found.asking.setdefault(number, []).append(row["test"])
        for tests in found.asking.values():
            tests.sort(key=lambda test: (found.seconds[test], test))
        return found


def build(copies: Sequence[Path], root: Path, changes: Sequence[Expression]) -> None:
    """Build the interface with all changes woven in, and put it into each copy of the checkout. Raises where that fails."""
    first = copies[0]
    by_path: dict[Path, list[tuple[int, Expression]]] = {}
    for number, change in enumerate(changes):
        by_path.setdefault(change.path, []).append((number, change))
    before = {path: path.read_text(encoding="utf-8") for path in by_path}
    try:
        for path, its in by_path.items():
            (first / path.relative_to(root)).write_text(weave(before[path], its), encoding="utf-8")
        command = ["npm", "run", "build"]
        subprocess.run(command, cwd=first / "web", env=node_environment(), check=True, stdout=subprocess.DEVNULL)
    finally:
        for path, text in before.items():
            (first / path.relative_to(root)).write_text(text, encoding="utf-8")
    for other in copies[1:]:
        shutil.copytree(first / "web" / "dist", other / "web" / "dist", dirs_exist_ok=True)


def asked(copy: Path, processes: int) -> Woven:
    """Run the browser tests with no change on, and see which of them ask for which. One that fails as it is judges nothing."""
    told = copy / ".asked"
    told.unlink(missing_ok=True)
    words = ["-m", "pytest", "-q", "-p", "no:cacheprovider", "-n", str(processes), "--dist", "worksteal", TESTS]
    environment = {**os.environ, "HUVREN_ASKED": str(told), "HUVREN_DB_NAME": f"mutate_{copy.name}"}
    run = subprocess.run([str(PYTHON), *words], cwd=copy, capture_output=True, text=True, env=environment)
    print(run.stdout.strip().rpartition("\n")[2], file=sys.stderr, flush=True)
    return Woven.read(told.read_text(encoding="utf-8").splitlines())
