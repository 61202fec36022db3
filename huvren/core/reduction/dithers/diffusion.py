"""Error diffusion with any kernel, in linear light or OKLab, to and fro or one way, with flats left clean.

What the loop of `row_by_row.py` needs to know.
"""

import numpy as np

from huvren.core.color.arrays import Bytes, Floats
from huvren.core.color.transfer import decode_srgb_array
from huvren.core.compiled import njit
from huvren.core.reduction.dithers.dither import Target
from huvren.core.reduction.dithers.near_colors import HIGHEST, LOWEST, SPAN, Grid, grid_of_light, grid_of_oklab, near_table
from huvren.core.reduction.dithers.row_by_row import diffuse_rows, kernel_rows, rough_oklab, workspace
from huvren.core.reduction.histogram import LINEAR_OF_BYTE, as_words

Kernel = tuple[tuple[int, int, int], ...]
"""(rows down, columns onward, parts); the divisor is given apart, as the parts need not add up to it."""

SAMPLED = 10_000
REACH, REACH_OF_FEW, FEW = 3.0, 4.0, 3
"""How far passed-on error may carry a channel, in typical distances between the picture's colors and the palette; further where
there are so few colors that every tone between them needs it. Narrower costs pictures whose tones lie far apart; wider ones with
colors that no mixture reaches, whose error runs into what is beside them."""


def _reach(target: Target) -> float:
    return REACH_OF_FEW if len(target.rgb) <= FEW else REACH


