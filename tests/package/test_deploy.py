"""What is in `deploy/`: units that systemd's own checker passes, and an image that installs what the checkout asks for."""

import re
import shutil
import subprocess
from pathlib import Path

import pytest

from tools import needs
from tools.steps import ROOT

DEPLOY = ROOT / "deploy"
UNITS = ["huvren.service", "huvren-work.service"]
SETTINGS = (ROOT / "docs" / "OPERATING.md").read_text(encoding="utf-8")


def words(unit: str) -> dict[str, str]:
    """Settings of a unit by name; none of those asked for here stands twice."""
    return dict(re.findall(r"^(\w+)=(.*)$", (DEPLOY / unit).read_text(), re.MULTILINE))


@pytest.mark.parametrize("unit", UNITS)
def test_the_checker_of_systemd_finds_nothing(unit: str, tmp_path: Path) -> None:
    """As it would stand on a machine: with this checkout in the place of the one that the unit names."""
    placed = (DEPLOY / unit).read_text().replace("/opt/huvren", str(ROOT))
    (tmp_path / unit).write_text(placed)
    found = subprocess.run(["systemd-analyze", "verify", "--man=no", tmp_path / unit], capture_output=True, text=True)
    about = [line for line in (found.stdout + found.stderr).splitlines() if "huvren" in line]
    assert (found.returncode, about) == (0, [])
    (tmp_path / unit).write_text(placed.replace("KillMode=mixed", "KillMode=mxied"))
    wrong = subprocess.run(["systemd-analyze", "verify", "--man=no", tmp_path / unit], capture_output=True, text=True)
    assert "mxied" in wrong.stdout + wrong.stderr, "it does look at them"


@pytest.mark.parametrize("unit", UNITS)
def test_units_run_what_there_is_as_nobody_special(unit: str) -> None:
    said = words(unit)
    command = said["ExecStart"].split()
    assert command[0] == "/opt/huvren/run"
    helped = subprocess.run([ROOT / "run", command[1], "--help"], capture_output=True, text=True)
    assert helped.returncode == 0
    assert all(word in helped.stdout for word in command[2:] if word.startswith("--"))
    assert said["User"] == said["Group"] == "huvren"
    assert (said["Restart"], said["KillMode"]) == ("always", "mixed")
    # Kernels are compiled where they run.
    assert "MemoryDenyWriteExecute" not in said
    grace = {"huvren.service": 35, "huvren-work.service": 5}[unit]
    assert int(said["TimeoutStopSec"]) > grace, "what ends by itself is not killed before"


def test_the_environment_names_settings_that_there_are() -> None:
    names = re.findall(r"^(\w+)=", (DEPLOY / "huvren.env").read_text(), re.MULTILINE)
    assert {"HUVREN_DB_HOST", "HUVREN_SECRET_KEY", "HUVREN_HOSTS"} <= set(names)
    assert [name for name in names if f"`{name}`" not in SETTINGS and name not in SETTINGS] == []


def test_the_image_installs_what_is_needed_and_brings_what_it_runs() -> None:
    text = (DEPLOY / "Containerfile").read_text()
    (line,) = re.findall(r"--no-install-recommends ([^\\\n]+)", text)
    installed = set(line.split())
    assert {need.package for need in needs.WEB} <= installed
    assert installed - {need.package for need in needs.WEB} == {"python3", "ca-certificates"}
    assert re.search(r"^USER huvren$", text, re.MULTILINE), "it does not run as root"
    left_out = (ROOT / ".containerignore").read_text().split()
    listed = subprocess.run(["git", "ls-files"], cwd=ROOT, capture_output=True, text=True).stdout.splitlines()
    kept = [name for name in listed if not any(name.startswith(f"{folder}/") for folder in left_out)]
    for wanted in (
        "run",
        "manage.py",
        "requirements.lock",
        "huvren/site/wsgi.py",
        "tools/run.py",
        "web/package-lock.json",
        "LICENSE",
    ):
        assert wanted in kept


def test_what_is_left_out_of_the_image_is_not_asked_for(tmp_path: Path) -> None:
    """Everything that serving imports is there without what the image leaves out."""
    for name in ("huvren", "tools", "manage.py", "docs"):
        source = ROOT / name
        if source.is_dir():
            shutil.copytree(source, tmp_path / name, ignore=shutil.ignore_patterns("__pycache__", "screenshots"))
        else:
            shutil.copy(source, tmp_path / name)
    shutil.copy(ROOT / "pyproject.toml", tmp_path)
    helped = subprocess.run(["python3", "-m", "tools.run", "serve", "--help"], cwd=tmp_path, capture_output=True, text=True)
    assert helped.returncode == 0, helped.stderr
    code = "import tools.serving, huvren.site.wsgi, huvren.site.streams, huvren.site.gunicorn_config"
    env = {"PYTHONPATH": str(tmp_path), "HUVREN_STATE": str(tmp_path / "state"), "DJANGO_SETTINGS_MODULE": "huvren.site.settings"}
    from tools.steps import PYTHON

    imported = subprocess.run([PYTHON, "-c", code], cwd=tmp_path, env=env, capture_output=True, text=True)
    assert imported.returncode == 0, imported.stderr
