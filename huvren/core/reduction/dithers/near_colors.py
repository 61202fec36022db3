"""Which palette color is nearest, from a table: for error diffusion, which asks at every pixel for a color of its own.

A grid over coded linear light, or over the part of OKLab that a picture needs, 32 cells a side; each has the color nearest to its
middle. What that rounding costs is passed on like any other error. A cell with one palette color in it is
settled for that one beforehand, so that a pixel which is a palette color, and got no error, always keeps it. A cell with several is
shared: it has a grid of its own, eight parts a side, and a part with several asks exactly.

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
from huvren.core.compiled import get_num_threads, njit, prange

GRID, PARTS, UNITS, REGIONS = 32, 8, 16, 8
"""Cells a side of the grid, parts a side of a shared cell, units and regions a side of the grid."""
SPAN = 4096
"""Steps of a channel from one end of the grid to the other. Colors are looked up from −1 to 2 of that, where error may have carried
them; what is beyond an end counts as the end."""
OFFSET = SPAN + 0.5
"""What is added to a color in steps, so that cutting off the fraction rounds it to a place of `Grid.levels`."""
LOWEST, HIGHEST = -0.9995, 1.9995
_STEPS = np.clip(np.arange(-SPAN, 2 * SPAN) / SPAN, 0, 1)
_PART_MIDDLES = np.clip(((np.arange(GRID * PARTS) + 0.5) / PARTS - 0.5) / (GRID - 1), 0, 1)
UNMET, SEVERAL = np.int16(-1), np.int16(-2)
"""Of a cell or part: not learned yet; of a part: several palette colors lie in it. What is shared as the n-th cell holds −2 − n."""
LANES = 32
"""Colors that are measured by the same instructions; lists are filled up with what is far from everything."""
FAR = np.float32(1e9)
SLACK = 1.02
"""By which spheres are wider than the lattice of points says that they are measured by."""


class Grid(NamedTuple):
    """Where the cells of a table lie: what no palette changes. Kernels take its fields apart.

    is_oklab : whether the channels are those of OKLab, and not linear light
    lows, widths : (3,) float32, where each channel begins, and how far it goes on
    cell_levels : (3 · SPAN,) uint8, of each step of a channel its cell, 0..31: a byte each, so that they stay near the processor
    levels : (3 · SPAN,) uint8, the same of parts, 0..255, counted through all cells
    middles : (3, 256) float32, of each part of a channel its middle
    points : (32³, 3) float32 OKLab of the middle of each cell
    units, regions : (16³, 4) and (8³, 4) float32, middles and radii of spheres around them
    """

    is_oklab: bool
    lows: Floats
    widths: Floats
    cell_levels: Bytes
    levels: Bytes
    middles: Floats
    points: Floats
    units: Floats
    regions: Floats

    def steps(self, colors: Floats) -> Floats:
        """Colors as the table counts them.

        Parameters
        ----------
        colors : Floats
            (n, 3) in the grid's own channels.

        Returns
        -------
        Floats
            (n, 3) float32 steps, with `OFFSET`.
        """
        return np.asarray((colors - self.lows) * (np.float32(SPAN) / self.widths) + np.float32(OFFSET), dtype=np.float32)


class NearTable(NamedTuple):
    """Which palette color is nearest. Kernels take its fields apart.

    cells : (32³,) int16, the nearest color, or −2 − the number of a shared cell
    parts : (shared · 8³,) int16, the same for the parts of shared cells, or `SEVERAL`
    channels : (3, k + `LANES`) float32 OKLab
    own_lists, own_counts : (shared, k) uint8 and (shared,) int32, the colors that may be nearest within each shared cell
    room, near : (3, k + `LANES`) float32 and (k + `LANES`,) uint8, to work in
    """

    cells: Integers
    parts: Integers
    channels: Floats
    own_lists: Bytes
    own_counts: Integers
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


def _levels(shares: Floats) -> Bytes:
    """Of each step of a channel, given as the share of cells that lie before it, 0..1, its part."""
    return np.asarray(np.floor((shares * (GRID - 1) + 0.5) * PARTS), dtype=np.uint8)


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
def grid_of_light() -> Grid:
    """The grid over linear light from 0 to 1, even in coded light: once a process.

    Returns
    -------
    Grid
        Its spheres are measured, as OKLab bends it.
    """
    # Middles of cells, and of what is between them: the outermost reach half a cell beyond 0 and 1, where nothing is looked up.
    coded = np.clip(np.arange(-1, 2 * GRID) / (2 * (GRID - 1)), 0, 1)
    lattice = np.empty((len(coded),) * 3 + (3,), dtype=np.float32)
    _oklab_of_lattice(decode_srgb_array(coded).astype(np.float32), lattice)
    points = np.ascontiguousarray(lattice[1::2, 1::2, 1::2]).reshape(-1, 3)
    levels = _levels(encode_srgb_array(_STEPS))
    middles = np.tile(decode_srgb_array(_PART_MIDDLES).astype(np.float32), (3, 1))
    return Grid(
        False, np.zeros(3, np.float32), np.ones(3, np.float32), levels // np.uint8(PARTS), levels, middles,
        points, _spheres(lattice, GRID // UNITS), _spheres(lattice, GRID // REGIONS),
    )  # fmt: skip


def _middles(lows: Floats, widths: Floats, side: int) -> Floats:
    """(side³, 3) middles of cubes that are so many a side, where the grid's first and last cell have their middles at the ends."""
    across = GRID / side
    shares = (across * (np.arange(side) + 0.5) - 0.5) / (GRID - 1)
    channels = [low + wide * shares for low, wide in zip(lows, widths, strict=True)]
    return np.stack(np.meshgrid(*channels, indexing="ij"), axis=-1).reshape(-1, 3).astype(np.float32)


