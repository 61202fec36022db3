"""Ordered dither on Bayer matrices (Bayer 1973), for palettes of any colors.

Each distinct color gets the two palette colors whose mixture in linear light comes nearest to it, and their shares;
the matrix decides which of the two a place shows. The same color at the same place always gives the same index.
"""

import numpy as np

from huvren.core.color.arrays import Bytes, Floats, Integers
from huvren.core.color.kernels import linear_to_oklab32
from huvren.core.compiled import njit, prange
from huvren.core.reduction.dithers.dither import DITHERS, Dither, Target
from huvren.core.reduction.histogram import LINEAR_OF_BYTE, as_words, rank_of
from huvren.core.reduction.nearest import order_centers

PARTNERS = 12
CONTRAST_COST = 0.12
"""A pair that lies d apart must come this share of d closer than the nearest color alone, so that flats stay calm."""


def bayer(size: int) -> Bytes:
    """The size×size Bayer matrix, 0 .. size²−1; size a power of two.

    Parameters
    ----------
    size : int
        A power of two.

    Returns
    -------
    Bytes
        (size, size).
    """
    matrix = np.zeros((1, 1), dtype=np.int64)
    while len(matrix) < size:
        matrix = np.block([[4 * matrix, 4 * matrix + 2], [4 * matrix + 3, 4 * matrix + 1]])
    return matrix.astype(np.uint8)


@njit(parallel=True, cache=True)
def _pair(points, values, nearest, palette, oklab, orders, distances, partners, in_oklab, limit, halves):
    """For each distinct color: the darker and the lighter color of its mixture, and the lighter one's share 0..1.

    values, palette : the colors in the space that is mixed in. With `halves` the only mixture is one to one.
    """
    rows = points.shape[0]
    first = np.empty(rows, dtype=np.uint8)
    second = np.empty(rows, dtype=np.uint8)
    shares = np.zeros(rows, dtype=np.float32)
    for row in prange(rows):
        base = nearest[row]
        red, green, blue = values[row, 0], values[row, 1], values[row, 2]
        d0, d1, d2 = points[row, 0] - oklab[base, 0], points[row, 1] - oklab[base, 1], points[row, 2] - oklab[base, 2]
        best = np.sqrt(d0 * d0 + d1 * d1 + d2 * d2)
        partner, share = base, np.float32(0)
        if best > 1e-5:
            for place in range(1, partners):
                other = orders[base, place]
                if distances[base, place] > limit:
                    break
                x = palette[other, 0] - palette[base, 0]
                y = palette[other, 1] - palette[base, 1]
                z = palette[other, 2] - palette[base, 2]
                size = x * x + y * y + z * z
                if size < 1e-12:
                    continue
                t = ((red - palette[base, 0]) * x + (green - palette[base, 1]) * y + (blue - palette[base, 2]) * z) / size
                if t <= 0:
                    continue
                t = np.float32(0.5) if halves else min(t, np.float32(1))
                lightness, a, b = palette[base, 0] + t * x, palette[base, 1] + t * y, palette[base, 2] + t * z
                if not in_oklab:
                    lightness, a, b = linear_to_oklab32(lightness, a, b)
                d0, d1, d2 = points[row, 0] - lightness, points[row, 1] - a, points[row, 2] - b
                cost = np.sqrt(d0 * d0 + d1 * d1 + d2 * d2) + CONTRAST_COST * distances[base, place]
                if cost < best:
                    best, partner, share = cost, other, t
        if oklab[partner, 0] < oklab[base, 0] or (oklab[partner, 0] == oklab[base, 0] and partner < base):
            first[row], second[row], shares[row] = partner, base, 1.0 - share
        else:
            first[row], second[row], shares[row] = base, partner, share
    return first, second, shares


@njit(parallel=True, cache=True)
def _lay(pixels, width, threshold, bits, ranks, first, second, shares, thresholds, transparent, indices):
    size = thresholds.shape[0]
    for y in prange(pixels.size // width):
        for x in range(width):
            value = pixels[y * width + x]
            if value >> np.uint32(24) < threshold:
                indices[y * width + x] = transparent
                continue
            row = rank_of(value & np.uint32(0xFFFFFF), bits, ranks)
            lighter = shares[row] > thresholds[y % size, x % size]
            indices[y * width + x] = second[row] if lighter else first[row]


def mixtures(target: Target, halves: bool = False) -> tuple[Bytes, Bytes, Floats]:
    """For each distinct color the darker and the lighter palette index of its mixture, and the lighter one's share.

    Parameters
    ----------
    target : Target
        What is laid out: pixels, palette and settings.
    halves : bool
        Whether only mixtures of half and half are laid out.

    Returns
    -------
    tuple[Bytes, Bytes, Floats]
        (d,) and (d,) uint8 indices, and (d,) shares 0..1.
    """
    histogram = target.histogram
    in_oklab = target.working == "oklab"
    palette = target.oklab if in_oklab else LINEAR_OF_BYTE[target.rgb]
    values = histogram.oklab if in_oklab else LINEAR_OF_BYTE[histogram.rgb()]
    orders, distances = order_centers(target.oklab)
    first, second, shares = _pair(
        histogram.oklab, values, target.nearest, palette, target.oklab, orders, distances, min(PARTNERS, len(palette)),
        in_oklab, np.float32(min(target.pair_limit, 1e9)), halves,
    )  # fmt: skip
    if target.flat is not None:
        first[target.flat] = second[target.flat] = target.nearest[target.flat]
    return first, second, shares


def lay_out_with(target: Target, matrix: Integers, halves: bool = False) -> Bytes:
    """Lay a picture out over any threshold matrix of the values 0 .. n−1.

    Parameters
    ----------
    target : Target
        What is laid out: pixels, palette and settings.
    matrix : Integers
        Thresholds, each of 0 .. n−1 once.
    halves : bool
        Whether only mixtures of half and half are laid out.

    Returns
    -------
    Bytes
        (h, w) uint8 indices.
    """
    histogram = target.histogram
    first, second, shares = mixtures(target, halves)
    even = (matrix.astype(np.float32) + 0.5) / matrix.size
    thresholds = (0.5 + (even - 0.5) * target.strength).astype(np.float32)
    pixels = as_words(target.rgba)
    indices = np.empty(pixels.size, dtype=np.uint8)
    _lay(
        pixels, target.rgba.shape[1], np.uint32(histogram.alpha_threshold), histogram.bits, histogram.ranks,
        first, second, shares, thresholds, np.uint8(max(target.transparent, 0)), indices,
    )  # fmt: skip
    return indices.reshape(target.rgba.shape[:2])


ORDERED = DITHERS.register(
    Dither(
        "ordered", "ordered 8×8", "A regular weave that stays put from frame to frame; good for pixel work and print.",
        True, lambda target: lay_out_with(target, bayer(8)), is_mixing=True, matrix=lambda: bayer(8),
    )
)  # fmt: skip
DITHERS.register(
    Dither(
        "ordered-4", "ordered 4×4", "A coarser weave with fewer tones, plainer to the eye.",
        True, lambda target: lay_out_with(target, bayer(4)), is_mixing=True, matrix=lambda: bayer(4),
    )
)  # fmt: skip
DITHERS.register(
    Dither(
        "ordered-2", "ordered 2×2", "The smallest weave: quarter tones only.",
        True, lambda target: lay_out_with(target, bayer(2)), is_mixing=True, matrix=lambda: bayer(2),
    )
)  # fmt: skip
