"""Compile every kernel beforehand: `python -m huvren.core.compile_all`.

Each registered chooser, dither and metric is tried on a small picture, so what is registered later is compiled here too.
"""

import importlib
import json
import os
import sys
import time
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor, as_completed
from multiprocessing import get_context
from pathlib import Path
from typing import Any

import numpy as np

from huvren.core.color.value import Color
from huvren.core.palette.clusters import merge_tree
from huvren.core.palette.paths import shortest_path
from huvren.core.palette.values import Swatch
from huvren.core.progress import Watch, unwatched

Step = tuple[str, Callable[[], object]]


def _conversions() -> None:
    from huvren.core.color import convert, kernels

    colors = np.random.default_rng(0).random((64, 3))
    convert.oklab_to_srgb(convert.srgb_to_oklab(colors))
    convert.oklch_to_srgb(convert.srgb_to_oklch(colors))
    kernels.oklch_rows_into_gamut(colors, np.empty_like(colors))


def _steps() -> Iterator[Step]:
    yield "conversions", _conversions
    from huvren.core.reduction.afar import gaps_from_afar
    from huvren.core.reduction.choosers import CHOOSERS
    from huvren.core.reduction.curve import error_curve
    from huvren.core.reduction.dithers import DITHERS
    from huvren.core.reduction.histogram import build_histogram
    from huvren.core.reduction.metrics import METRICS
    from huvren.core.reduction.nearest_of_many import nearest
    from huvren.core.reduction.recipe import ReduceRecipe, TileLimit
    from huvren.core.reduction.reduce import reduce_picture
    from huvren.core.reduction.weighing import BrushMark, RectangleMark
    from huvren.core.scaling import scaled

    random = np.random.default_rng(0)
    picture = random.integers(0, 256, (240, 240, 4), dtype=np.uint8)
    small = np.ascontiguousarray(picture[:24, :24])
    listed = ["#000", "#fff", "#a33", "#3a3", "#33a", "#aa3"]
    base = ReduceRecipe(colors=4, listed=listed)

    def reducing(rgba: np.ndarray, **settings: object) -> Callable[[], object]:
        return lambda: reduce_picture(rgba, base.model_copy(update=settings), [(0, 0, 0)])

    indices = np.zeros(picture.shape[:2], dtype=np.uint8)
    yield "seen from afar", lambda: gaps_from_afar(picture, indices, picture[0, :1, :3].copy(), 128, 1.5, 2)
    yield "drawing smaller", lambda: scaled(picture, 100, 100)
    yield "counting colors", lambda: build_histogram(picture)
    yield "the nearest of many", lambda: nearest(small.reshape(-1, 4)[:, :3].copy(), np.array([500, 76]), np.zeros(3))
    for chooser in CHOOSERS:
        if chooser.id != "own":
            yield f"choosing, {chooser.label}", reducing(picture, chooser=chooser.id)
    for metric in METRICS:
        yield f"matching, {metric.label}", reducing(small, space=metric.id)
    for dither in DITHERS:
        yield f"dithering, {dither.label}", reducing(small, dither=dither.id)
    yield "dithering, clean flats", reducing(small, dither="floyd-steinberg", flats=2.0, pair_limit=20.0, working="oklab")
    many = [f"#{red:x}{green:x}{blue:x}" for red in (0, 8, 15) for green in (0, 8, 15) for blue in (0, 15)]
    yield "tuning to a dither", reducing(picture, dither="floyd-steinberg", colors=6)
    yield "tuning, channel depth", reducing(small, dither="ordered", chooser="channel-depth", depth="3-3-2")
    yield "tuning, a list", reducing(small, dither="ordered", chooser="best-of-list", listed=many, colors=7)
    yield "limits of tiles", reducing(small, tile=TileLimit(width=8, height=8, colors=2))
    stroke = BrushMark(points=[(0.1, 0.1), (0.5, 0.6)], radius=0.1, weight=2)
    yield "marks", reducing(small, marks=[RectangleMark(x=0, y=0, width=0.5, height=0.5, weight=2), stroke])
    yield "the error curve", lambda: error_curve(build_histogram(picture), settled=True)
    places = random.random((24, 3))
    swatches = [Swatch(Color("srgb", (float(r), float(g), float(b)))) for r, g, b in places]
    yield "near twins", lambda: merge_tree(swatches)
    yield "smooth order", lambda: (shortest_path(places), shortest_path(places[:5]))