def _sample(target: Target) -> slice:
    """Some of the picture's distinct colors, evenly taken."""
    return slice(None, None, max(1, target.histogram.distinct // SAMPLED))


@njit(cache=True)
def _mean_gap(colors, counts, rgb, nearest, every):
    """Mean over the pixels of the largest difference of a channel, 0..1, between a color and its nearest of the palette."""
    total, pixels = 0.0, 0
    for row in range(0, colors.size, every):
        key, index = colors[row], nearest[row]
        largest = np.int64(0)
        for channel in range(3):
            byte = np.int64((key >> np.uint32(8 * channel)) & np.uint32(255))
            gap = abs(byte - np.int64(rgb[index, channel]))
            if gap > largest:
                largest = gap
        total += largest * counts[row]
        pixels += counts[row]
    return total / (255.0 * pixels)


def carrying_range(target: Target) -> Floats:
    """For each byte its linear light, and the lowest and highest it may be carried to: (256, 3) float32.

    Colors that no mixture of the palette reaches would pass on ever more error and bleed over their neighbors. The bound is even
    in coded light, so that it holds in the dark as well, and wide for sparse palettes: between black and white alone it must lead
    far below 0. It ends where the table of near colors does.

    Parameters
    ----------
    target : Target
        What is laid out: pixels, palette and settings.

    Returns
    -------
    Floats
        (256, 3) float32.
    """
    histogram = target.histogram
    every = max(1, histogram.distinct // SAMPLED)
    reach = _reach(target) * _mean_gap(histogram.colors, histogram.counts, target.rgb, target.nearest, every) + 1 / 255
    coded = np.arange(256) / 255
    light = decode_srgb_array(np.stack([coded, coded - reach, coded + reach], axis=-1))
    values: Floats = np.clip(light, LOWEST, HIGHEST).astype(np.float32)
    values[:, 0] = LINEAR_OF_BYTE
    return values


def carrying_reach(target: Target) -> Floats:
    """The same in OKLab, where it is even as it is: (3,) float32, how far from a color its channels may be carried.

    Parameters
    ----------
    target : Target
        What is laid out: pixels, palette and settings.

    Returns
    -------
    Floats
        (3,) float32.
    """
    histogram, few = target.histogram, _sample(target)
    gaps, counts = np.abs(histogram.oklab[few] - target.oklab[target.nearest[few]]), histogram.counts[few].astype(np.float64)
    return np.asarray(_reach(target) * (counts @ gaps) / counts.sum() + 0.004, dtype=np.float32)


def diffuse(target: Target, kernel: Kernel, divisor: int) -> Bytes:
    """Diffuse the error of each pixel over its neighbors by `kernel` / `divisor`, times the strength: (h, w) uint8 indices.

    Parameters
    ----------
    target : Target
        What is laid out: pixels, palette and settings.
    kernel : Kernel
        Rows down, columns onward and parts of each neighbor.
    divisor : int
        What the parts of the kernel are divided by.

    Returns
    -------
    Bytes
        (h, w) uint8 indices.
    """
    histogram, k = target.histogram, len(target.rgb)
    in_oklab = target.working == "oklab"
    palette = rough_oklab(LINEAR_OF_BYTE[target.rgb]) if in_oklab else LINEAR_OF_BYTE[target.rgb]
    reach = carrying_reach(target) if in_oklab else np.zeros(3, dtype=np.float32)
    grid = grid_for(target, reach) if in_oklab else grid_of_light()
    colors = np.zeros((k, 4), dtype=np.float32)
    colors[:, :3] = grid.steps(palette)
    ranges = np.zeros((259, 4), dtype=np.float32)
    ranges[256:, :3] = colors[0, :3, None]
    if not in_oklab:
        ranges[:256, :3] = grid.steps(carrying_range(target))
    limited = bool(np.isfinite(target.pair_limit))
    too_far = np.zeros((1, 1), dtype=bool)
    if limited:
        too_far = np.linalg.norm(target.oklab[:, None] - target.oklab[None], axis=-1) > target.pair_limit
    indices = np.empty(target.rgba.shape[:2], dtype=np.uint8)
    flat = np.zeros(1, dtype=bool) if target.flat is None else target.flat
    rest = [*near_table(grid, palette, target.oklab), *workspace(target.rgba.shape[1], in_oklab, limited)]
    diffuse_rows(
        as_words(target.rgba), np.uint32(histogram.alpha_threshold), target.flat is not None, flat, target.nearest,
        histogram.bits, histogram.ranks, np.uint8(max(target.transparent, 0)), ranges.ravel(), LINEAR_OF_BYTE,
        (reach * SPAN / grid.widths).astype(np.float32), too_far, limited, colors.ravel(),
        kernel_rows(kernel, divisor, target.strength), target.serpentine, grid.is_oklab, grid.lows, grid.widths,
        grid.cell_levels, grid.levels, *rest, indices,
    )  # fmt: skip
    return indices


@njit(cache=True, fastmath={"nnan", "nsz"}, _nrt=False)
def _widen(colors, lows, highs):
    """The least and the largest of each channel, with what they are already: NumPy takes fifty times as long along three columns."""
    low0, low1, low2, high0, high1, high2 = lows[0], lows[1], lows[2], highs[0], highs[1], highs[2]
    for row in range(colors.shape[0]):
        lightness, a, b = colors[row, 0], colors[row, 1], colors[row, 2]
        low0, low1, low2 = min(low0, lightness), min(low1, a), min(low2, b)
        high0, high1, high2 = max(high0, lightness), max(high1, a), max(high2, b)
    lows[0], lows[1], lows[2], highs[0], highs[1], highs[2] = low0, low1, low2, high0, high1, high2


def grid_for(target: Target, reach: Floats) -> Grid:
    """A grid over as much of OKLab as the picture's and the palette's colors take up.

    Parameters
    ----------
    target : Target
        What is laid out: pixels, palette and settings.
    reach : Floats
        (3,) float32, how far from a color its channels may be carried.

    Returns
    -------
    Grid
        Each channel at least as wide as its reach: so that wherever error carries a pixel it can be looked up.
    """
    lows, highs = target.oklab.min(axis=0), target.oklab.max(axis=0)
    _widen(target.histogram.oklab, lows, highs)
    # Pixels are converted roughly, to within 1e-4, and may lie as far outside of the ends.
    short = np.maximum(0, reach * np.float32(1.01) + np.float32(1e-3) - (highs - lows)) / 2
    return grid_of_oklab(lows - short, highs - lows + 2 * short)
