"""Color that is true from several distances: tuned colors against untuned ones close up, from afar, halved, and in the worst part."""

import statistics
from collections.abc import Callable

import numpy as np
from scipy.ndimage import gaussian_filter

from huvren.core.color.difference import DELTA_SCALE
from huvren.core.color.spaces import convert
from huvren.core.reduction.recipe import ReduceRecipe
from huvren.core.reduction.reduce import reduce_picture

SIGMAS = (0.0, 0.7, 1.5, 3.0)
COUNTS, ALL_COUNTS = (8, 16), (4, 6, 8, 16, 24)
BLOCK = 32
MEDIANS = {"each pixel": 1.30, "1.5 px": 0.62, "halved": 1.0}
WORST = {"each pixel": 1.60, "0.7 px": 1.0, "halved": 1.08}
Report = Callable[..., None]
Note = Callable[[str, str], None]
Pictures = dict[str, np.ndarray]


def _seen(rgb: np.ndarray, sigma: float) -> np.ndarray:
    light = convert(rgb / 255, "srgb", "srgb-linear")
    if sigma:
        light = np.stack([gaussian_filter(light[..., axis], sigma, mode="nearest") for axis in range(3)], axis=-1)
    return np.asarray(convert(light, "srgb-linear", "oklab"))


def _halved(rgb: np.ndarray) -> np.ndarray:
    height, width = rgb.shape[0] // 2, rgb.shape[1] // 2
    means: np.ndarray = rgb[: 2 * height, : 2 * width].reshape(height, 2, width, 2, 3).mean(axis=(1, 3))
    return np.asarray(convert(means / 255, "srgb", "oklab"))


def _errors(rgb: np.ndarray, shown: np.ndarray) -> dict[str, float]:
    """Mean ΔEOK×100 at each distance, of copies of half the size, and of the worst block from afar."""
    found = {}
    for sigma in SIGMAS:
        gaps = np.linalg.norm(_seen(rgb, sigma) - _seen(shown, sigma), axis=-1) * DELTA_SCALE
        found["each pixel" if sigma == 0 else f"{sigma:g} px"] = float(gaps.mean())
        if sigma == 1.5:
            height, width = gaps.shape[0] // BLOCK, gaps.shape[1] // BLOCK
            blocks = gaps[: BLOCK * height, : BLOCK * width].reshape(height, BLOCK, width, BLOCK)
            found["worst block"] = float(blocks.mean(axis=(1, 3)).max())
    found["halved"] = float(np.linalg.norm(_halved(rgb) - _halved(shown), axis=-1).mean() * DELTA_SCALE)
    return found


def night_with_a_moon() -> np.ndarray:
    """(240, 320, 3) uint8: a dark sky over hills, and a small bright disk."""
    y, x = np.mgrid[:240, :320].astype(float)
    rgb = np.stack([8 + 10 * y / 240, 12 + 22 * y / 240, 30 + 50 * y / 240], axis=-1)
    rgb[y > 170 + 20 * np.sin(x / 40)] = (6, 9, 14)
    cover = np.clip(15 - np.hypot(x - 230, y - 60), 0, 1)[..., None]
    rgb = rgb * (1 - cover) + np.array([244, 240, 214]) * cover
    rgb += np.random.default_rng(1).normal(0, 1.2, rgb.shape)
    return np.asarray(np.clip(np.rint(rgb), 0, 255), dtype=np.uint8)


def measure(report: Report, note: Note, pictures: Pictures) -> None:
    """Ratios of tuned to untuned, Floyd–Steinberg, with fine grain; and the error where a small part is dear."""
    ratios: dict[str, list[float]] = {}
    blocks: list[float] = []
    for rgb in pictures.values():
        rgba = np.dstack([rgb, np.full(rgb.shape[:2], 255, np.uint8)])
        for colors in ALL_COUNTS:
            both = [reduce_picture(rgba, ReduceRecipe(colors=colors, dither="floyd-steinberg", tune=tune)) for tune in (False, True)]
            before, after = (_errors(rgb, each.rgb[each.indices]) for each in both)
            blocks.append(after["worst block"] / max(before["worst block"], 0.5))
            if colors in COUNTS:
                for name in before:
                    ratios.setdefault(name, []).append(after[name] / before[name])
    for name, values in ratios.items():
        label = f"fine grain, tuned / untuned, {name}"
        if name in MEDIANS:
            report(f"{label}, median", f"{len(values)} results", statistics.median(values), MEDIANS[name])
        else:
            note(f"{label}, median", f"{statistics.median(values):.3f}")
        if name in WORST:
            report(f"{label}, worst", f"{len(values)} results", max(values), WORST[name])
    report("fine grain, tuned / untuned, worst block, 4 to 24 colors", f"{len(blocks)} results", max(blocks), 1.1)
    night = night_with_a_moon()
    made = reduce_picture(
        np.dstack([night, np.full(night.shape[:2], 255, np.uint8)]), ReduceRecipe(colors=4, dither="floyd-steinberg")
    )
    gaps = np.linalg.norm(_seen(night, 1.5) - _seen(made.rgb[made.indices], 1.5), axis=-1) * DELTA_SCALE
    moon = float(gaps[50:71, 220:241].mean())
    report("night of 4 colors, its moon from afar / ΔE 3", f"{moon:.2f} ΔE", moon / 3, 1.0)