MANIFEST = Path(__file__).with_name("kernel_signatures.txt")
"""Every kernel with the types that it is called with. It lets several processes compile at once: without it one would have to run
what calls a kernel to learn of it. Where it is not up to date, what is missing is compiled when it is met; a test holds it so."""


def _dispatchers() -> dict[str, Any]:
    """The kernels of all modules that are loaded, by module and name."""
    from numba.core.registry import CPUDispatcher

    found = {}
    for name, module in sorted(sys.modules.items()):
        if name.startswith("huvren.core"):
            for key, thing in vars(module).items():
                if isinstance(thing, CPUDispatcher) and thing.py_func.__module__ == name and "inline" not in thing.targetoptions:
                    found[f"{name}:{key}"] = thing
    return found


def signatures() -> list[str]:
    """A line for each kernel and each set of types that it has been compiled for in this process."""
    return sorted(f"{name} {types!r}" for name, kernel in _dispatchers().items() for types in kernel.signatures)


def _compile_line(line: str) -> float:
    """Compile one line of the manifest, or load it where that is done; seconds that it took. In a process of a pool."""
    from numba.core import types

    name, _, said = line.partition(" ")
    module, _, function = name.partition(":")
    begun = time.perf_counter()
    # The types' own words for themselves are Python that makes them.
    getattr(importlib.import_module(module), function).compile(eval(said, dict(vars(types))))
    return time.perf_counter() - begun


def compile_listed(watch: Watch, processes: int) -> bool:
    """Compile what the manifest lists, in several processes at once; whether all of it could be."""
    lines = MANIFEST.read_text().splitlines()
    is_whole = True
    # Spawned, not forked: a process that has threads already, as tests do, would hand on locks that nobody opens.
    with ProcessPoolExecutor(processes, mp_context=get_context("spawn")) as pool:
        waiting = {pool.submit(_compile_line, line): line for line in lines}
        for place, done in enumerate(as_completed(waiting)):
            is_whole &= done.exception() is None
            watch(waiting[done].partition(" ")[0].rpartition(".")[2].replace(":", ", "), place / len(lines))
    watch("done", 1.0)
    return is_whole


def compile_all(watch: Watch) -> None:
    """Run every kernel once; `watch` is told which, and how much is done."""
    steps = list(_steps())
    for place, (name, work) in enumerate(steps):
        watch(name, place / len(steps))
        work()
    watch("done", 1.0)


def _tell(step: str, share: float) -> None:
    """Write down how far it is where somebody wants to know (`HUVREN_PREPARING` names the file); it goes when all is done."""
    if not (named := os.environ.get("HUVREN_PREPARING")):
        return
    told = Path(named)
    if share >= 1:
        told.unlink(missing_ok=True)
        return
    beside = told.with_suffix(".new")
    beside.write_text(json.dumps({"process": os.getpid(), "share": share, "step": step}))
    beside.replace(told)


def _show(step: str, share: float) -> None:
    _tell(step, share)
    if sys.stdout.isatty():
        print(f"\r\033[K  {share:4.0%} {step}", end="\r\033[K" if share >= 1 else "", flush=True)
    elif share >= 1 or int(share * 10) != _show.before:  # type: ignore[attr-defined]
        _show.before = int(share * 10)  # type: ignore[attr-defined]
        print(f"  {share:4.0%} {step}", flush=True)


_show.before = -1  # type: ignore[attr-defined]


def main(words: Sequence[str]) -> int:
    """Compile all; `--manifest` writes the list anew, `--check` says whether it is up to date."""
    if "--manifest" in words or "--check" in words:
        compile_all(unwatched)
        now = "".join(f"{line}\n" for line in signatures())
        if "--check" in words:
            return int(now != MANIFEST.read_text())
        MANIFEST.write_text(now)
        return 0
    if not compile_listed(_show, max(1, os.cpu_count() or 1)):
        # A kernel of the list is gone or takes other types now: those that are called are found by calling them.
        compile_all(_show)
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