def grid_of_oklab(lows: Floats, widths: Floats) -> Grid:
    """A grid over a box of OKLab: the narrower, the finer.

    Parameters
    ----------
    lows : Floats
        (3,) float32 where lightness, a and b begin.
    widths : Floats
        (3,) float32 > 0, how far they go on.

    Returns
    -------
    Grid
        Each of its spheres is as large as the others.
    """
    levels = _levels(_STEPS)
    radius = np.linalg.norm(widths) / (GRID - 1) / 2
    spheres = []
    for side in (UNITS, REGIONS):
        middles = _middles(lows, widths, side)
        spheres.append(np.concatenate([middles, np.full((side**3, 1), SLACK * radius * GRID / side, np.float32)], axis=1))
    return Grid(
        True, lows, widths, levels // np.uint8(PARTS), levels,
        (lows[:, None] + widths[:, None] * _PART_MIDDLES).astype(np.float32), _middles(lows, widths, GRID), spheres[0], spheres[1],
    )  # fmt: skip


@njit(inline="always")
def _span(place, x, y, z, room):
    """The square of a distance, as the whole number that its bits are: these have the same order, and a least is found at once."""
    p, q, r = room[0, place] - x, room[1, place] - y, room[2, place] - z
    return np.float32(p * p + q * q + r * r).view(np.int32)


@njit(inline="always")
def _filled_up(count, room):
    """The number of colors in `room` with what fills them up to whole `LANES`."""
    whole = (count + LANES - 1) // LANES * LANES
    for place in range(count, whole):
        room[0, place] = FAR
    return whole


@njit(inline="always")
def _nearest_of(count, x, y, z, room, near):
    """The nearest of the first `count` colors of `room`, which `near` names; ties go to the lower index."""
    best = np.int64(1) << 62
    for place in range(_filled_up(count, room)):
        best = min(best, np.int64(_span(place, x, y, z, room)) << 16 | place)
    return near[best & 0xFFFF]


