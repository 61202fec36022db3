"""The core as a library of its own: built, installed into a clean environment, imported and called. No database, no server."""

import ast
import hashlib
import json
import os
import re
import subprocess
import sys
import tomllib
import venv
import zipfile
from collections.abc import Iterator
from importlib.metadata import Distribution, distribution, distributions, packages_distributions
from pathlib import Path

import pytest
from packaging.requirements import Requirement
from packaging.utils import canonicalize_name

import huvren
from tools import licenses, needs, node, offline, postgres, setup, steps
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


def declared(of: Distribution, known: set[str]) -> Iterator[Distribution]:
    """Everything that a distribution declares to need here, and what that needs in turn, each once, as it is installed."""
    for entry in map(Requirement, of.requires or []):
        name = canonicalize_name(entry.name)
        if name not in known and (entry.marker is None or entry.marker.evaluate({"extra": ""})):
            known.add(name)
            found = distribution(entry.name)
            assert found.version in entry.specifier, entry
            yield found
            yield from declared(found, known)


@pytest.fixture(scope="module")
def installed(wheel: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The bin folder of a clean environment with nothing but the wheel and what it declares."""
    folder = tmp_path_factory.mktemp("clean")
    venv.create(folder, with_pip=False)
    python = folder / "bin" / "python"
    plain = ("-q", "--no-deps", "--no-index", "--no-compile")
    run(sys.executable, "-m", "pip", "--python", python, "install", *plain, wheel, folder=folder)
    place = Path(run(python, "-c", "import sysconfig; print(sysconfig.get_path('purelib'))", folder=folder).strip())
    (own,) = distributions(path=[str(place)])
    for needed in declared(own, set()):
        for file in set(needed.files or []):
            if ".." not in file.parts and file.suffix != ".pyc":
                (place / file).parent.mkdir(parents=True, exist_ok=True)
                (place / file).symlink_to(Path(str(file.locate())))
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
    # Few kernels, as each is compiled anew here.
    few = ("--chooser", "most-used", "--dither", "none")
    env = {"XDG_CACHE_HOME": str(tmp_path / "cache")}
    run(installed / "huvren", "reduce", "a.png", "--colors", "4", *few, "--out", "b.png", folder=tmp_path, **env)
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


def tiny_wheel(folder: Path) -> str:
    """A wheel of a package that no index has, and the line of a lock file that names it."""
    path = folder / "huvren_tiny_test-1.0-py3-none-any.whl"
    about = "huvren_tiny_test-1.0.dist-info"
    folder.mkdir(parents=True, exist_ok=True)
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("huvren_tiny_test.py", "SAID = 'here'\n")
        archive.writestr(f"{about}/METADATA", "Metadata-Version: 2.1\nName: huvren-tiny-test\nVersion: 1.0\n")
        archive.writestr(f"{about}/WHEEL", "Wheel-Version: 1.0\nGenerator: test\nRoot-Is-Purelib: true\nTag: py3-none-any\n")
        archive.writestr(f"{about}/RECORD", "")
    return f"huvren-tiny-test==1.0 --hash=sha256:{hashlib.sha256(path.read_bytes()).hexdigest()}\n"


@pytest.fixture
def elsewhere(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A machine that reaches no index, with a lock file and a folder that was packed for it."""
    packed, root = tmp_path / "packed", tmp_path / "root"
    root.mkdir()
    (root / "requirements.lock").write_text(tiny_wheel(packed / "wheels"))
    (packed / "interface").mkdir()
    (packed / "interface" / "index.html").write_text("packed")
    (packed / "belongs-to").write_text(f"{setup.interface_key()}\n")
    for name, value in {"PIP_INDEX_URL": "http://127.0.0.1:9/", "PIP_NO_CACHE_DIR": "1"}.items():
        monkeypatch.setenv(name, value)
    monkeypatch.delenv("PIP_FIND_LINKS", raising=False)
    monkeypatch.setattr(setup, "ROOT", root)
    for module in (setup, steps):
        monkeypatch.setattr(module, "STATE", tmp_path / "state")
        monkeypatch.setattr(module, "PYTHON", tmp_path / "state" / "venv" / "bin" / "python")
    monkeypatch.setattr(steps, "LOGS", tmp_path / "logs")
    return packed


def test_packages_come_from_a_packed_folder_and_from_nowhere_else(elsewhere: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("HUVREN_OFFLINE", "")
    monkeypatch.setattr(steps, "ROOT", setup.ROOT)
    offline.use(str(elsewhere))
    setup.set_up_python(development=False)
    assert run(setup.PYTHON, "-c", "import huvren_tiny_test; print(huvren_tiny_test.SAID)", folder=elsewhere) == "here\n"
    # What is not in it is said, with the folder; no index is asked for it.
    (setup.ROOT / "requirements.lock").write_text(f"attrs==26.1.0 --hash=sha256:{'0' * 64}\n")
    with pytest.raises(StepFailed, match=f"(?s)No matching distribution.*Is all of it in {elsewhere}") as refused:
        setup.set_up_python(development=False)
    assert "127.0.0.1" not in str(refused.value)


def test_an_interface_is_taken_for_the_version_that_it_was_packed_for(
    elsewhere: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("HUVREN_OFFLINE", str(elsewhere))
    target = tmp_path / "dist"
    target.mkdir()
    (target / "old.js").write_text("of before")
    offline.take_interface(target, setup.interface_key())
    assert [path.name for path in target.iterdir()] == ["index.html"]
    with pytest.raises(StepFailed, match="packed for another version"):
        offline.take_interface(target, "another")
    (elsewhere / "belongs-to").unlink()
    with pytest.raises(StepFailed, match="packed for another version"):
        offline.take_interface(target, setup.interface_key())
    assert (target / "index.html").read_text() == "packed"


def test_what_is_no_packed_folder_is_said_and_nothing_is_written_over(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("HUVREN_OFFLINE", "")
    with pytest.raises(StepFailed, match=r"no folder that \./run pack wrote"):
        offline.use(str(tmp_path))
    assert offline.pip_words() == []
    (tmp_path / "mine").write_text("mine")
    with pytest.raises(StepFailed, match="is not empty"):
        offline.pack(tmp_path, ROOT / "requirements.lock", tmp_path, "key")
    assert [path.name for path in tmp_path.iterdir()] == ["mine"]


def test_the_client_of_the_database_is_enough_for_backups_of_one_that_is_elsewhere(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    for name in ("pg_dump", "psql", "pg_restore"):
        (tmp_path / name).write_text("#!/bin/sh\n")
        (tmp_path / name).chmod(0o755)
    monkeypatch.setenv("PATH", str(tmp_path))
    monkeypatch.setattr(Path, "glob", lambda path, pattern: iter(()))
    assert needs.postgres_programs("pg_dump") == tmp_path
    assert needs.CLIENT.is_there()
    assert not needs.POSTGRES.is_there()
    assert needs.POSTGRES not in needs.KEEPING
