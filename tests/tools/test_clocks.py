"""No test reads a clock: what is slow on a busy machine is not wrong. Speed is measured by `./run bench`."""

import ast
from pathlib import Path

import pytest

TESTS = Path(__file__).resolve().parent.parent
ALLOWED = {
    "waiting.py": "how long is too long to wait",
    "large.py": "a table of how long large files take",
    "fuzzing.py": "its report",
    "fuzzing_api.py": "its report",
    "follow_operating.py": "no test of this suite: it sets up a whole machine and waits for that",
}


def clocks_in(source: str) -> list[str]:
    """What reads a clock or waits for a time in a piece of Python."""
    found = []
    for node in ast.walk(ast.parse(source)):
        if isinstance(node, ast.Import) and any(name.name == "time" for name in node.names):
            found.append("import time")
        elif isinstance(node, ast.ImportFrom) and node.module == "time":
            found.append("from time")
        elif isinstance(node, ast.Attribute) and node.attr == "wait_for_timeout":
            found.append(node.attr)
    return found


@pytest.mark.parametrize("path", [p for p in sorted(TESTS.rglob("*.py")) if p.name not in ALLOWED], ids=lambda p: p.name)
def test_no_clock_is_read(path: Path) -> None:
    assert clocks_in(path.read_text()) == []


def test_clocks_are_found() -> None:
    source = "import time\nfrom time import sleep\npage.wait_for_timeout(3)\n"
    assert clocks_in(source) == ["import time", "from time", "wait_for_timeout"]
