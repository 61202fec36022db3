"""Benchmarks: Huvren against general-purpose libraries, as ratios within one run.

`./run bench` runs everything; `./run bench quality time …` runs the named parts. A ratio at or below its budget is
marked ok. Times are medians over interleaved runs, so that both sides see the same machine.
"""

import os
import statistics
import sys
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np
import PIL
from PIL import Image
from sklearn.cluster import KMeans
from sklearn.datasets import load_sample_images

from bench import afar, checks, color, command_line, formats, hands, kills, ramps, scale, server, texts, trash, ways
from bench.files import file_to_file
from bench.yardstick import Watch, earlier_rows, yardstick
from huvren.core.color.convert import oklch_to_srgb, srgb_to_oklch
from huvren.core.color.difference import DELTA_SCALE
from huvren.core.color.spaces import convert
from huvren.core.reduction.choosing import choose_colors
from huvren.core.reduction.dithers import DITHERS, Target
from huvren.core.reduction.histogram import build_histogram, oklab_of_rgb
from huvren.core.reduction.nearest import nearest_centers
from huvren.core.reduction.recipe import ReduceRecipe
from huvren.core.reduction.reduce import reduce_picture
from huvren.demo.plates import plate_lamplight

ROWS: list[str] = []
WRITTEN = Path(__file__).resolve().parent.parent / "docs" / "BENCHMARKS.md"
HEAD = """# Benchmarks

Written by `./run bench`, all in one run on {cores} cores ({when}); {pillow}. Times are medians, differences ΔEOK×100.
Ratios are Huvren over the other unless the row says otherwise; a budget is a ratio, or ms or s where the row names them. Those grow
and shrink with a fixed piece of work that is timed beside the row (×1 is a quiet machine; `bench/yardstick.py`), and where other
programs or the computer beneath had much of the processors a row that is over says “busy”. Whatever got worse by more than a tenth
since the table before says so. Behind each row: what the benchmark's own processes took since the row before.

| what | measured | ratio | budget | | meanwhile |
|---|---|---|---|---|---|
"""
WATCH = Watch()
EARLIER = earlier_rows(WRITTEN)
WORSE = 1.1
"""By so much a ratio may grow before it is said."""
APART = "\n## The first start"
"""Where what was measured apart from the table begins."""


def report(what: str, measured: str, ratio: float, budget: float, at_least: bool = False, timed: bool = False) -> None:
    """One row of the table.

    timed : it is judged by the clock and not against something else in the same run, so that the budget grows and shrinks with the
    yardstick, and a busy machine is not judged
    """
    meanwhile = WATCH.since_last()
    words = [str(meanwhile)]
    if timed:
        stick = yardstick()
        ratio /= stick
        measured += f" (×{stick:.2f})"
    holds = ratio >= budget if at_least else ratio <= budget
    sign = "≥" if at_least else "≤"
    verdict = "busy" if timed and not holds and meanwhile.is_busy else "" if holds else "over"
    before = EARLIER.get(what)
    if before is not None and not at_least and ratio > WORSE * before:
        words.insert(0, f"was {before:.3f}")
        verdict = f"{verdict} worse".strip()
    print(f"{what:<58} {measured:<34} {ratio:7.3f}  {sign} {budget:<5g} {verdict.upper() or 'ok':<6} {'; '.join(words)}", flush=True)
    ROWS.append(f"| {what} | {measured} | {ratio:.3f} | {sign} {budget:g} | {verdict} | {'; '.join(words)} |")
    WATCH.since_last()


def note(what: str, measured: str) -> None:
    """A row without a budget."""
    print(f"{what:<58} {measured}", flush=True)
    ROWS.append(f"| {what} | {measured} | | | | |")


def medians(*calls: Callable[[], object], runs: int = 9) -> list[float]:
    """Median seconds of each call, run in turn after one warm-up each."""
    for call in calls:
        call()
    times: list[list[float]] = [[] for _ in calls]
    for _ in range(runs):
        for place, call in enumerate(calls):
            begun = time.perf_counter()
            call()
            times[place].append(time.perf_counter() - begun)
    return [statistics.median(each) for each in times]


def opaque(rgb: np.ndarray) -> np.ndarray:
    return np.dstack([rgb, np.full(rgb.shape[:2], 255, np.uint8)])


