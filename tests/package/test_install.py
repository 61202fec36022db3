"""The core as a library of its own: built, installed into a clean environment, imported and called. No database, no server."""

import ast
import json
import os
import re
import subprocess
import sys
import tomllib
import venv
import zipfile
from importlib.metadata import packages_distributions
from pathlib import Path

import pytest

import huvren
from tools import licenses, node, postgres, setup
from tools.needs import Need, ensure
from tools.steps import ROOT, StepFailed


def run(*command: str | Path, folder: Path, **env: str) -> str:
    plain = {key: value for key, value in os.environ.items() if key not in ("PYTHONPATH", "DJANGO_SETTINGS_MODULE", "HUVREN_STATE")}
    done = subprocess.run([str(word) for word in command], cwd=folder, env=plain | env, capture_output=True, text=True)
    assert done.returncode == 0, done.stderr[-2000:] + done.stdout[-1000:]
    return done.stdout


@pytest.fixture(scope="module")
def wheel(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("wheel")
    source = tmp_path_factory.mktemp("source")
    # A clean export of what is versioned or about to be, so that nothing else of this checkout can slip in.
    listed = run("git", "ls-files", "-co", "--exclude-standard", "huvren", "pyproject.toml", "README.md", "LICENSE", folder=ROOT)
    for name in listed.split("\n"):
        if name and (ROOT / name).exists():
            (source / name).parent.mkdir(parents=True, exist_ok=True)
            (source / name).write_bytes((ROOT / name).read_bytes())
    run(sys.executable, "-m", "pip", "wheel", "--no-deps", "-q", "-w", folder, source, folder=folder)
    return next(folder.glob("*.whl"))


@pytest.fixture(scope="module")
def installed(wheel: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The bin folder of a clean environment with nothing but the wheel and what it declares."""
    folder = tmp_path_factory.mktemp("clean")
    venv.create(folder, with_pip=True)
    run(folder / "bin" / "python", "-m", "pip", "install", "-q", "--no-compile", wheel, folder=folder)
    return folder / "bin"


def test_the_wheel_holds_what_the_core_reads(wheel: Path) -> None:
    names = zipfile.ZipFile(wheel).namelist()
    for wanted in ("reflectance_to_linear_srgb.npy", "blue_noise_64.npy", "formats/text_lists/gpl.py", "cli/main.py"):
        assert any(name.endswith(wanted) for name in names), wanted
    assert not any(name.startswith(("tests", "web", "tools", "bench")) for name in names)


def test_the_library_works_by_itself(installed: Path, tmp_path: Path) -> None:
    program = """
import sys
from huvren.core.color.notation import parse_color
from huvren.core.ramp.stops import Stop
from huvren.core.ramp.values import Ramp
from huvren.core.ramp.ways import Lane
import huvren.core.stored
ramp = Ramp((Stop(parse_color("#0b58c4")), Stop(parse_color("#ffa22e"))), Lane.of("oklch", "longer"))
print([color.hex for color in ramp.baked(3)], "django" in sys.modules)
"""
    assert run(installed / "python", "-c", program, folder=tmp_path).split()[-1] == "False"
    said = json.loads(run(installed / "huvren", "formats", "--json", folder=tmp_path))
    assert {"gpl", "ase", "indexed-png"} <= {entry["id"] for entry in said["formats"]}
    assert run(installed / "huvren", "--version", folder=tmp_path).startswith("huvren ")


def test_the_command_reduces_a_picture_with_what_is_declared(installed: Path, tmp_path: Path) -> None:
    make = "from PIL import Image; Image.radial_gradient('L').convert('RGB').save('a.png')"
    run(installed / "python", "-c", make, folder=tmp_path)
    run(
        installed / "huvren",
        "reduce",
        "a.png",
        "--colors",
        "4",
        # Few kernels, as each is compiled anew here.
        "--chooser",
        "most-used",
        "--dither",
        "none",
        "--out",
        "b.png",
        folder=tmp_path,
        XDG_CACHE_HOME=str(tmp_path / "cache"),
    )
    assert (tmp_path / "b.png").read_bytes()[:4] == b"\x89PNG"
    assert list((tmp_path / "cache" / "huvren" / "kernels").iterdir()), "kernels are kept where a user keeps caches"


def imported(path: Path) -> set[str]:
    """The top-level packages that a file imports, anywhere in it."""
    found = set()
    for part in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
        if isinstance(part, ast.Import):
            found |= {alias.name.split(".")[0] for alias in part.names}
        elif isinstance(part, ast.ImportFrom) and part.module:
            found.add(part.module.split(".")[0])
    return found


def test_what_the_core_and_the_command_import_is_declared() -> None:
    declared = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]["dependencies"]
    names = {re.split(r"[<>=~\[ ]", entry)[0].lower().replace("_", "-") for entry in declared}
    owners = packages_distributions()
    for path in [*(ROOT / "huvren" / "core").rglob("*.py"), *(ROOT / "huvren" / "cli").rglob("*.py")]:
        for module in imported(path):
            if module in sys.stdlib_module_names or module == "huvren":
                continue
            found = {owner.lower().replace("_", "-") for owner in owners.get(module, [module])}
            assert found & (names | {"llvmlite", "annotated-types"}), f"{path}: {module} is not declared"


def test_locks_pin_everything_by_hash_and_name_no_registry() -> None:
    for name in ("requirements.lock", "requirements-dev.lock", "requirements-node.lock"):
        text = (ROOT / name).read_text(encoding="utf-8")
        pins = re.findall(r"^([\w.\[\]-]+)==[^ ]+ \\\n((?:    --hash=sha256:[0-9a-f]{64}(?: \\)?\n)+)", text, re.MULTILINE)
        assert len(pins) == text.count("=="), name
        assert "://" not in text


def test_what_is_missing_is_named_in_one_sentence_with_one_command(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(os, "geteuid", lambda: 1000)
    needs = tuple(
        Need(what, package, lambda: False) for what, package in (("a thing", "thing"), ("a second", "second"), ("a third", "third"))
    )
    with pytest.raises(StepFailed) as caught:
        ensure(needs)
    assert str(caught.value) == (
        "Missing on this machine: a thing, a second and a third. As its administrator, install all of it with: "
        "apt-get install --no-install-recommends thing second third"
    )
    ensure(tuple(Need("there", "there", lambda: True) for _ in range(2)))


@pytest.mark.parametrize(
    ("said", "fits"), [("v20.19.0", True), ("v20.18.9", False), ("v24.1.0", True), ("v18.20.4", False), ("nonsense", False)]
)
def test_a_node_that_is_there_and_new_enough_is_used(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, said: str, fits: bool) -> None:
    for name in ("node", "npm"):
        (tmp_path / name).write_text(f"#!/bin/sh\necho {said}\n")
        (tmp_path / name).chmod(0o755)
    monkeypatch.setenv("PATH", f"{tmp_path}:/usr/bin:/bin")
    monkeypatch.setattr(node, "once", lambda name, key: False)
    node.bin_folder.cache_clear()
    assert node.bin_folder() == (None if fits else setup.STATE / "venv" / "bin")
    node.bin_folder.cache_clear()


@pytest.mark.skipif(os.geteuid() != 0, reason="only root has to look for another place")
def test_a_cluster_lies_where_its_user_may_enter(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    closed = tmp_path / "closed"
    closed.mkdir(mode=0o700)
    monkeypatch.setattr(postgres, "OUTSIDE", tmp_path / "outside")
    monkeypatch.setattr(postgres, "STATE", closed / ".huvren")
    outside = postgres.cluster_folder("studio")
    assert outside.is_relative_to(tmp_path / "outside")
    assert postgres.cluster_folder("studio") == outside, "the same place each time"
    monkeypatch.setattr(postgres, "STATE", Path("/var/lib/huvren-test-open"))
    assert postgres.cluster_folder("studio") == Path("/var/lib/huvren-test-open/studio")


def test_the_licenses_of_what_ships_are_collected() -> None:
    text = licenses.render()
    for wanted in ("SIL OPEN FONT LICENSE", "react-dom", "Django 5.2", "numpy", "@tanstack/react-query", "MIT"):
        assert wanted in text, wanted
    assert "vitest" not in text, "what is only for work on the code does not ship"
    assert "pytest" not in {name.split()[0] for name, _, _ in licenses.of_the_server()}


def test_every_place_that_names_the_version_names_the_same() -> None:
    web = json.loads((ROOT / "web" / "package.json").read_text())["version"]
    locked = json.loads((ROOT / "web" / "package-lock.json").read_text())
    schema = json.loads((ROOT / "openapi.json").read_text())["info"]["version"]
    newest = next(line for line in (ROOT / "CHANGELOG.md").read_text().splitlines() if line.startswith("## "))
    assert {web, locked["version"], locked["packages"][""]["version"], schema, newest.split()[1].rstrip(",")} == {huvren.__version__}
