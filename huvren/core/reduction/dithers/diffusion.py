"""Error diffusion with any kernel, in linear light or OKLab, to and fro or one way, with flats left clean.

What the loops of `row_by_row.py` need to know, and which of the two is taken.
"""

import numpy as np

from huvren.core.color.arrays import Bytes, Flags, Floats
from huvren.core.color.transfer import decode_srgb_array
from huvren.core.compiled import njit
from huvren.core.reduction.dithers.dither import Target
from huvren.core.reduction.dithers.near_colors import CELL_LEVELS, HIGHEST, LOWEST, OFFSET, SPAN, near_tables, settle
from huvren.core.reduction.dithers.row_by_row import diffuse_colors, diffuse_rows, kernel_rows
from huvren.core.reduction.histogram import LINEAR_OF_BYTE, as_words
from huvren.core.reduction.nearest import order_centers

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
    """For each byte its linear light, the lowest and highest it may be carried to, and these within 0..1: (256, 5) float32.

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
        (256, 5) float32.
    """
    histogram = target.histogram
    every = max(1, histogram.distinct // SAMPLED)
    reach = _reach(target) * _mean_gap(histogram.colors, histogram.counts, target.rgb, target.nearest, every) + 1 / 255
    coded = np.arange(256) / 255
    light = decode_srgb_array(np.stack([coded, coded - reach, coded + reach], axis=-1))
    values: Floats = np.clip(light, LOWEST, HIGHEST).astype(np.float32)
    values[:, 0] = LINEAR_OF_BYTE
    return np.concatenate([values, np.clip(values[:, 1:], 0, 1)], axis=1)


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
    gaps = np.abs(histogram.oklab[few] - target.oklab[target.nearest[few]])
    reach: Floats = _reach(target) * np.average(gaps, axis=0, weights=histogram.counts[few]).astype(np.float32) + np.float32(0.004)
    return reach


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
    if target.working != "linear" or np.isfinite(target.pair_limit):
        return diffuse_by_color(target, kernel, divisor)
    histogram = target.histogram
    colors = np.zeros((len(target.rgb), 4), dtype=np.float32)
    colors[:, :3] = _in_steps(LINEAR_OF_BYTE[target.rgb])
    ranges = np.zeros((259, 4), dtype=np.float32)
    ranges[:256, :3] = _in_steps(carrying_range(target)[:, :3])
    ranges[256:, :3] = colors[0, :3, None]
    indices = np.empty(target.rgba.shape[:2], dtype=np.uint8)
    diffuse_rows(
        as_words(target.rgba), np.uint32(histogram.alpha_threshold), target.flat is not None, _flags(target), target.nearest,
        histogram.bits, histogram.ranks, np.uint8(max(target.transparent, 0)), ranges.ravel(), colors.ravel(),
        kernel_rows(kernel, divisor, target.strength), target.serpentine, CELL_LEVELS,
        *near_tables(), *settle(target.rgb, target.oklab), indices,
    )  # fmt: skip
    return indices


def _in_steps(light: Floats) -> Floats:
    """Linear light as the table of near colors counts it."""
    return np.asarray(light * np.float32(SPAN) + np.float32(OFFSET))


def _flags(target: Target) -> Flags:
    return np.zeros(1, dtype=bool) if target.flat is None else target.flat


def diffuse_by_color(target: Target, kernel: Kernel, divisor: int) -> Bytes:
    """The same with every setting, (h, w) uint8: in either space, with clean flats and a limit of pairs.

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
    histogram = target.histogram
    in_oklab = target.working == "oklab"
    palette = target.oklab if in_oklab else LINEAR_OF_BYTE[target.rgb]
    # In OKLab only the light of each byte is read from the ranges.
    ranges = np.repeat(LINEAR_OF_BYTE[:, None], 5, axis=1) if in_oklab else carrying_range(target)
    limited = bool(np.isfinite(target.pair_limit))
    too_far = np.zeros((1, 1), dtype=bool)
    if limited:
        too_far = np.linalg.norm(target.oklab[:, None] - target.oklab[None], axis=-1) > target.pair_limit
    indices = np.empty(target.rgba.shape[:2], dtype=np.uint8)
    orders, distances = order_centers(target.oklab)
    diffuse_colors(
        as_words(target.rgba), np.uint32(histogram.alpha_threshold), ranges, carrying_reach(target), palette,
        target.oklab, kernel_rows(kernel, divisor, target.strength), in_oklab,
        _flags(target), target.flat is not None, too_far, limited, np.uint8(max(target.transparent, 0)), target.serpentine,
        orders, distances, target.nearest, histogram.bits, histogram.ranks, *near_tables(), *settle(target.rgb, target.oklab),
        indices,
    )  # fmt: skip
    return indices