def photographs() -> dict[str, np.ndarray]:
    """scikit-learn's two sample photographs."""
    return dict(zip(("temple", "flower"), (np.asarray(image) for image in load_sample_images().images), strict=True))


def megapixels(amount: float) -> Image.Image:
    """A photograph of about so many million pixels."""
    height = int((amount * 1e6 / 1.5) ** 0.5)
    return Image.fromarray(photographs()["temple"]).resize((int(height * 1.5), height), Image.Resampling.LANCZOS)


def benchmark_pictures() -> dict[str, np.ndarray]:
    """Two photographs, and a drawn plate of the demo."""
    return {**photographs(), "lantern moth (drawn)": plate_lamplight()}


def quality() -> None:
    """Mean ΔEOK of the undithered result against KMeans on every pixel; both palettes in 8 bits."""
    for name, rgb in benchmark_pictures().items():
        oklab = convert(rgb.reshape(-1, 3) / 255, "srgb", "oklab")
        for colors in (8, 16, 32, 64, 256):
            centers = KMeans(colors, n_init=1, random_state=0).fit(oklab).cluster_centers_
            eight_bit = np.rint(np.clip(convert(centers, "oklab", "srgb"), 0, 1) * 255) / 255
            theirs = float(nearest_centers(oklab, convert(eight_bit, "srgb", "oklab"))[1].mean() * DELTA_SCALE)
            ours = reduce_picture(opaque(rgb), ReduceRecipe(colors=colors)).figures.mean
            report(f"quality, {name}, {colors} colors / KMeans", f"{ours:.3f} ΔE / {theirs:.3f} ΔE", ours / theirs, 1.0)


def speed() -> None:
    """Choosing and mapping one megapixel."""
    image = megapixels(1)
    rgba = np.array(image.convert("RGBA"))
    for colors in (8, 32, 256):

        def ours(colors: int = colors) -> None:
            histogram = build_histogram(rgba)
            rgb = choose_colors(histogram, ReduceRecipe(colors=colors), [], colors)
            oklab = oklab_of_rgb(rgb)
            DITHERS["none"].lay_out(Target(rgba, histogram, rgb, oklab, nearest_centers(histogram.oklab, oklab)[0], -1, 1.0))

        mine, pillow = medians(ours, lambda colors=colors: image.quantize(colors, dither=Image.Dither.NONE))
        report(f"choose + map 1 MP, {colors} / Pillow median cut", f"{mine * 1e3:.0f} ms / {pillow * 1e3:.0f} ms", mine / pillow, 0.5)
    oklab = convert(rgba[..., :3].reshape(-1, 3) / 255, "srgb", "oklab")
    begun = time.perf_counter()
    KMeans(32, n_init=1, random_state=0).fit_predict(oklab)
    theirs = time.perf_counter() - begun
    mine = medians(lambda: reduce_picture(rgba, ReduceRecipe(colors=32)))[0]
    report("choose + map + measure 1 MP, 32 / KMeans", f"{mine * 1e3:.0f} ms / {theirs * 1e3:.0f} ms", mine / theirs, 0.1)


def dithering() -> None:
    """Error diffusion of every kernel in linear light against Pillow's in plain RGB, same palette; ordered for comparison."""
    image = megapixels(1)
    rgba = np.array(image.convert("RGBA"))
    histogram = build_histogram(rgba)
    for colors in (32, 256):
        rgb = choose_colors(histogram, ReduceRecipe(colors=colors), [], colors)
        oklab = oklab_of_rgb(rgb)
        nearest = nearest_centers(histogram.oklab, oklab)[0]
        target = Target(rgba, histogram, rgb, oklab, nearest, -1, 1.0)
        holder = Image.new("P", (1, 1))
        holder.putpalette(rgb.ravel().tolist())
        diffusing = [dither for dither in DITHERS if dither.is_diffusion]
        in_oklab = replace(target, working="oklab")
        flats = replace(target, flat=np.linalg.norm(histogram.oklab - oklab[nearest], axis=1) < 0.01)
        *mine, lab, clean, ordered, pillow = medians(
            *(lambda dither=dither, target=target: dither.lay_out(target) for dither in diffusing),
            lambda target=in_oklab: DITHERS["floyd-steinberg"].lay_out(target),
            lambda target=flats: DITHERS["floyd-steinberg"].lay_out(target),
            lambda target=target: DITHERS["ordered"].lay_out(target),
            lambda holder=holder: image.quantize(palette=holder, dither=Image.Dither.FLOYDSTEINBERG),
            runs=15,
        )
        for dither, seconds in zip(diffusing, mine, strict=True):
            figures = f"{seconds * 1e3:.0f} ms / {pillow * 1e3:.0f} ms"
            report(f"{dither.label} 1 MP, {colors} / Pillow, RGB", figures, seconds / pillow, 1.0)
        for label, seconds in (("Floyd–Steinberg in OKLab", lab), ("ordered 8×8", ordered)):
            figures = f"{seconds * 1e3:.0f} ms / {pillow * 1e3:.0f} ms"
            report(f"{label} 1 MP, {colors} / Pillow, RGB", figures, seconds / pillow, 1.0)
        note(f"Floyd–Steinberg with clean flats 1 MP, {colors}", f"{clean * 1e3:.0f} ms")