@njit(cache=True, fastmath={"contract", "nnan", "nsz"}, error_model="numpy", _nrt=False)
def _keep_near(spheres, sphere, count, colors, names, spans, room, near):
    """Of the first `count` colors, (3, n) with their names, those that may be nearest somewhere within a sphere; how many they are.

    They go into `room`, and their names into `near`.
    """
    x, y, z, radius = spheres[sphere, 0], spheres[sphere, 1], spheres[sphere, 2], spheres[sphere, 3]
    whole, least = _filled_up(count, colors), np.int32(2**31 - 1)
    for place in range(whole):
        spans[place] = _span(place, x, y, z, colors)
    for place in range(whole):
        least = min(least, spans[place])
    closest = np.int32(least)
    reach = np.sqrt(closest.view(np.float32)) + np.float32(2) * radius
    most = np.float32(reach * reach).view(np.int32)
    kept = 0
    for place in range(count):
        # Each is written, and the next over it where it is too far: whether it is cannot be foreseen.
        near[kept] = names[place]
        room[0, kept], room[1, kept], room[2, kept] = colors[0, place], colors[1, place], colors[2, place]
        kept += 1 if spans[place] <= most else 0
    return kept


@njit(cache=True, fastmath={"contract", "nnan", "nsz"}, error_model="numpy", _nrt=False)
def _learn(cell, points, taken, cells, room, near):
    """The nearest color of a cell's middle, and of the others of its unit, of the colors that were taken for that."""
    for corner in range(8):
        other = cell | (corner >> 2) << 10 | ((corner >> 1) & 1) << 5 | corner & 1
        if cells[other] == UNMET:
            x, y, z = points[other, 0], points[other, 1], points[other, 2]
            cells[other] = near[0] if taken == 1 else _nearest_of(taken, x, y, z, room, near)


