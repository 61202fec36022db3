"""Changes of the interface in one build: each can be switched on alone, and says that it was asked for."""

import json
import subprocess
from pathlib import Path

import pytest

from tools import mutate, woven
from tools.node import node_environment

SOURCE = """export const near = (a, b) => (a < 2 && !(b === 7) ? a + 1 : 0) + "ö😀".length * (a > 5 ? 3 : 1);
"""


def run(text: str, on: int | None, tmp_path: Path) -> tuple[list[int], list[int]]:
    """What `near` says of some numbers while a change is on, and which were asked for."""
    path = tmp_path / "ran.mjs"
    path.write_text(
        f"const asked = new Set();\n{text}\n"
        + ("" if on is None else f"globalThis.__changed = (n) => (asked.add(n), n === {on});\n")
        + "const said = [[1, 7], [1, 0], [2, 0], [6, 7]].map(([a, b]) => near(a, b));\n"
        "console.log(JSON.stringify([said, [...asked]]));\n",
        encoding="utf-8",
    )
    done = subprocess.run(["node", str(path)], capture_output=True, text=True, check=True, env=node_environment())
    said, asked = json.loads(done.stdout)
    return said, asked


def test_each_change_is_the_one_that_is_made_alone(tmp_path: Path) -> None:
    module = tmp_path / "module.ts"
    module.write_text(SOURCE, encoding="utf-8")
    changes = mutate.changes(module)
    assert len(changes) > 8
    whole = woven.weave(SOURCE, list(enumerate(changes)))
    plain, _ = run(SOURCE, None, tmp_path)
    assert run(whole, None, tmp_path) == (plain, []), "nobody answers: everything is as it is"
    assert run(whole, -1, tmp_path)[0] == plain
    for number, change in enumerate(changes):
        said, asked = run(whole, number, tmp_path)
        assert said == run(change.text, None, tmp_path)[0], change
        assert number in asked or said == plain


def test_what_is_left_of_a_source_stays_as_it_is(tmp_path: Path) -> None:
    assert woven.weave(SOURCE, []) == SOURCE
    module = tmp_path / "module.ts"
    module.write_text(SOURCE, encoding="utf-8")
    last = max(enumerate(mutate.changes(module)), key=lambda entry: entry[1].place)
    text = woven.weave(SOURCE, [last])
    first, end = last[1].place
    units = SOURCE.encode("utf-16-le")
    assert text.startswith(units[: 2 * first].decode("utf-16-le"))
    assert text.endswith(units[2 * end :].decode("utf-16-le"))


def test_tests_are_asked_in_the_order_of_their_seconds() -> None:
    rows = [
        {"test": name, "asked": asked, "seconds": took}
        for name, asked, took in (("slow", [1, 2], 9), ("quick", [2], 1), ("other", [], 1))
    ]
    found = woven.Woven.read([json.dumps(row) for row in rows])
    assert found.asking == {1: ["slow"], 2: ["quick", "slow"]}
    assert found.seconds["slow"] == pytest.approx(9)
