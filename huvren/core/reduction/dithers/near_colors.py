"""Which palette color is nearest, from a table: for error diffusion, which asks at every pixel for a color of its own.

A grid over coded linear light, 32 cells a side; a cell, when first met, learns the color nearest to its middle. What that rounding
costs is passed on like any other error. A cell with one palette color in it is settled for that one beforehand, so that a pixel which
is a palette color, and got no error, always keeps it. A cell with several is shared: it has a grid of its own, eight parts a side,
and a part with several asks exactly.

Learning is exact, and cheap by spheres: of the colors that may be nearest anywhere within a region (4×4×4 cells) a list is kept, and
of that list those are tried that may be nearest within a unit (2×2×2 cells), all of whose cells learn at once. A color may be nearest
within a sphere only if it is no further from its middle than the color nearest to that middle, and twice the radius.
"""

from functools import cache
from typing import NamedTuple

import numpy as np

from huvren.core.color.arrays import Bytes, Floats, Integers
from huvren.core.color.kernels import linear_to_oklab32
from huvren.core.color.transfer import decode_srgb_array, encode_srgb_array
from huvren.core.compiled import njit
from huvren.core.reduction.histogram import LINEAR_OF_BYTE

GRID, PARTS, UNITS, REGIONS = 32, 8, 16, 8
"""Cells a side of the grid, parts a side of a shared cell, units and regions a side of the grid."""
SPAN = 4096
"""Steps of linear light from 0 to 1. Light is looked up from −1 to 2, where error may have carried it."""
OFFSET = SPAN + 0.5
"""What is added to light in steps, so that cutting off the fraction rounds it to a place of `LEVELS`."""
LOWEST, HIGHEST = -0.9995, 1.9995
_STEPS = np.clip(np.arange(-SPAN, 2 * SPAN) / SPAN, 0, 1)
LEVELS = np.floor((encode_srgb_array(_STEPS) * (GRID - 1) + 0.5) * PARTS).astype(np.uint8)
"""Of each step of light its part, 0..255, counted through all cells of a channel."""
CELL_LEVELS = LEVELS // np.uint8(PARTS)
"""Of each step of light its cell, 0..31: a byte each, so that they stay near the processor."""
PART_MIDDLES = decode_srgb_array(np.clip(((np.arange(GRID * PARTS) + 0.5) / PARTS - 0.5) / (GRID - 1), 0, 1)).astype(np.float32)
UNMET, SEVERAL = np.int16(-1), np.int16(-2)
"""Of a cell or part: not learned yet; of a part: several palette colors. A cell that is shared as the n-th holds −2 − n."""
SLACK = 1.02
"""By which spheres are wider than the lattice of points says that they are measured by."""


class Palette(NamedTuple):
    """What is known of a palette while a picture is laid out. Kernels take its fields apart.

    cells : (32³,) int16, the nearest color, or `UNMET`, or −2 − the number of a shared cell
    parts : (shared · 8³,) int16, the same for the parts of shared cells, or `SEVERAL`
    channels : (3, k) float32 OKLab
    lists, counts : (8³, k) uint8 and (8³,) int32, the colors that may be nearest in each region; none where it is not met yet
    room, near : (4, k) float32 and (k,) uint8, to work in
    """

    cells: Integers
    parts: Integers
    channels: Floats
    lists: Bytes
    counts: Integers
    room: Floats
    near: Bytes


@njit(cache=True)
def _oklab_of_lattice(light, points):
    """OKLab of every combination of the channels' (n,) linear light, into (n, n, n, 3)."""
    side = light.size
    for red in range(side):
        for green in range(side):
            for blue in range(side):
                lightness, a, b = linear_to_oklab32(light[red], light[green], light[blue])
                points[red, green, blue, 0], points[red, green, blue, 1], points[red, green, blue, 2] = lightness, a, b


def _spheres(lattice: Floats, across: int) -> Floats:
    """(n³, 4) float32: the middle and the radius of a sphere around each cube of `across` cells a side."""
    side, step = GRID // across, 2 * across
    corner = [slice(start, start + step * (side - 1) + 1, step) for start in range(step + 1)]
    middle = lattice[corner[across], corner[across], corner[across]]
    away = np.zeros((side, side, side), dtype=np.float32)
    for red in corner:
        for green in corner:
            for blue in corner:
                np.maximum(away, np.linalg.norm(lattice[red, green, blue] - middle, axis=-1), out=away)
    return np.concatenate([middle, SLACK * away[..., None]], axis=-1).reshape(-1, 4).astype(np.float32)


