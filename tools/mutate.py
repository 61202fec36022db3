"""Change single lines and see whether a test notices: `./run mutate [--area core|studio|web] [--count N] [--seed S] [PATH …]`.

Each change is made in a copy of the checkout, several at a time in several copies. The tests run that reach the changed line
(`tools/reach.py`), the quickest first, and then those whose file names the changed module, which may reach it in another process; a
change that all of them pass survives and is listed. A run that takes far longer than it did without the change is ended and counts as
noticed: the change goes round without end. Compiled kernels are left out: each would be compiled anew. Sources of the interface are
changed by `web/tools/changes.mjs`, over their syntax tree; of its tests those run that use the changed file, and then the browser
tests that come by the changed expression (`tools/woven.py`).
"""

import argparse
import ast
import dataclasses
import json
import os
import queue
import random
import re
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

from tools import woven
from tools.node import node_environment
from tools.reach import Reach, reach_of
from tools.steps import PYTHON, ROOT

CORE = ROOT / "huvren" / "core"
WEB = ROOT / "web"
LEFT_OUT = ("compile_all.py", "compiled.py", "kernels")
SWAPS: dict[type, type] = {
    ast.Lt: ast.LtE, ast.LtE: ast.Lt, ast.Gt: ast.GtE, ast.GtE: ast.Gt, ast.Eq: ast.NotEq, ast.NotEq: ast.Eq, ast.Is: ast.IsNot,
    ast.IsNot: ast.Is, ast.In: ast.NotIn, ast.NotIn: ast.In, ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div,
    ast.Div: ast.Mult, ast.FloorDiv: ast.Div, ast.Mod: ast.Mult, ast.And: ast.Or, ast.Or: ast.And,
}  # fmt: skip


@dataclass(frozen=True)
class Area:
    """Where sources lie and where their tests do."""

    sources: str
    tests: str


AREAS = {
    "core": Area("huvren/core", "tests/core"),
    "studio": Area("huvren/studio", "tests/server"),
    "web": Area("web/src", "web/src"),
}
GENERATED = ("schema.d.ts", "migrations")


def area_of(path: Path) -> Area:
    """The area of a source. Raises `ValueError` for one that belongs to none."""
    inside = path.relative_to(ROOT).as_posix()
    for area in AREAS.values():
        if inside.startswith(f"{area.sources}/"):
            return area
    raise ValueError(f"{inside} belongs to none of {', '.join(AREAS)}.")


@dataclass(frozen=True)
class Change:
    """One node of a file written otherwise.

    text : the whole file with it. place : of a source of the interface where the expression stands, in units of UTF-16
    whole : the same, how it reads then
    """

    path: Path
    line: int
    before: str
    after: str
    text: str
    place: tuple[int, int] = (0, 0)
    whole: str = ""

    def __str__(self) -> str:
        return f"{self.path.relative_to(ROOT)}:{self.line}: {self.before}  →  {self.after}"


def _other(node: ast.AST) -> ast.AST | None:
    """The node changed, or None where there is nothing to change about it."""
    match node:
        case ast.Compare(left=left, ops=[op], comparators=right) if type(op) in SWAPS:
            return ast.Compare(left, [SWAPS[type(op)]()], right)
        case ast.BinOp(left=left, op=op, right=right) if type(op) in SWAPS:
            is_text = any(isinstance(side, ast.Constant | ast.JoinedStr) and not _is_number(side) for side in (left, right))
            return None if is_text else ast.BinOp(left, SWAPS[type(op)](), right)
        case ast.BoolOp(op=op, values=values):
            return ast.BoolOp(SWAPS[type(op)](), values)
        case ast.UnaryOp(op=ast.Not(), operand=operand):
            return operand
        case ast.Constant(value=bool(value)):
            return ast.Constant(not value)
        case ast.Constant(value=int(value) | float(value)):
            return ast.Constant(value + 1)
        case ast.Call(func=ast.Name(id=("min" | "max") as name), args=args, keywords=keywords):
            return ast.Call(ast.Name("max" if name == "min" else "min"), args, keywords)
        case ast.IfExp(test=test, body=body, orelse=orelse):
            return ast.IfExp(test, orelse, body)
    return None


def _is_number(node: ast.AST) -> bool:
    return isinstance(node, ast.Constant) and isinstance(node.value, int | float)


def _inside_functions(tree: ast.Module) -> Iterator[ast.expr]:
    for function in ast.walk(tree):
        if isinstance(function, ast.FunctionDef):
            for statement in function.body:
                yield from (node for node in ast.walk(statement) if isinstance(node, ast.expr))


def _changes_of_web(path: Path) -> list[Change]:
    command = ["node", str(WEB / "tools" / "changes.mjs"), str(path)]
    run = subprocess.run(command, cwd=WEB, env=node_environment(), capture_output=True, check=True, text=True)
    rows = json.loads(run.stdout)
    return [
        Change(path, row["line"], row["before"], row["after"], row["text"], (row["begin"], row["end"]), row["whole"]) for row in rows
    ]


