"""`./run mutate`: its changes are single, sound and seeded, and a change that nothing notices is told from one that is."""

import ast
import difflib
import shutil
from pathlib import Path

import pytest

from tools import mutate
from tools.reach import Reach
from tools.steps import ROOT

SOURCE = '''"""A module."""

LIMIT = 3


def clamp(value, low, high):
    """Keep a value between two ends."""
    if value < low and not value == high:
        return low
    return min(value, high) + 0


def label(count):
    return f"{count} " + ("one" if count == 1 else "many")
'''


@pytest.fixture
def module(tmp_path: Path) -> Path:
    path = tmp_path / "module.py"
    path.write_text(SOURCE)
    return path


def test_every_change_is_one_line_of_sound_python_that_differs(module: Path) -> None:
    found = mutate.changes(module)
    assert len(found) > 6
    for change in found:
        ast.parse(change.text)
        lines = [line for line in difflib.ndiff(SOURCE.splitlines(), change.text.splitlines()) if line[:2] in ("- ", "+ ")]
        assert [line[0] for line in lines] == ["-", "+"], change
        assert SOURCE.splitlines()[change.line - 1] in lines[0]
    assert len({change.text for change in found}) == len(found)


def test_the_changes_are_those_that_tests_should_notice(module: Path) -> None:
    pairs = {(change.before, change.after) for change in mutate.changes(module)}
    for wanted in (
        ("value < low", "(value <= low)"), ("value == high", "(value != high)"), ("not value == high", "(value == high)"),
        ("min(value, high)", "(max(value, high))"), ("0", "1"), ("count == 1", "(count != 1)"),
    ):  # fmt: skip
        assert wanted in pairs, pairs
    assert not any(before == "3" for before, _ in pairs), "constants of the module are left alone"
    assert not any('f"' in before and after.count(" - ") for before, after in pairs), "text is not subtracted"


def test_the_same_seed_makes_the_same_changes_and_kernels_are_left_out() -> None:
    files = mutate.candidates([ROOT / "huvren" / "core"])
    names = {path.relative_to(ROOT / "huvren" / "core").as_posix() for path in files}
    assert {"ramp/css.py", "palette/merging.py", "formats/binary/ase.py"} <= names
    assert not names & {"color/kernels.py", "reduction/tiles.py", "palette/path_kernels.py", "compiled.py"}
    assert mutate.changes(ROOT / "huvren/core/ramp/css.py") == mutate.changes(ROOT / "huvren/core/ramp/css.py")


@pytest.fixture
def copy(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A tiny checkout: one module, and one test that looks at half of it."""
    root = tmp_path / "root"
    (root / "huvren" / "core").mkdir(parents=True)
    (root / "tests" / "core").mkdir(parents=True)
    (root / "huvren" / "core" / "module.py").write_text(SOURCE)
    (root / "tests" / "core" / "test_module.py").write_text(
        "import sys\nsys.path.insert(0, 'huvren/core')\nimport module  # huvren.core.module\n\n\n"
        "def test_low():\n    assert module.clamp(1, 2, 9) == 2\n    assert module.clamp(12, 2, 9) == 9\n"
    )
    (root / "pytest.ini").write_text("[pytest]\naddopts = -p no:django\n")
    monkeypatch.setattr(mutate, "ROOT", root)
    made = tmp_path / "copy"
    shutil.copytree(root, made)
    return made


def test_what_a_test_notices_is_told_from_what_survives(copy: Path) -> None:
    found = {change.before: change for change in mutate.changes(mutate.ROOT / "huvren" / "core" / "module.py")}
    target = copy / "huvren" / "core" / "module.py"
    assert not mutate.survives(found["min(value, high)"], copy, 60)
    assert mutate.survives(found["count == 1"], copy, 60), "nothing tests the label"
    assert target.read_text() == SOURCE, "each change is taken back"


def test_tests_that_reach_a_line_are_asked_wherever_they_stand(copy: Path) -> None:
    found = {change.before: change for change in mutate.changes(mutate.ROOT / "huvren" / "core" / "module.py")}
    (copy / "tests" / "core" / "test_module.py").unlink()
    other = copy / "tests" / "core" / "test_other.py"
    other.write_text("import importlib, sys\nsys.path.insert(0, 'huvren/core')\n\n\ndef test_one():\n"
                     "    assert importlib.import_module('mod' + 'ule').label(1) == '1 one'\n")  # fmt: skip
    change = found["count == 1"]
    assert mutate.survives(change, copy, 60), "no file names the module"
    assert mutate.survives(change, copy, 60, Reach({}, {})), "and none is known to run it"
    reach = Reach({"huvren/core/module.py": {str(change.line): ["tests/core/test_other.py::test_one"]}}, {})
    assert not mutate.survives(change, copy, 60, reach)


def test_sources_of_the_interface_are_changed_over_their_syntax_tree(tmp_path: Path) -> None:
    path = tmp_path / "module.tsx"
    path.write_text(
        "const LIMIT = 3;\nexport const low = (a: number) => (a < 2 && !(a === 7) ? a + 1 : LIMIT);\n"
        "export const said = (a: number): string => `${a} ` + 'of';\n"
        "export function View() {\n  return <p tabIndex={0}>{true}</p>;\n}\n"
    )
    pairs = {(change.line, change.before, change.after) for change in mutate.changes(path)}
    assert pairs >= {
        (2, "a < 2", "<="), (2, "!(a === 7)", "(a === 7)"), (2, "a === 7", "!=="), (2, "a + 1", "-"), (2, "7", "8"),
        (2, "a < 2 && !(a === 7)", "||"), (5, "true", "false"),
    }  # fmt: skip
    assert not any(line in (1, 3) for line, _, _ in pairs), "constants of a module and text are left alone"
    assert not any(before == "0" for _, before, _ in pairs), "so is what is drawn"


def test_each_source_has_its_tests() -> None:
    assert mutate.area_of(ROOT / "huvren/studio/access.py").tests == "tests/server"
    assert mutate.area_of(ROOT / "web/src/api/asking.ts") is mutate.AREAS["web"]
    with pytest.raises(ValueError, match="belongs to none"):
        mutate.area_of(ROOT / "tools/mutate.py")
    names = {path.name for path in mutate.candidates([ROOT / "web" / "src", ROOT / "huvren" / "studio"])}
    assert {"asking.ts", "strip.tsx", "access.py"} <= names
    assert not names & {"schema.d.ts", "asking.test.tsx", "0005_references.py"}