def conversion() -> None:
    """sRGB → OKLCh → sRGB of a float array."""
    import warnings

    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        import colour

    array = np.random.default_rng(0).random((500_000, 3))

    def theirs() -> None:
        lab = colour.XYZ_to_Oklab(colour.sRGB_to_XYZ(array))
        lch = colour.models.Jab_to_JCh(lab)
        colour.XYZ_to_sRGB(colour.Oklab_to_XYZ(colour.models.JCh_to_Jab(lch)))

    mine, other = medians(lambda: oklch_to_srgb(srgb_to_oklch(array)), theirs, runs=5)
    report(
        "sRGB → OKLCh → sRGB, colour-science / ours", f"{other * 1e3:.0f} ms / {mine * 1e3:.0f} ms", other / mine, 5, at_least=True
    )


def growth() -> None:
    """Time per megapixel at growing sizes: no faster than linearly."""
    base = None
    for amount in (0.25, 1, 4, 16, 24):
        rgba = np.array(megapixels(amount).convert("RGBA"))
        seconds = medians(lambda rgba=rgba: reduce_picture(rgba, ReduceRecipe(colors=64, dither="floyd-steinberg")), runs=3)[0]
        base = base or seconds / amount
        report(
            f"growth, {amount:g} MP, 64 colors, diffused, per MP / at 0.25 MP",
            f"{seconds * 1e3:.0f} ms",
            seconds / amount / base,
            1.1,
        )
    texts.measure(report)


def served(measure: Callable[..., None], *given: object) -> None:
    """A part in which a server and a browser of ours are at work besides, which are no others."""
    WATCH.serves = True
    try:
        measure(*given)
    finally:
        WATCH.serves = False


PARTS = {
    "quality": quality, "speed": speed, "dithering": dithering, "conversion": conversion, "growth": growth,
    "color": lambda: color.measure(report, note, benchmark_pictures()),
    "afar": lambda: afar.measure(report, note, medians, benchmark_pictures(), megapixels(1)),
    "ways": lambda: ways.measure(megapixels(1), medians, note),
    "ramps": lambda: ramps.measure(report),
    "checks": lambda: checks.measure(report, medians), "formats": lambda: formats.measure(report, medians),
    "scale": lambda: scale.measure(report), "commands": lambda: command_line.measure(report, medians),
    "trash": lambda: served(trash.measure, report, note), "files": lambda: file_to_file(report, megapixels(24)),
    "server": lambda: served(server.measure, report, megapixels(2)), "hands": lambda: served(hands.measure, report),
    "kills": lambda: served(kills.measure, report),
}  # fmt: skip


def write_table() -> None:
    """The rows so far in place of those in the file; what was measured apart stands behind them and stays."""
    head = HEAD.format(cores=os.cpu_count(), when=time.strftime("%Y-%m-%d"), pillow=f"Pillow {PIL.__version__}")
    _, mark, apart = WRITTEN.read_text().partition(APART)
    WRITTEN.write_text(head + "\n".join(ROWS) + "\n" + mark + apart)


if __name__ == "__main__":
    wanted = sys.argv[1:] or list(PARTS)
    print(f"{'what':<58} {'measured':<34} {'ratio':>7}  budget")
    for name in wanted:
        PARTS[name]()
        if not sys.argv[1:]:
            write_table()