def changes(path: Path) -> list[Change]:
    """Every single change to a file, on one line each."""
    if path.suffix != ".py":
        return _changes_of_web(path)
    source = path.read_text(encoding="utf-8")
    lines = source.splitlines(keepends=True)
    found: dict[tuple[int, int, str], Change] = {}
    for node in _inside_functions(ast.parse(source)):
        other = _other(node)
        if other is None or node.end_lineno != node.lineno or node.end_col_offset is None:
            continue
        row = lines[node.lineno - 1].encode()
        after = f"({ast.unparse(ast.fix_missing_locations(other))})" if not isinstance(other, ast.Constant) else ast.unparse(other)
        before = row[node.col_offset : node.end_col_offset].decode()
        text = (row[: node.col_offset] + after.encode() + row[node.end_col_offset :]).decode()
        whole = "".join([*lines[: node.lineno - 1], text, *lines[node.lineno :]])
        try:
            ast.parse(whole)
        except SyntaxError:
            continue
        found[(node.lineno, node.col_offset, after)] = Change(path, node.lineno, before, after, whole)
    return list(found.values())


def candidates(paths: list[Path]) -> list[Path]:
    """The modules below these paths that are not compiled, generated or tests themselves."""
    kinds = ("*.py", "*.ts", "*.tsx")
    files = [file for path in paths for kind in kinds for file in (sorted(path.rglob(kind)) if path.is_dir() else [path])]
    return [
        file for file in dict.fromkeys(files)
        if not any(word in file.name for word in LEFT_OUT) and not any(word in file.as_posix() for word in GENERATED)
        and ".test." not in file.name and "core.compiled" not in file.read_text(encoding="utf-8")
    ]  # fmt: skip


def _near(path: Path, copy: Path) -> list[str]:
    """Test files that name the module, as a path from the checkout."""
    dotted = ".".join(path.relative_to(ROOT).with_suffix("").parts).removesuffix(".__init__")
    every = sorted((copy / area_of(path).tests).rglob("test_*.py"))
    package, _, name = dotted.rpartition(".")
    named = re.compile(rf"\b{re.escape(dotted)}\b|from {re.escape(package)} import [^\n]*\b{re.escape(name)}\b")
    return [test.relative_to(copy).as_posix() for test in every if named.search(test.read_text(encoding="utf-8"))]


NO_TESTS = 5
"""What pytest ends with where it found none."""


def _passes(copy: Path, tests: list[str], seconds: float, **more: str) -> bool:
    """Whether these tests pass in a copy, with more of an environment. A copy has a tests' database of its own."""
    listed = copy / ".tests"
    listed.write_text("\n".join(tests), encoding="utf-8")
    command = [str(PYTHON), "-m", "pytest", "-q", "-x", "-p", "no:cacheprovider", "--no-header", f"@{listed}"]
    # Two changes of one file within a second and of one length look alike to Python's bytecode cache.
    environment = {**os.environ, "PYTHONDONTWRITEBYTECODE": "1", "HUVREN_DB_NAME": f"mutate_{copy.name}", **more}
    try:
        return subprocess.run(command, cwd=copy, capture_output=True, timeout=seconds, env=environment).returncode in (0, NO_TESTS)
    except subprocess.TimeoutExpired:
        return False


def _passes_in_web(copy: Path, path: Path, seconds: float) -> bool:
    """Whether the tests pass that use a source of the interface; where none does, nothing notices."""
    command = ["npm", "exec", "--", "vitest", "related", "--run", "--passWithNoTests", str(path.relative_to(WEB))]
    try:
        return subprocess.run(command, cwd=copy / "web", capture_output=True, timeout=seconds).returncode == 0
    except subprocess.TimeoutExpired:
        return False


BEFORE_ANY_S = 90
"""Seconds that a run may take beside its tests: to start, and to make a database."""
SLOWER = 4


def survives(change: Change, copy: Path, each: float, reach: Reach | None = None) -> bool:
    """Whether every test passes with this change. each : seconds for tests of which is not known how long they take."""
    target = copy / change.path.relative_to(ROOT)
    before = target.read_text(encoding="utf-8")
    target.write_text(change.text, encoding="utf-8")
    try:
        if change.path.suffix != ".py":
            return _passes_in_web(copy, change.path, each)
        reaching = reach.tests_of(change.path.relative_to(ROOT).as_posix(), change.line) if reach else []
        if reaching and reach and not _passes(copy, reaching, BEFORE_ANY_S + SLOWER * reach.time_of(reaching)):
            return False
        near = _near(change.path, copy)
        return not near or _passes(copy, near, each)
    finally:
        target.write_text(before, encoding="utf-8")