@cache
def grid_tables() -> tuple[Floats, Floats, Floats]:
    """OKLab of the middle of each cell, (32³, 3); the spheres of units, (16³, 4), and of regions, (8³, 4): once a process.

    Returns
    -------
    tuple[Floats, Floats, Floats]
        float32 all of them, contiguous.
    """
    # Middles of cells, and of what is between them: the outermost reach half a cell beyond 0 and 1, where nothing is looked up.
    coded = np.clip(np.arange(-1, 2 * GRID) / (2 * (GRID - 1)), 0, 1)
    lattice = np.empty((len(coded),) * 3 + (3,), dtype=np.float32)
    _oklab_of_lattice(decode_srgb_array(coded).astype(np.float32), lattice)
    cells = np.ascontiguousarray(lattice[1::2, 1::2, 1::2]).reshape(-1, 3)
    return cells, _spheres(lattice, GRID // UNITS), _spheres(lattice, GRID // REGIONS)


def settle(rgb: Bytes, oklab: Floats) -> Palette:
    """A table in which the palette's own colors are settled, and nothing else.

    Parameters
    ----------
    rgb : Bytes
        (k, 3) uint8 sRGB, k ≤ 256.
    oklab : Floats
        (k, 3) float32 of the same.

    Returns
    -------
    Palette
        The table.
    """
    level = LEVELS[(LINEAR_OF_BYTE[rgb] * np.float32(SPAN) + np.float32(OFFSET)).astype(np.int64)].astype(np.int64)
    cell, part = level // PARTS, level % PARTS
    cell, part = (cell[:, 0] * GRID + cell[:, 1]) * GRID + cell[:, 2], (part[:, 0] * PARTS + part[:, 1]) * PARTS + part[:, 2]
    cells = np.full(GRID**3, UNMET, dtype=np.int16)
    cells[cell] = np.arange(len(rgb))
    met, owners = np.unique(cell, return_counts=True)
    shared = met[owners > 1]
    parts = np.full((max(1, len(shared)), PARTS**3), UNMET, dtype=np.int16)
    for number, one in enumerate(shared):
        cells[one] = SEVERAL - number
        own = np.flatnonzero(cell == one)
        at, first, owners = np.unique(part[own], return_index=True, return_counts=True)
        parts[number, at] = np.where(owners > 1, SEVERAL, own[first])
    regions, count = REGIONS**3, len(rgb)
    return Palette(
        cells, parts.ravel(), np.ascontiguousarray(oklab.T), np.empty((regions, count), dtype=np.uint8),
        np.zeros(regions, dtype=np.int32), np.empty((4, count), dtype=np.float32),
        np.empty(count, dtype=np.uint8),
    )  # fmt: skip


@njit(cache=True, fastmath={"contract", "nnan", "nsz"})
def _list_region(region, spheres, channels, lists, counts, spans):
    """The colors that may be nearest somewhere within a region."""
    x, y, z, radius = spheres[region, 0], spheres[region, 1], spheres[region, 2], spheres[region, 3]
    lightness, a, b = channels[0], channels[1], channels[2]
    least = np.float32(1e30)
    for color in range(spans.size):
        p, q, r = lightness[color] - x, a[color] - y, b[color] - z
        spans[color] = p * p + q * q + r * r
    for color in range(spans.size):
        least = min(least, spans[color])
    reach = np.sqrt(least) + np.float32(2) * radius
    reach *= reach
    listed = 0
    for color in range(spans.size):
        if spans[color] <= reach:
            lists[region, listed] = color
            listed += 1
    counts[region] = listed


@njit(cache=True, fastmath={"contract", "nnan", "nsz"})
def _learn(cell, points, units, regions, cells, channels, lists, counts, room, near):
    """The nearest color of a cell's middle, and of the others of its unit; ties go to the lower index."""
    red, green, blue = (cell >> 11) << 1, ((cell >> 6) & 15) << 1, ((cell >> 1) & 15) << 1
    region = ((red >> 2) << 6) | ((green >> 2) << 3) | (blue >> 2)
    spans = room[3]
    if counts[region] == 0:
        _list_region(region, regions, channels, lists, counts, spans)
    unit = ((red >> 1) << 8) | ((green >> 1) << 4) | (blue >> 1)
    x, y, z = units[unit, 0], units[unit, 1], units[unit, 2]
    least = np.float32(1e30)
    for place in range(counts[region]):
        color = lists[region, place]
        p, q, r = channels[0, color] - x, channels[1, color] - y, channels[2, color] - z
        spans[place] = p * p + q * q + r * r
        least = min(least, spans[place])
    reach = np.sqrt(least) + np.float32(2) * units[unit, 3]
    reach *= reach
    tried = 0
    lightness, a, b = room[0], room[1], room[2]
    for place in range(counts[region]):
        if spans[place] <= reach:
            color = lists[region, place]
            near[tried] = color
            lightness[tried], a[tried], b[tried] = channels[0, color], channels[1, color], channels[2, color]
            tried += 1
    for corner in range(8):
        other = ((red | (corner >> 2)) << 10) | ((green | ((corner >> 1) & 1)) << 5) | blue | (corner & 1)
        if cells[other] != UNMET:
            continue
        x, y, z = points[other, 0], points[other, 1], points[other, 2]
        least = np.float32(1e30)
        for place in range(tried):
            p, q, r = lightness[place] - x, a[place] - y, b[place] - z
            spans[place] = p * p + q * q + r * r
        for place in range(tried):
            least = min(least, spans[place])
        for place in range(tried):
            if spans[place] == least:
                cells[other] = near[place]
                break


@njit(cache=True)
def _nearest_listed(cell, red, green, blue, regions, channels, lists, counts, room):
    """The color nearest to linear light within a cell, exactly."""
    region = ((cell >> 12) << 6) | (((cell >> 7) & 7) << 3) | ((cell >> 2) & 7)
    if counts[region] == 0:
        _list_region(region, regions, channels, lists, counts, room[3])
    x, y, z = linear_to_oklab32(red, green, blue)
    least, best = np.float32(1e30), 0
    for place in range(counts[region]):
        color = lists[region, place]
        p, q, r = channels[0, color] - x, channels[1, color] - y, channels[2, color] - z
        span = p * p + q * q + r * r
        if span < least:
            least, best = span, color
    return best


@njit(cache=True)
def meet(
    red, green, blue, levels, middles, points, units, regions, cells, parts, channels, lists, counts, room, near
):  # fmt: skip
    """The color of light that no settled cell has: in steps from −1 to 2, with `OFFSET`. What is learned is kept."""
    first, second, third = np.int64(levels[np.int64(red)]), np.int64(levels[np.int64(green)]), np.int64(levels[np.int64(blue)])
    cell = ((first >> 3) << 10) | ((second >> 3) << 5) | (third >> 3)
    entry = np.int64(cells[cell])
    if entry == UNMET:
        _learn(cell, points, units, regions, cells, channels, lists, counts, room, near)
        return np.int64(cells[cell])
    if entry >= 0:
        return entry
    place = ((np.int64(SEVERAL) - entry) << 9) | ((first & 7) << 6) | ((second & 7) << 3) | (third & 7)
    entry = np.int64(parts[place])
    if entry == UNMET:
        entry = np.int64(
            _nearest_listed(cell, middles[first], middles[second], middles[third], regions, channels, lists, counts, room)
        )
        parts[place] = entry
    elif entry == SEVERAL:
        scale, offset = np.float32(1 / SPAN), np.float32(OFFSET)
        zero, one = np.float32(0), np.float32(1)
        red = min(max((red - offset) * scale, zero), one)
        green = min(max((green - offset) * scale, zero), one)
        blue = min(max((blue - offset) * scale, zero), one)
        entry = np.int64(_nearest_listed(cell, red, green, blue, regions, channels, lists, counts, room))
    return entry


def near_tables() -> tuple[Bytes, Floats, Floats, Floats, Floats]:
    """What `meet` needs that no palette changes: levels, the parts' middles, cells, units and regions, in its order.

    Returns
    -------
    tuple[Bytes, Floats, Floats, Floats, Floats]
        See `LEVELS`, `PART_MIDDLES` and `grid_tables`.
    """
    return LEVELS, PART_MIDDLES, *grid_tables()
