"""The command line where no picture is involved, as whole processes.

The budget is 0.4 s on a machine that starts Python with NumPy in 0.16 s. That start is timed between the calls, and the
budget grows and shrinks with it, so that a busy or slower machine says the same of the same program.
"""

import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from tools.steps import ROOT

BUDGET, START = 0.4, 0.16
RUNS = 7
CALLS = {
    "formats": ["formats"],
    "ramp": ["ramp", "#0b58c4", "#ffa22e", "--space", "oklch", "--hue", "longer"],
    "sort": ["sort", "a.hex", "--by", "hue,lightness", "--out", "b.gpl"],
    "convert": ["convert", "a.hex", "--to", "ase", "--out", "b.ase"],
}


def measure(report: Callable[..., None], medians: Callable[..., list[float]]) -> None:
    """Each command through `./run`, as a person calls it, over a palette of 64; in turn with the bare start."""
    with tempfile.TemporaryDirectory() as folder:
        codes = [f"{n * 4:02x}{255 - n:02x}{n * 37 % 256:02x}" for n in range(64)]
        (Path(folder) / "a.hex").write_text("\n".join(codes) + "\n")
        commands = {name: [str(ROOT / "run"), "huvren", *words] for name, words in CALLS.items()}
        commands["start"] = [sys.executable, "-c", "import numpy"]
        seconds: dict[str, list[float]] = {name: [] for name in commands}
        for run in range(RUNS + 1):
            for name, command in commands.items():
                began = time.perf_counter()
                subprocess.run(command, cwd=folder, check=True, stdout=subprocess.DEVNULL)
                if run:
                    seconds[name].append(time.perf_counter() - began)
        start = statistics.median(seconds.pop("start"))
        budget = BUDGET * start / START
        for name, times in seconds.items():
            median = statistics.median(times)
            words = f"{median * 1e3:.0f} ms, NumPy alone {start * 1e3:.0f}"
            report(f"command line, {name} / 0.4 s where NumPy starts in 0.16", words, median / budget, 1.0)
