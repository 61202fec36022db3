"""Which tests run which lines: one run of an area's tests under coverage.py, remembered for as long as sources and tests stay.

A change of a line can be noticed only by tests that run it; to run the others would cost minutes a change. What a test reaches in a
process of its own, or takes from a cache that an earlier test has filled, is not seen: see `tools/mutate.py` for what is run beside.
"""

import hashlib
import json
import os
import subprocess
import sys
import xml.etree.ElementTree as ElementTree
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

from coverage import CoverageData

from tools.steps import PYTHON, STATE


@dataclass(frozen=True)
class Reach:
    """Tests by the lines that they run.

    lines : of a file, relative to the checkout, and a line of it the tests that run it, as pytest names them.
    seconds : how long each test took, slowed by being watched.
    """

    lines: dict[str, dict[str, list[str]]]
    seconds: dict[str, float]

    def tests_of(self, path: str, line: int) -> list[str]:
        """The tests that run a line, the quickest first."""
        return sorted(self.lines.get(path, {}).get(str(line), []), key=lambda test: (self.seconds.get(test, 0.0), test))

    def time_of(self, tests: Iterable[str]) -> float:
        """Seconds that these tests took when they were watched."""
        return sum(self.seconds.get(test, 0.0) for test in tests)


def stamp_of(root: Path, folders: Iterable[str]) -> str:
    """A word that is another one when any Python file in these folders is."""
    total = hashlib.sha256()
    for file in sorted(file for folder in folders for file in (root / folder).rglob("*.py")):
        total.update(f"{file.relative_to(root)}\n".encode() + hashlib.sha256(file.read_bytes()).digest())
    return total.hexdigest()


def _seconds_of(report: Path) -> dict[str, float]:
    """How long each test took, from a report in JUnit's form."""
    found: dict[str, float] = {}
    for case in ElementTree.parse(report).iter("testcase"):
        path = case.get("classname", "").replace(".", "/") + ".py"
        found[f"{path}::{case.get('name')}"] = float(case.get("time", "0"))
    return found


def watched(root: Path, sources: str, tests: str, processes: int) -> Reach:
    """Run an area's tests, and see what they reach. Raises `RuntimeError` where they do not pass: then no change can be judged."""
    data, report = root / ".coverage", root / ".reach.xml"
    words = [
        "-m",
        "pytest",
        "-q",
        "-p",
        "no:cacheprovider",
        f"--cov={sources}",
        "--cov-context=test",
        "--cov-report=",
        f"--junitxml={report}",
    ]
    words += ["-n", str(processes), "--dist", "worksteal"] if processes > 1 else []
    run = subprocess.run(
        [str(PYTHON), *words, tests], cwd=root, capture_output=True, text=True, env={**os.environ, "COVERAGE_FILE": str(data)}
    )
    if run.returncode:
        raise RuntimeError(f"The tests do not pass as they are:\n{run.stdout[-3000:]}{run.stderr[-500:]}")
    seen = CoverageData(str(data))
    seen.read()
    lines: dict[str, dict[str, list[str]]] = {}
    for file in seen.measured_files():
        by_line = {
            str(line): sorted({context.rpartition("|")[0] for context in contexts if "|" in context})
            for line, contexts in seen.contexts_by_lineno(file).items()
        }
        lines[Path(file).relative_to(root).as_posix()] = {line: tests for line, tests in by_line.items() if tests}
    return Reach(lines, _seconds_of(report))


def reach_of(root: Path, sources: str, tests: str, processes: int = 1) -> Reach:
    """What `watched` finds, or found when sources and tests were the same. Remembered below the state folder."""
    kept = STATE / "reach" / f"{sources.replace('/', '-')}.json"
    stamp = stamp_of(root, (sources, tests))
    if kept.exists():
        found = json.loads(kept.read_text(encoding="utf-8"))
        if found["stamp"] == stamp:
            return Reach(found["lines"], found["seconds"])
    print(f"Seeing which lines of {sources} each test runs: once, as long as neither changes …", file=sys.stderr, flush=True)
    reach = watched(root, sources, tests, processes)
    kept.parent.mkdir(parents=True, exist_ok=True)
    kept.write_text(json.dumps({"stamp": stamp, "lines": reach.lines, "seconds": reach.seconds}), encoding="utf-8")
    return reach
