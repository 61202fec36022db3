"""Error diffusion with any kernel, in linear light or OKLab, to and fro or one way, with flats left clean.

The nearest color is found in OKLab, exactly. In linear light that costs a conversion a pixel; the quick loop in
`row_by_row.py` avoids it wherever no flats are kept clean and no pair is limited.
"""

import numpy as np
from numba import njit

from huvren.core.color.arrays import Bytes, Floats
from huvren.core.color.kernels import decode_srgb_array, linear_to_oklab32
from huvren.core.reduction.dithers import Target
from huvren.core.reduction.dithers.row_by_row import LEVEL_OF_FINE, diffuse_rows, grid_points, kernel_rows
from huvren.core.reduction.histogram import LINEAR_OF_BYTE, as_words, rank_of
from huvren.core.reduction.nearest import order_centers, search

Kernel = tuple[tuple[int, int, int], ...]
"""(rows down, columns onward, parts); the divisor is given apart, as the parts need not add up to it."""
MARGIN, ROWS = 3, 3

SAMPLED = 10_000
REACH = 4.0
"""How far passed-on error may carry a channel, in typical distances between the picture's colors and the palette."""


def carrying_range(target: Target) -> Floats:
    """For each byte its linear light, the lowest and highest it may be carried to, and these within 0..1: (256, 5) float32.

    Colors that no mixture of the palette reaches would pass on ever more error and bleed over their neighbors. The
    bound is even in coded light, so that it holds in the dark as well, and wide for sparse palettes: between black and
    white alone it must lead far below 0.
    """
    histogram = target.histogram
    few = slice(None, None, max(1, histogram.distinct // SAMPLED))
    keys = histogram.colors[few]
    rgb = np.stack([keys & 255, (keys >> 8) & 255, keys >> 16], axis=-1).astype(np.float32)
    gaps = np.abs(rgb - target.rgb[target.nearest[few]]).max(axis=1) / 255
    reach = REACH * float(np.average(gaps, weights=histogram.counts[few])) + 1 / 255
    coded = np.arange(256) / 255
    values: Floats = decode_srgb_array(np.stack([coded, coded - reach, coded + reach], axis=-1)).astype(np.float32)
    values[:, 0] = LINEAR_OF_BYTE
    return np.concatenate([values, np.clip(values[:, 1:], 0, 1)], axis=1)


@njit(cache=True)
def _diffuse(
    pixels, threshold, values, least, most, palette, oklab, in_oklab, flat, has_flat, transparent, serpentine, limit,
    orders, distances, nearest, bits, ranks, downs, onwards, shares, indices,
):  # fmt: skip
    height, width = indices.shape
    errors = np.zeros((ROWS, width + 2 * MARGIN, 3), dtype=np.float32)
    best = np.int64(0)
    for y in range(height):
        step = 1 if y % 2 == 0 or not serpentine else -1
        here = errors[y % ROWS]
        for place in range(width):
            x = place if step == 1 else width - 1 - place
            value = pixels[y * width + x]
            if value >> np.uint32(24) < threshold:
                indices[y, x] = transparent
                continue
            row = rank_of(value & np.uint32(0xFFFFFF), bits, ranks)
            if has_flat and flat[row]:
                indices[y, x] = nearest[row]
                continue
            a = min(max(values[row, 0] + here[x + MARGIN, 0], least[row, 0]), most[row, 0])
            b = min(max(values[row, 1] + here[x + MARGIN, 1], least[row, 1]), most[row, 1])
            c = min(max(values[row, 2] + here[x + MARGIN, 2], least[row, 2]), most[row, 2])
            if in_oklab:
                found, _span = search(a, b, c, best, oklab, orders, distances)
            else:
                one = np.float32(1)
                zero = np.float32(0)
                p, q, r = linear_to_oklab32(min(max(a, zero), one), min(max(b, zero), one), min(max(c, zero), one))
                found, _span = search(p, q, r, best, oklab, orders, distances)
            best = np.int64(found)
            base = nearest[row]
            if best != base:
                # A color too far from the pixel's own nearest makes specks: the nearest is taken instead.
                x0, x1, x2 = oklab[best, 0] - oklab[base, 0], oklab[best, 1] - oklab[base, 1], oklab[best, 2] - oklab[base, 2]
                if x0 * x0 + x1 * x1 + x2 * x2 > limit * limit:
                    best = np.int64(base)
            indices[y, x] = best
            e0, e1, e2 = a - palette[best, 0], b - palette[best, 1], c - palette[best, 2]
            for entry in range(shares.size):
                share = shares[entry]
                down = errors[(y + downs[entry]) % ROWS]
                at = x + MARGIN + step * onwards[entry]
                down[at, 0] += e0 * share
                down[at, 1] += e1 * share
                down[at, 2] += e2 * share
        here[:] = 0


def diffuse(target: Target, kernel: Kernel, divisor: int) -> Bytes:
    """Diffuse the error of each pixel over its neighbors by `kernel`, times the strength."""
    if target.flat is not None or target.working != "linear" or np.isfinite(target.pair_limit):
        return diffuse_exactly(target, kernel, divisor)
    indices = np.empty(target.rgba.shape[:2], dtype=np.uint8)
    orders, distances = order_centers(target.oklab)
    diffuse_rows(
        as_words(target.rgba), np.uint32(target.histogram.alpha_threshold), carrying_range(target), LINEAR_OF_BYTE[target.rgb],
        target.oklab, kernel_rows(kernel, divisor, target.strength), np.uint8(max(target.transparent, 0)), target.serpentine,
        LEVEL_OF_FINE, grid_points(), orders, distances, target.nearest, target.histogram.bits, target.histogram.ranks, indices,
    )  # fmt: skip
    return indices


def diffuse_exactly(target: Target, kernel: Kernel, divisor: int) -> Bytes:
    """The loop that knows every setting, and looks for the nearest color without rounding."""
    histogram = target.histogram
    in_oklab = target.working == "oklab"
    parts = np.array([part for _, _, part in kernel], dtype=np.float32)
    shares = parts / np.float32(divisor) * np.float32(target.strength)
    if in_oklab:
        values: Floats = histogram.oklab
        gaps = np.abs(values - target.oklab[target.nearest])
        reach = REACH * np.average(gaps, axis=0, weights=histogram.counts).astype(np.float32) + np.float32(0.004)
        least, most = values - reach, values + reach
        palette = target.oklab
    else:
        colors = histogram.rgb()
        ranges = carrying_range(target)
        values, least, most = (ranges[:, column][colors] for column in range(3))
        palette = LINEAR_OF_BYTE[target.rgb]
    indices = np.empty(target.rgba.shape[:2], dtype=np.uint8)
    orders, distances = order_centers(target.oklab)
    flat = target.flat if target.flat is not None else np.zeros(1, dtype=bool)
    _diffuse(
        as_words(target.rgba), np.uint32(histogram.alpha_threshold), values, least, most, palette, target.oklab, in_oklab,
        flat, target.flat is not None, np.uint8(max(target.transparent, 0)), target.serpentine,
        np.float32(min(target.pair_limit, 1e9)), orders, distances, target.nearest, histogram.bits, histogram.ranks,
        np.array([down for down, _, _ in kernel]), np.array([onward for _, onward, _ in kernel]), shares, indices,
    )  # fmt: skip
    return indices
