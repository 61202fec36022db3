"""Ordered dither on Bayer matrices (Bayer 1973), for palettes of any colors.

Each distinct color gets the two palette colors whose mixture in linear light comes nearest to it, and their shares;
the matrix decides which of the two a place shows. The same color at the same place always gives the same index.
"""

import numpy as np

from huvren.core.color.arrays import Bytes, Floats, Integers
from huvren.core.color.kernels import linear_to_rough_oklab32
from huvren.core.compiled import get_num_threads, njit, prange
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


LANES = 16
"""Partners that are tried at once, by the same instructions; what is beyond `PARTNERS` has no chance."""
LANE_BITS = np.int32(LANES - 1)
"""The last bits of a cost, in whose place the partner's number stands: so the least of all says at once whose it is."""
NEVER = np.float32(1e9)
NEVER_BITS = NEVER.view(np.int32)


def _partners(palette: Floats, orders: Integers, distances: Floats, limit: float) -> Floats:
    """(k, 5, LANES) float32: for each color its nearest partners.

    The rows: from it to them in the space that is mixed in, three; one over the square of that way; what the pair costs.
    """
    partners = np.zeros((len(palette), 5, LANES), dtype=np.float32)
    partners[:, 4] = NEVER
    count = min(PARTNERS, orders.shape[1]) - 1
    away = palette[orders[:, 1 : count + 1]] - palette[:, None]
    size = np.square(away).sum(axis=-1)
    may = (size >= 1e-12) & (distances[:, 1 : count + 1] <= limit)
    partners[:, :3, :count] = away.transpose(0, 2, 1)
    partners[:, 3, :count] = np.divide(1, size, out=np.zeros_like(size), where=size >= 1e-12)
    partners[:, 4, :count] = np.where(may, CONTRAST_COST * distances[:, 1 : count + 1], NEVER)
    return partners


@njit(parallel=True, cache=True, error_model="numpy", fastmath={"contract", "nnan", "nsz"})
def _pair(points, colors, light, nearest, palette, oklab, orders, partners, in_oklab, halves, half_lanes, parts):
    """For each distinct color: the darker and the lighter color of its mixture, and the lighter one's share 0..1.

    points, colors : (d, 3) OKLab and (d,) words of the colors; light : (256,) of each byte; palette : in the space that is mixed in.
    With `halves` the only mixture is one to one.
    """
    rows = points.shape[0]
    first = np.empty(rows, dtype=np.uint8)
    second = np.empty(rows, dtype=np.uint8)
    shares = np.zeros(rows, dtype=np.float32)
    for part in prange(parts):
        costs, onward = np.empty(LANES, dtype=np.int32), np.empty(LANES, dtype=np.float32)
        zero, half, one, never = np.float32(0), np.float32(0.5), np.float32(1), np.float32(1e9)
        for row in range(rows * part // parts, rows * (part + 1) // parts):
            base = nearest[row]
            lightness, a, b = points[row, 0], points[row, 1], points[row, 2]
            x, y, z = lightness - oklab[base, 0], a - oklab[base, 1], b - oklab[base, 2]
            best = np.sqrt(x * x + y * y + z * z)
            partner, share = base, zero
            # The nearest partner is the cheapest: where that costs more than there is to gain, none is tried.
            if best > 1e-5 and partners[base, 4, 0] < best:
                red, green, blue = palette[base, 0], palette[base, 1], palette[base, 2]
                if in_oklab:
                    to_red, to_green, to_blue = lightness - red, a - green, b - blue
                else:
                    key = colors[row]
                    to_red = light[key & np.uint32(255)] - red
                    to_green = light[(key >> np.uint32(8)) & np.uint32(255)] - green
                    to_blue = light[key >> np.uint32(16)] - blue
                lanes = half_lanes if partners[base, 4, half_lanes] >= best else 2 * half_lanes
                for lane in range(lanes):
                    x, y, z = partners[base, 0, lane], partners[base, 1, lane], partners[base, 2, lane]
                    t = (to_red * x + to_green * y + to_blue * z) * partners[base, 3, lane]
                    beyond = never if t <= 0 else zero
                    t = half if halves else min(max(t, zero), one)
                    x, y, z = red + t * x, green + t * y, blue + t * z
                    if not in_oklab:
                        x, y, z = linear_to_rough_oklab32(x, y, z)
                    x, y, z = lightness - x, a - y, b - z
                    cost = np.float32(np.sqrt(x * x + y * y + z * z) + partners[base, 4, lane] + beyond)
                    costs[lane] = (cost.view(np.int32) & ~LANE_BITS) | np.int32(lane)
                    onward[lane] = t
                least = NEVER_BITS
                for lane in range(lanes):
                    least = min(least, costs[lane])
                if least < np.float32(best).view(np.int32):
                    chosen = least & LANE_BITS
                    partner, share = orders[base, chosen + 1], onward[chosen]
            if oklab[partner, 0] < oklab[base, 0] or (oklab[partner, 0] == oklab[base, 0] and partner < base):
                first[row], second[row], shares[row] = partner, base, one - share
            else:
                first[row], second[row], shares[row] = base, partner, share
    return first, second, shares


@njit(parallel=True, cache=True)
def _lay(pixels, width, threshold, bits, ranks, first, second, shares, thresholds, transparent, indices):
    """thresholds : (n, width), of rows that come again and again."""
    for y in prange(pixels.size // width):
        row_pixels, row_indices = pixels[y * width : (y + 1) * width], indices[y * width : (y + 1) * width]
        row_thresholds = thresholds[y % thresholds.shape[0]]
        for x in range(width):
            value = row_pixels[x]
            if value >> np.uint32(24) < threshold:
                row_indices[x] = transparent
                continue
            row = np.uint64(rank_of(value & np.uint32(0xFFFFFF), bits, ranks))
            row_indices[x] = second[row] if shares[row] > row_thresholds[x] else first[row]


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
    orders, distances = order_centers(target.oklab)
    partners = _partners(palette, orders, distances, target.pair_limit)
    first, second, shares = _pair(
        histogram.oklab, histogram.colors, LINEAR_OF_BYTE, target.nearest, palette, target.oklab, orders, partners, in_oklab, halves,
        LANES // 2, get_num_threads(),
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
    width = target.rgba.shape[1]
    thresholds = np.tile((0.5 + (even - 0.5) * target.strength).astype(np.float32), (1, -(-width // matrix.shape[1])))
    pixels = as_words(target.rgba)
    indices = np.empty(pixels.size, dtype=np.uint8)
    _lay(
        pixels, width, np.uint32(histogram.alpha_threshold), histogram.bits, histogram.ranks,
        first, second, shares, np.ascontiguousarray(thresholds[:, :width]), np.uint8(max(target.transparent, 0)), indices,
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
