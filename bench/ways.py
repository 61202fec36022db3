"""Every chooser and every dither on one photograph: time and error, beside Pillow's own."""

from collections.abc import Callable

import numpy as np
from PIL import Image

from huvren.core.color.difference import DELTA_SCALE
from huvren.core.color.spaces import convert
from huvren.core.reduction.choosers import CHOOSERS
from huvren.core.reduction.curve import error_curve
from huvren.core.reduction.dithers import DITHERS
from huvren.core.reduction.histogram import build_histogram
from huvren.core.reduction.recipe import ReduceRecipe, TileLimit
from huvren.core.reduction.reduce import reduce_picture

COLORS = 32
LIST = [f"#{r:02x}{g:02x}{b:02x}" for r in (0, 85, 170, 255) for g in (0, 85, 170, 255) for b in (0, 128, 255)]
Medians = Callable[..., list[float]]
Row = Callable[[str, str], None]


def _error(rgba: np.ndarray, shown: np.ndarray) -> float:
    """Mean ΔEOK×100 between two (h, w, 3) pictures."""
    gaps = convert(rgba[..., :3] / 255, "srgb", "oklab") - convert(shown / 255, "srgb", "oklab")
    return float(np.linalg.norm(gaps, axis=-1).mean() * DELTA_SCALE)


def _pillow(image: Image.Image, rgba: np.ndarray, method: Image.Quantize, medians: Medians, kmeans: int = 0) -> str:
    def call() -> Image.Image:
        return image.quantize(COLORS, method=method, kmeans=kmeans, dither=Image.Dither.NONE)

    seconds = medians(call, runs=3)[0]
    return f"{seconds * 1e3:.0f} ms, mean ΔE {_error(rgba, np.asarray(call().convert('RGB'))):.2f}"


def measure(image: Image.Image, medians: Medians, row: Row) -> None:
    """Rows for choosers, dithers, tile limit and curve on one picture."""
    rgba = np.array(image.convert("RGBA"))
    row("Pillow median cut, 32", _pillow(image, rgba, Image.Quantize.MEDIANCUT, medians))
    row("Pillow median cut + k-means option, 32", _pillow(image, rgba, Image.Quantize.MEDIANCUT, medians, kmeans=8))
    row("Pillow fast octree, 32", _pillow(image, rgba, Image.Quantize.FASTOCTREE, medians))
    for chooser in CHOOSERS:
        if chooser.id == "own" or chooser.needs == "palette":
            continue
        recipe = ReduceRecipe(colors=COLORS, chooser=chooser.id, listed=LIST)
        seconds = medians(lambda recipe=recipe: reduce_picture(rgba, recipe), runs=3)[0]
        row(f"chooser, {chooser.label}, 32", f"{seconds * 1e3:.0f} ms, mean ΔE {reduce_picture(rgba, recipe).figures.mean:.2f}")
    for dither in DITHERS:
        recipe = ReduceRecipe(colors=COLORS, dither=dither.id)
        reduction = reduce_picture(rgba, recipe)
        seconds = medians(lambda recipe=recipe: reduce_picture(rgba, recipe), runs=3)[0]
        blurred = [_blur(picture) for picture in (rgba[..., :3], reduction.rgb[reduction.indices])]
        far = float(np.linalg.norm(blurred[0] - blurred[1], axis=1).mean())
        row(
            f"dither, {dither.label}, 32",
            f"{seconds * 1e3:.0f} ms, ΔE {reduction.figures.mean:.2f}, from afar {far * DELTA_SCALE:.2f}",
        )
    tile = ReduceRecipe(colors=COLORS, tile=TileLimit(width=8, height=8, colors=4))
    row("tile limit, 4 in 8×8", f"{medians(lambda: reduce_picture(rgba, tile), runs=3)[0] * 1e3:.0f} ms")
    histogram = build_histogram(rgba)
    row("error curve, 26 counts", f"{medians(lambda: error_curve(histogram), runs=3)[0] * 1e3:.0f} ms")


def _blur(rgb: np.ndarray) -> np.ndarray:
    """(n, 3) OKLab of 8×8 means in linear light: what is seen from afar."""
    linear = convert(rgb / 255, "srgb", "srgb-linear")
    height, width = (side // 8 * 8 for side in linear.shape[:2])
    means = linear[:height, :width].reshape(height // 8, 8, width // 8, 8, 3).mean(axis=(1, 3))
    return np.asarray(convert(means.reshape(-1, 3), "srgb-linear", "oklab"), dtype=np.float32)
