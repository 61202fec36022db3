"""The list of kernels, by which several processes compile at once, says what is called, and all of it."""

import subprocess
import sys

import pytest

from huvren.core import compile_all
from tools.steps import ROOT


def test_the_list_is_what_running_every_kernel_gives() -> None:
    words = [sys.executable, "-m", "huvren.core.compile_all", "--check"]
    run = subprocess.run(words, cwd=ROOT, capture_output=True, text=True)
    told = "write it anew, with every kernel compiled before: python -m huvren.core.compile_all --manifest"
    assert run.returncode == 0, told + run.stderr[-1000:]


def test_a_line_that_cannot_be_compiled_is_noticed(monkeypatch: pytest.MonkeyPatch, tmp_path: object) -> None:
    from pathlib import Path

    listed = Path(str(tmp_path)) / "list.txt"
    good = next(line for line in compile_all.MANIFEST.read_text().splitlines() if "path_length" in line)
    monkeypatch.setattr(compile_all, "MANIFEST", listed)
    listed.write_text(f"{good}\n")
    said: list[tuple[str, float]] = []
    assert compile_all.compile_listed(lambda step, share: said.append((step, share)), 1)
    assert said == [("path_kernels, path_length", 0.0), ("done", 1.0)]
    listed.write_text(f"{good}\n{good.replace('path_length', 'gone')}\n")
    assert not compile_all.compile_listed(lambda step, share: None, 1)
