"""Colors tuned to the dither: how a result differs from afar, and what choosing them takes."""

import statistics
from collections.abc import Callable

import numpy as np
from PIL import Image
from scipy.ndimage import gaussian_filter
from sklearn.cluster import KMeans

from huvren.core.color.difference import DELTA_SCALE
from huvren.core.color.spaces import convert
from huvren.core.reduction.dithers import DITHERS
from huvren.core.reduction.grain import FREE
from huvren.core.reduction.nearest import nearest_centers
from huvren.core.reduction.painting import paint
from huvren.core.reduction.recipe import ReduceRecipe
from huvren.core.reduction.reduce import choose, prepare, reduce_picture

COUNTS = (8, 16, 32)
SIGMA = 1.5
Report = Callable[..., None]
Note = Callable[[str, str], None]
Pictures = dict[str, np.ndarray]


def _blurred(rgb: np.ndarray) -> np.ndarray:
    """OKLab of an (h, w, 3) picture, blurred in linear light by SciPy."""
    light = convert(rgb / 255, "srgb", "srgb-linear")
    seen = np.stack([gaussian_filter(light[..., channel], SIGMA, mode="nearest") for channel in range(3)], axis=-1)
    return np.asarray(convert(seen, "srgb-linear", "oklab"))


def _afar(before: np.ndarray, shown: np.ndarray) -> float:
    return float(np.linalg.norm(before - _blurred(shown), axis=-1).mean() * DELTA_SCALE)


def _median_cut(image: Image.Image, colors: int) -> Image.Image:
    """Pillow's median cut, laid out by its Floyd–Steinberg."""
    palette = image.quantize(colors, method=Image.Quantize.MEDIANCUT, dither=Image.Dither.NONE)
    return image.quantize(palette=palette, dither=Image.Dither.FLOYDSTEINBERG)


def measure(report: Report, note: Note, medians: Callable[..., list[float]], pictures: Pictures, megapixel: Image.Image) -> None:
    """The figure of colors tuned to one distance against Pillow's and untuned ones, the longer search, and the time of fine grain."""
    ratios: list[float] = []
    gains: dict[str, list[float]] = {dither.id: [] for dither in DITHERS if dither.id != "none"}
    longer: list[float] = []
    for name, rgb in pictures.items():
        rgba, before = np.dstack([rgb, np.full(rgb.shape[:2], 255, np.uint8)]), _blurred(rgb)

        def shown(rgba: np.ndarray = rgba, **settings: object) -> np.ndarray:
            made = reduce_picture(rgba, ReduceRecipe(**settings))  # type: ignore[arg-type]
            return np.asarray(made.rgb[made.indices])

        for colors in COUNTS:
            theirs = _afar(before, np.asarray(_median_cut(Image.fromarray(rgb), colors).convert("RGB")))
            for dither in gains:
                tuned = _afar(before, shown(colors=colors, dither=dither, grain=FREE))
                untuned = _afar(before, shown(colors=colors, dither=dither, tune=False))
                gains[dither].append(tuned / untuned)
                if dither == "floyd-steinberg":
                    ratios.append(tuned / theirs)
                    said = f"{tuned:.2f} ΔE / {theirs:.2f} ΔE"
                    report(f"from afar, {name}, {colors} colors / Pillow's median cut + F–S", said, tuned / theirs, 0.5)
            if colors <= 16:
                longer.append(_afar(before, shown(colors=colors, dither="floyd-steinberg", search="longer", grain=FREE)) / theirs)
        _medians(report, name, rgb)
    report("from afar, median of these", f"{len(ratios)} results", statistics.median(ratios), 0.38)
    note("from afar, searched longer, 8 and 16 colors, median of these", f"{statistics.median(longer):.3f}")
    for dither, values in gains.items():
        label = DITHERS[dither].label
        report(f"from afar, tuned / untuned, {label}, worst", f"{len(values)} results", max(values), 1.0)
        if dither == "floyd-steinberg":
            report(f"from afar, tuned / untuned, {label}, median", f"{len(values)} results", statistics.median(values), 0.5)
        else:
            note(f"from afar, tuned / untuned, {label}, median", f"{statistics.median(values):.3f}")
    rgba = np.array(megapixel.convert("RGBA"))
    recipe = ReduceRecipe(colors=32, dither="floyd-steinberg")

    def ours() -> None:
        prepared = prepare([rgba], recipe)
        chosen = choose(prepared, recipe)
        paint(rgba, prepared.frames[0].histogram, chosen.rgb, -1, recipe)

    mine, pillow = medians(ours, lambda: _median_cut(megapixel, 32), runs=5)
    said = f"{mine * 1e3:.0f} ms / {pillow * 1e3:.0f} ms"
    report("tuned choice + layout 1 MP, 32 / Pillow's median cut + F–S", said, mine / pillow, 1.5)


def _medians(report: Report, name: str, rgb: np.ndarray) -> None:
    """The longer search without a dither against the best of four runs of KMeans, stepped on to medians (Weiszfeld)."""
    oklab = convert(rgb.reshape(-1, 3) / 255, "srgb", "oklab").astype(np.float32)
    rgba = np.dstack([rgb, np.full(rgb.shape[:2], 255, np.uint8)])
    for colors in COUNTS:
        best = np.inf
        for seed in range(4):
            centers = KMeans(colors, n_init=1, random_state=seed).fit(oklab).cluster_centers_.astype(np.float32)
            for _ in range(150):
                labels, gaps = nearest_centers(oklab, centers)
                pull = 1 / np.maximum(gaps, 1e-6)
                total = np.bincount(labels, weights=pull, minlength=colors)
                sums = [np.bincount(labels, weights=pull * oklab[:, axis], minlength=colors) for axis in range(3)]
                after = (np.stack(sums, axis=-1) / np.maximum(total, 1e-9)[:, None]).astype(np.float32)
                rests = float(np.abs(after - centers).max()) < 1e-5
                centers = after
                if rests:
                    break
            best = min(best, float(nearest_centers(oklab, centers)[1].mean() * DELTA_SCALE))
        mine = reduce_picture(rgba, ReduceRecipe(colors=colors, search="longer")).figures.mean
        report(f"searched longer, {name}, {colors} / best of 4 k-medians", f"{mine:.3f} ΔE / {best:.3f} ΔE", mine / best, 1.002)
