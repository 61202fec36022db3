"""Which tests run a line, as a run of them says."""

from pathlib import Path

import pytest

from tools import reach

MODULE = '''"""A module."""


def clamp(value, low):
    if value < low:
        return low
    return value


def label(count):
    return f"{count}"
'''
TESTS = """import sys
import pytest
sys.path.insert(0, "source")
import module


@pytest.fixture(scope="module")
def clamped():
    return module.clamp(1, 2)


def test_low(clamped):
    assert clamped == 2


@pytest.mark.parametrize("value", [5, 6])
def test_others(value):
    assert module.clamp(value, 2) == value
"""


@pytest.fixture
def checkout(tmp_path: Path) -> Path:
    for folder, name, text in (("source", "module.py", MODULE), ("tests", "test_module.py", TESTS)):
        (tmp_path / folder).mkdir()
        (tmp_path / folder / name).write_text(text)
    (tmp_path / "pytest.ini").write_text("[pytest]\naddopts = -p no:django\n")
    return tmp_path


def test_a_line_has_the_tests_that_run_it_and_their_fixtures_do(checkout: Path) -> None:
    found = reach.watched(checkout, "source", "tests", 1)
    low, first, second = (f"tests/test_module.py::{name}" for name in ("test_low", "test_others[5]", "test_others[6]"))
    assert set(found.tests_of("source/module.py", 5)) == {low, first, second}
    assert found.tests_of("source/module.py", 6) == [low]
    assert set(found.tests_of("source/module.py", 7)) == {first, second}
    assert found.tests_of("source/module.py", 11) == [], "nothing says how many"
    assert found.seconds.keys() == {low, first, second}
    assert found.time_of([low, first]) == found.seconds[low] + found.seconds[first]


def test_tests_that_fail_as_they_are_judge_nothing(checkout: Path) -> None:
    (checkout / "tests" / "test_module.py").write_text("def test_wrong():\n    assert False\n")
    with pytest.raises(RuntimeError, match="do not pass as they are"):
        reach.watched(checkout, "source", "tests", 1)


def test_it_is_seen_once_as_long_as_nothing_changes(checkout: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    runs = []
    monkeypatch.setattr(reach, "STATE", checkout / "state")
    monkeypatch.setattr(reach, "watched", lambda *words: runs.append(words) or reach.Reach({"a.py": {"1": ["t"]}}, {"t": 0.5}))
    once, again = (reach.reach_of(checkout, "source", "tests") for _ in range(2))
    assert once == again
    assert len(runs) == 1
    (checkout / "source" / "module.py").write_text(MODULE + "\n# another word\n")
    reach.reach_of(checkout, "source", "tests")
    assert len(runs) == 2


def test_the_quickest_come_first() -> None:
    found = reach.Reach({"a.py": {"1": ["slow", "quick", "unknown"]}}, {"slow": 3.0, "quick": 0.1})
    assert found.tests_of("a.py", 1) == ["unknown", "quick", "slow"]