def _copied(copy: Path) -> Path:
    """A copy of what tests need of the checkout: everything that is kept in it, and the packages of the interface."""
    copy.mkdir()
    kept = subprocess.run(["git", "ls-tree", "--name-only", "HEAD"], cwd=ROOT, capture_output=True, check=True, text=True)
    for name in kept.stdout.split():
        source = ROOT / name
        if source.is_dir():
            shutil.copytree(source, copy / name, ignore=shutil.ignore_patterns("__pycache__", "node_modules", "dist"))
        else:
            # With its time: what was set up for it stays newer.
            shutil.copy2(source, copy / name)
    (copy / "web" / "node_modules").symlink_to(WEB / "node_modules")
    return copy


def _in_browser(outcomes: list[tuple[Change, bool]], copies: list[Path]) -> list[tuple[Change, bool]]:
    """What the browser tests say of changes that survived all others."""
    left = [change for change, is_alive in outcomes if is_alive]
    if not left:
        return outcomes
    print(f"{len(left)} survive the interface's own tests; the browser tests are asked …", file=sys.stderr, flush=True)
    woven.build(copies, ROOT, left)
    found = woven.asked(copies[0], len(copies))
    free: queue.Queue[Path] = queue.Queue()
    for copy in copies:
        free.put(copy)

    def tried(number: int) -> bool:
        tests = found.asking.get(number, [])
        copy = free.get()
        try:
            seconds = BEFORE_ANY_S + SLOWER * sum(found.seconds[test] for test in tests)
            is_alive = not tests or _passes(copy, tests, seconds, HUVREN_CHANGED=str(number))
        finally:
            free.put(copy)
        print(f"{'SURVIVES' if is_alive else 'noticed '} {left[number]}  ({len(tests)} browser tests)", flush=True)
        return is_alive

    with ThreadPoolExecutor(len(copies)) as pool:
        alive = dict(zip(left, pool.map(tried, range(len(left))), strict=True))
    return [(change, alive.get(change, False)) for change, _ in outcomes]


def main() -> int:
    """Make the changes, say what became of each, and list the survivors."""
    parser = argparse.ArgumentParser(prog="./run mutate", description=__doc__)
    parser.add_argument("paths", nargs="*", type=Path, metavar="PATH")
    parser.add_argument("--area", choices=AREAS, default="core")
    parser.add_argument("--count", type=int, default=20)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--seconds", type=float, default=1200, help="begin no further change after this")
    parser.add_argument(
        "--each", type=float, default=900, help="a test file of which no time is known goes round without end after this"
    )
    parser.add_argument("--processes", type=int, default=2, help="changes at a time")
    parser.add_argument("--from", type=int, default=0, dest="first", help="leave out so many of the changes that the seed chooses")
    options = parser.parse_args()
    pool = [
        change
        for path in candidates([p.resolve() for p in options.paths] or [ROOT / AREAS[options.area].sources])
        for change in changes(path)
    ]
    chosen = random.Random(options.seed).sample(pool, min(options.count, len(pool)))[options.first :]
    begun = time.monotonic()
    outcomes: list[tuple[Change, bool]] = []
    with tempfile.TemporaryDirectory(prefix="huvren-mutate-") as folder:
        copies: queue.Queue[Path] = queue.Queue()
        for number in range(options.processes):
            copies.put(_copied(Path(folder) / f"copy{number}"))
        reach = None
        if options.area != "web":
            copy = copies.get()
            reach = reach_of(copy, AREAS[options.area].sources, AREAS[options.area].tests, options.processes)
            copies.put(copy)

        if chosen and reach is not None:
            # A command that pytest does not understand would count as noticed.
            whole = chosen[0].path.read_text(encoding="utf-8")
            if not survives(dataclasses.replace(chosen[0], text=whole), copy, options.each, reach):
                raise RuntimeError(f"Without any change the tests of {chosen[0].path.relative_to(ROOT)} do not pass.")

        def tried(change: Change) -> None:
            if time.monotonic() - begun > options.seconds:
                return
            copy = copies.get()
            try:
                is_alive = survives(change, copy, options.each, reach)
            finally:
                copies.put(copy)
            outcomes.append((change, is_alive))
            print(f"{'SURVIVES' if is_alive else 'noticed '} {change}", flush=True)

        with ThreadPoolExecutor(options.processes) as pool_of_threads:
            list(pool_of_threads.map(tried, chosen))
        if options.area == "web":
            every = [copies.get() for _ in range(options.processes)]
            outcomes = _in_browser(outcomes, every)
    left = [change for change, is_alive in outcomes if is_alive]
    count = len(outcomes)
    kept = f"{(count - len(left)) / max(count, 1):.0%}"
    print(
        f"\n{count} of {len(pool):,} possible changes tried in {options.area} (seed {options.seed}): "
        f"{count - len(left)} noticed ({kept}), {len(left)} survive."
    )
    for change in left:
        print(f"  {change}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
