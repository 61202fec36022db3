"""File in to file out at 24 megapixels, as whole processes: time and peak memory."""

import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from PIL import Image

PILLOW = """
import sys
from PIL import Image
image = Image.open(sys.argv[1]).convert("RGB")
palette = image.quantize(64)
image.quantize(palette=palette, dither=Image.Dither.FLOYDSTEINBERG).save(sys.argv[2])
"""


def _run(command: list[str]) -> tuple[float, float]:
    """Seconds and peak MiB of one process."""
    begun = time.perf_counter()
    process = subprocess.Popen(command, stdout=subprocess.DEVNULL)
    _, status, usage = os.wait4(process.pid, 0)
    if status:
        raise RuntimeError(f"{command[:4]} ended with {status}.")
    return time.perf_counter() - begun, usage.ru_maxrss / 1024


def file_to_file(report: Callable[..., None], image: Image.Image) -> None:
    """A JPEG photograph to 64 dithered colors."""
    with tempfile.TemporaryDirectory() as folder:
        source, out = Path(folder) / "photo.jpg", str(Path(folder) / "out.png")
        image.save(source, quality=92)
        ours = [
            sys.executable,
            "-m",
            "huvren.cli",
            "reduce",
            str(source),
            "--colors",
            "64",
            "--dither",
            "floyd-steinberg",
            "--out",
            out,
        ]
        theirs = [sys.executable, "-c", PILLOW, str(source), out]
        _run(ours)
        mine, other = zip(*((_run(ours), _run(theirs)) for _ in range(3)), strict=True)
        seconds, pillow = sorted(m[0] for m in mine)[1], sorted(o[0] for o in other)[1]
        peak = max(m[1] for m in mine)
        report("24 MP file to file, 64 diffused / Pillow", f"{seconds:.1f} s / {pillow:.1f} s", seconds / pillow, 1.0)
        report("24 MP file to file, peak memory / 1.2 GiB", f"{peak:.0f} MiB", peak / 1228.8, 1.0)
        theirs_peak = max(o[1] for o in other)
        report("24 MP file to file, peak memory / Pillow", f"{peak:.0f} MiB / {theirs_peak:.0f} MiB", peak / theirs_peak, 1.5)
