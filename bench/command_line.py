"""The command line where no picture is involved, as whole processes."""

import subprocess
import tempfile
from collections.abc import Callable
from pathlib import Path

from tools.steps import ROOT

CALLS = {
    "formats": ["formats"],
    "ramp": ["ramp", "#0b58c4", "#ffa22e", "--space", "oklch", "--hue", "longer"],
    "sort": ["sort", "a.hex", "--by", "hue,lightness", "--out", "b.gpl"],
    "convert": ["convert", "a.hex", "--to", "ase", "--out", "b.ase"],
}


def measure(report: Callable[..., None], medians: Callable[..., list[float]]) -> None:
    """Each command through `./run`, as a person calls it, over a palette of 64."""
    with tempfile.TemporaryDirectory() as folder:
        codes = [f"{n * 4:02x}{255 - n:02x}{n * 37 % 256:02x}" for n in range(64)]
        (Path(folder) / "a.hex").write_text("\n".join(codes) + "\n")
        for name, words in CALLS.items():
            command = [str(ROOT / "run"), "huvren", *words]

            def call(command: list[str] = command) -> None:
                subprocess.run(command, cwd=folder, check=True, stdout=subprocess.DEVNULL)

            call()
            seconds = medians(call, runs=7)[0]
            report(f"command line, {name} / 0.4 s", f"{seconds * 1e3:.0f} ms", seconds / 0.4, 1.0)