@njit(parallel=True, cache=True)
def _learn_all(points, units, regions, cells, channels, names, share):
    """Every cell's color, region by region; `share` of them at a time."""
    for part in prange(share):
        count = names.size
        # A processor of its own fills up what it measures, so the colors are its own as well.
        colors, spans = channels.copy(), np.empty(channels.shape[1], dtype=np.int32)
        wide, wide_near = np.zeros(channels.shape, dtype=np.float32), np.empty(channels.shape[1], dtype=np.uint8)
        room, near = np.zeros(channels.shape, dtype=np.float32), np.empty(channels.shape[1], dtype=np.uint8)
        for region in range(REGIONS**3 * part // share, REGIONS**3 * (part + 1) // share):
            listed = _keep_near(regions, region, count, colors, names, spans, wide, wide_near)
            first = (region >> 6) << 12 | ((region >> 3) & 7) << 7 | (region & 7) << 2
            for corner in range(8):
                cell = first | (corner >> 2) << 11 | ((corner >> 1) & 1) << 6 | (corner & 1) << 1
                unit = (cell >> 11) << 8 | ((cell >> 6) & 15) << 4 | (cell >> 1) & 15
                taken = _keep_near(units, unit, listed, wide, wide_near, spans, room, near)
                _learn(cell, points, taken, cells, room, near)


@njit(cache=True, fastmath={"contract", "nnan", "nsz"}, error_model="numpy", _nrt=False)
def _learn_parts(number, cell, is_oklab, middles, parts, taken, own_lists, own_counts, room, near):
    """The nearest color of the middle of each part of a shared cell, and which colors may be nearest within it."""
    own_counts[number] = taken
    for place in range(taken):
        own_lists[number, place] = near[place]
    for part in range(PARTS**3):
        if parts[number * PARTS**3 + part] == UNMET:
            x = middles[0, (cell >> 10) * PARTS + (part >> 6)]
            y = middles[1, ((cell >> 5) & 31) * PARTS + ((part >> 3) & 7)]
            z = middles[2, (cell & 31) * PARTS + (part & 7)]
            if not is_oklab:
                x, y, z = linear_to_oklab32(x, y, z)
            parts[number * PARTS**3 + part] = _nearest_of(taken, x, y, z, room, near)


@njit(parallel=True, cache=True)
def _learn_all_parts(shared, is_oklab, middles, units, parts, channels, names, own_lists, own_counts, share):
    """The same of all shared cells; `share` of them at a time."""
    for part in prange(share):
        colors, spans = channels.copy(), np.empty(channels.shape[1], dtype=np.int32)
        room, near = np.zeros(channels.shape, dtype=np.float32), np.empty(channels.shape[1], dtype=np.uint8)
        for number in range(shared.size * part // share, shared.size * (part + 1) // share):
            cell = shared[number]
            unit = (cell >> 11) << 8 | ((cell >> 6) & 15) << 4 | (cell >> 1) & 15
            taken = _keep_near(units, unit, names.size, colors, names, spans, room, near)
            _learn_parts(number, cell, is_oklab, middles, parts, taken, own_lists, own_counts, room, near)


@njit(cache=True, fastmath={"contract", "nnan", "nsz"}, error_model="numpy", _nrt=False)
def exact(color, entry, is_oklab, lows, widths, channels, own_lists, own_counts, room, near):
    """The color nearest to one in steps from −1 to 2, with `OFFSET`, in the shared cell that an entry is of."""
    x, y, z = color
    number = np.int64(SEVERAL) - np.int64(entry)
    scale, offset = np.float32(1 / SPAN), np.float32(OFFSET)
    zero, one = np.float32(0), np.float32(1)
    x = lows[0] + widths[0] * min(max((x - offset) * scale, zero), one)
    y = lows[1] + widths[1] * min(max((y - offset) * scale, zero), one)
    z = lows[2] + widths[2] * min(max((z - offset) * scale, zero), one)
    if not is_oklab:
        x, y, z = linear_to_oklab32(x, y, z)
    for place in range(own_counts[number]):
        listed = own_lists[number, place]
        near[place] = listed
        room[0, place], room[1, place], room[2, place] = channels[0, listed], channels[1, listed], channels[2, listed]
    return np.int32(_nearest_of(own_counts[number], x, y, z, room, near))


def near_table(grid: Grid, colors: Floats, oklab: Floats) -> NearTable:
    """The table of a palette.

    Parameters
    ----------
    grid : Grid
        Where the cells lie.
    colors : Floats
        (k, 3) float32, k ≤ 256, in the grid's own channels.
    oklab : Floats
        (k, 3) float32 of the same.

    Returns
    -------
    NearTable
        The table.
    """
    level = grid.levels[grid.steps(colors).astype(np.int64)].astype(np.int64)
    cell, part = level // PARTS, level % PARTS
    cell, part = (cell[:, 0] * GRID + cell[:, 1]) * GRID + cell[:, 2], (part[:, 0] * PARTS + part[:, 1]) * PARTS + part[:, 2]
    cells = np.full(GRID**3, UNMET, dtype=np.int16)
    cells[cell] = np.arange(len(colors))
    met, owners = np.unique(cell, return_counts=True)
    shared = met[owners > 1]
    cells[shared] = SEVERAL - np.arange(len(shared))
    parts = np.full(len(shared) * PARTS**3, UNMET, dtype=np.int16)
    others = np.flatnonzero(cells[cell] < 0)
    place, first, owners = np.unique(
        np.searchsorted(shared, cell[others]) * PARTS**3 + part[others], return_index=True, return_counts=True
    )
    parts[place] = np.where(owners > 1, SEVERAL, others[first])
    count = len(colors)
    names, channels = np.arange(count).astype(np.uint8), np.zeros((3, count + LANES), dtype=np.float32)
    channels[:, :count] = oklab.T
    own_lists, own_counts = np.empty((len(shared), count), np.uint8), np.zeros(len(shared), np.int32)
    threads = get_num_threads()
    _learn_all(grid.points, grid.units, grid.regions, cells, channels, names, threads)
    if len(shared):
        _learn_all_parts(shared, grid.is_oklab, grid.middles, grid.units, parts, channels, names, own_lists, own_counts, threads)
    return NearTable(cells, parts, channels, own_lists, own_counts, np.zeros_like(channels), np.empty(count + LANES, np.uint8))
