"""Public array functions of the core say what they take, give and raise, in numpydoc's form and judged by its own checker."""

import ast
import pkgutil
import re
from pathlib import Path

import pytest
from numpydoc.validate import validate

import huvren.core

CORE = Path(huvren.core.__file__).parent
ARRAYS = {"Floats", "Bytes", "Words", "Integers", "Flags", "ArrayLike"}
WANTED = {
    "GL01", "GL03", "GL07", "GL08", "SS01", "PR01", "PR02", "PR03", "PR04", "PR05", "PR06", "PR07", "PR09", "PR10",
    "RT01", "RT03", "RT05", "YD01",
}  # fmt: skip


def takes_or_gives_arrays(function: ast.FunctionDef) -> bool:
    annotations = [argument.annotation for argument in (*function.args.args, *function.args.kwonlyargs)] + [function.returns]
    return any(isinstance(node, ast.Name) and node.id in ARRAYS for given in annotations if given for node in ast.walk(given))


def named(body: list[ast.stmt], before: str) -> list[str]:
    names = []
    for node in body:
        if isinstance(node, ast.ClassDef) and not node.name.startswith("_"):
            names += named(node.body, f"{before}.{node.name}")
        elif isinstance(node, ast.FunctionDef) and not node.name.startswith("_") and takes_or_gives_arrays(node):
            names.append(f"{before}.{node.name}")
    return names


def modules() -> list[str]:
    return [found.name for found in pkgutil.walk_packages([str(CORE)], "huvren.core.") if not found.ispkg]


FUNCTIONS = [
    name
    for module in modules()
    for name in named(ast.parse((CORE.parents[1] / f"{module.replace('.', '/')}.py").read_text()).body, module)
]


def test_there_are_array_functions() -> None:
    assert len(FUNCTIONS) > 200


@pytest.mark.parametrize("module", sorted({name.rsplit(".", 1)[0] for name in FUNCTIONS}))
def test_array_functions_say_what_they_take_and_give(module: str) -> None:
    wrong = [
        f"{name}: {code} {said}"
        for name in FUNCTIONS
        if name.rsplit(".", 1)[0] == module
        for code, said in validate(name)["errors"]
        if code in WANTED
    ]
    assert not wrong, "\n".join(wrong)


def fields_without_a_line(source: str) -> list[str]:
    """Fields of public dataclasses that are neither followed by a line, nor told of in the class, nor by their declaration."""
    missing = []
    for node in ast.walk(ast.parse(source)):
        if not isinstance(node, ast.ClassDef) or node.name.startswith("_"):
            continue
        if not any("dataclass" in ast.unparse(decorator) for decorator in node.decorator_list):
            continue
        told = "\n".join(
            line.value.value
            for line in node.body
            if isinstance(line, ast.Expr) and isinstance(line.value, ast.Constant) and isinstance(line.value.value, str)
        )
        for place, field in enumerate(node.body):
            if not isinstance(field, ast.AnnAssign) or "describes=" in ast.unparse(field):
                continue
            behind = node.body[place + 1] if place + 1 < len(node.body) else None
            has_line = isinstance(behind, ast.Expr) and isinstance(behind.value, ast.Constant)
            if not has_line and not re.search(rf"(?<!\w){ast.unparse(field.target)}(?:, \w+)* :", told):
                missing.append(f"{node.name}.{ast.unparse(field.target)}")
    return missing


def test_a_field_without_a_line_is_noticed() -> None:
    source = '@dataclass\nclass A:\n    """b : told."""\n\n    a: int\n    b: int\n    c: int\n    """Told."""\n'
    assert fields_without_a_line(source) == ["A.a"]


def test_every_field_of_a_dataclass_has_a_line() -> None:
    missing = {str(path.relative_to(CORE)): fields_without_a_line(path.read_text()) for path in CORE.rglob("*.py")}
    assert {path: names for path, names in missing.items() if names} == {}
