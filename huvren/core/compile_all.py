"""Compile every kernel beforehand: `python -m huvren.core.compile_all`.

Each registered chooser, dither and metric is tried on a small picture, so what is registered later is compiled here too.
"""

import sys
from collections.abc import Callable, Iterator

import numpy as np

from huvren.core.color.value import Color
from huvren.core.palette.clusters import merge_tree
from huvren.core.palette.paths import shortest_path
from huvren.core.palette.values import Swatch
from huvren.core.progress import Watch

Step = tuple[str, Callable[[], object]]


def _conversions() -> None:
    from huvren.core.color import convert, kernels

    colors = np.random.default_rng(0).random((64, 3))
    convert.oklab_to_srgb(convert.srgb_to_oklab(colors))
    convert.oklch_to_srgb(convert.srgb_to_oklch(colors))
    kernels.oklch_rows_into_gamut(colors, np.empty_like(colors))


def _steps() -> Iterator[Step]:
    yield "conversions", _conversions
    from huvren.core.reduction.choosers import CHOOSERS
    from huvren.core.reduction.curve import error_curve
    from huvren.core.reduction.dithers import DITHERS
    from huvren.core.reduction.histogram import build_histogram
    from huvren.core.reduction.metrics import METRICS
    from huvren.core.reduction.recipe import ReduceRecipe, TileLimit
    from huvren.core.reduction.reduce import reduce_picture
    from huvren.core.reduction.weighing import BrushMark, RectangleMark

    random = np.random.default_rng(0)
    picture = random.integers(0, 256, (240, 240, 4), dtype=np.uint8)
    small = np.ascontiguousarray(picture[:24, :24])
    listed = ["#000", "#fff", "#a33", "#3a3", "#33a", "#aa3"]
    base = ReduceRecipe(colors=4, listed=listed)

    def reducing(rgba: np.ndarray, **settings: object) -> Callable[[], object]:
        return lambda: reduce_picture(rgba, base.model_copy(update=settings), [(0, 0, 0)])

    yield "counting colors", lambda: build_histogram(picture)
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
    yield "smooth order", lambda: shortest_path(places)


def compile_all(watch: Watch) -> None:
    """Run every kernel once; `watch` is told which, and how much is done."""
    steps = list(_steps())
    for place, (name, work) in enumerate(steps):
        watch(name, place / len(steps))
        work()
    watch("done", 1.0)


def _show(step: str, share: float) -> None:
    if sys.stdout.isatty():
        print(f"\r\033[K  {share:4.0%} {step}", end="\r\033[K" if share >= 1 else "", flush=True)
    else:
        print(f"  {share:4.0%} {step}", flush=True)


if __name__ == "__main__":
    compile_all(_show)
