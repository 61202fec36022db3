"""Squares in a picture: where a sheet of swatches has its colors, by runs and by a grid, and how much of the picture that explains.

By runs: what stands apart on a plain ground is cut out, rows first, then columns; what touches is parted where its color changes. By
grid: cells of one size, with or without margins and gaps. Labels, frames and the noise of JPEG are no squares.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import islice

import numpy as np

from huvren.core.color.arrays import Bytes, Flags, Integers

MOST_CELLS = 100_000
MOST_PIECES = 2_000
"""Pieces that are looked at one by one; larger sheets are grids."""
MOST_LOOKED, MOST_BLOCKS = 60_000, 8_000
"""Runs and blocks that are looked at before a picture is given up as one of something else."""
FEWEST_PIXELS_A_CELL = 4
FEWEST_PIXELS_A_PIECE = 9
LOSSLESS, LOSSY = 0, 14
"""How much two pixels of one square may differ in a channel, by how the picture was kept."""
PLAIN_BORDER = 0.6
"""The share of a picture's rim that is of one color where it has a ground."""
SOLID = 0.7
"""The share of a square that is of its own color: the rest may be a label or a frame."""
EXPLAINED = 0.75
LEAST_HEIGHT = 0.4
"""Of the usual height: what is lower is a label."""
NARROW = 0.25
"""Of the usual width of what touches: what is narrower is the blur between two squares."""


@dataclass(frozen=True)
class Squares:
    """What was found. areas : (n, 4) left, top, width, height in pixels; colors : (n, 4) RGBA; explained : share 0..1 of pixels."""

    way: str
    """How the squares were told apart."""
    areas: Integers
    colors: Bytes
    columns: int | None
    """In a row; None where it does not say."""
    note: str
    """What was seen on the way."""
    explained: float


def _words(rgba: Bytes) -> Integers:
    return np.ascontiguousarray(rgba).view(np.uint32)[..., 0]


def edges(rgba: Bytes, axis: int) -> Integers:
    """Places along an axis where any line across changes color.

    Parameters
    ----------
    rgba : Bytes
        (h, w, 4) uint8.
    axis : int
        0 for rows, 1 for columns.

    Returns
    -------
    Integers
        Places, rising.
    """
    return np.flatnonzero((np.diff(_words(rgba), axis=axis) != 0).any(axis=1 - axis)) + 1


def grid_of(rgba: Bytes) -> tuple[int, int] | None:
    """Width and height in pixels of the cells that an (h, w, 4) picture is a grid of, or None where it is no grid.

    Parameters
    ----------
    rgba : Bytes
        (h, w, 4) uint8.

    Returns
    -------
    tuple[int, int] | None
        Width and height of a cell in pixels, or None.
    """
    height, width = rgba.shape[:2]
    across = math.gcd(width, *edges(rgba, 1).tolist())
    down = math.gcd(height, *edges(rgba, 0).tolist())
    if down == height and across % height == 0:
        across = height
    elif across == width and down % width == 0:
        down = width
    cells = (width // across) * (height // down)
    is_line = min(width, height) == 1
    if cells < 2 or cells > MOST_CELLS or not (is_line or across * down >= FEWEST_PIXELS_A_CELL):
        return None
    return across, down


def _by_whole_grid(rgba: Bytes) -> Squares | None:
    """Cells of one size that fill the picture; clear ones that only fill the last row are left out."""
    grid = grid_of(rgba)
    if grid is None:
        return None
    across, down = grid
    cells = rgba[down // 2 :: down, across // 2 :: across]
    rows, columns = cells.shape[:2]
    flat = cells.reshape(-1, 4)
    filled = len(flat)
    while rows > 1 and filled > 1 and flat[filled - 1, 3] == 0 and filled > (rows - 1) * columns:
        filled -= 1
    left = f", {len(flat) - filled} clear ones at the end left out" if filled < len(flat) else ""
    note = f"Read as a grid of {columns} × {rows} cells of {across} × {down} pixels{left}."
    place = np.arange(filled)
    areas = np.stack([place % columns * across, place // columns * down, np.full(filled, across), np.full(filled, down)], axis=1)
    return Squares("by grid", areas, flat[:filled], columns if rows > 1 else None, note, 1.0)


def _gap(one: Bytes, other: Bytes) -> Bytes:
    """(…, 4) and (…, 4) → the largest difference in a channel."""
    return np.asarray((np.maximum(one, other) - np.minimum(one, other)).max(axis=-1))


def _alike(colors: Bytes, other: Bytes, tolerance: int) -> Flags:
    """(…, 4) and (…, 4) → whether they are one color."""
    return np.asarray(_gap(colors, other) <= tolerance)


def _usual(colors: Bytes) -> Bytes:
    """The color that most of (n, 4) pixels have; of noisy ones the middle one."""
    found, counts = np.unique(_words(colors.reshape(-1, 1, 4)).ravel(), return_counts=True)
    if counts.max() * 2 >= len(colors):
        return np.asarray(np.array([found[counts.argmax()]], dtype=np.uint32).view(np.uint8))
    return np.asarray(np.median(colors.reshape(-1, 4), axis=0).astype(np.uint8))


def _ground(rgba: Bytes, tolerance: int) -> Bytes | None:
    """The color that the squares stand on, or None where they fill the picture."""
    rim = np.concatenate([rgba[0], rgba[-1], rgba[:, 0], rgba[:, -1]])
    color = _usual(rim)
    if _alike(rim, color, tolerance + 2).mean() < PLAIN_BORDER:
        return None
    # A strip of few squares may have one color on most of its rim; a ground goes all the way round.
    corners = rgba[[0, 0, -1, -1], [0, -1, 0, -1]]
    sides = [_alike(side, color, tolerance + 2).mean() for side in (rgba[0], rgba[-1], rgba[:, 0], rgba[:, -1])]
    return color if _alike(corners, color, tolerance + 2).all() and min(sides) > 0.9 else None


def _spans(flags: Flags) -> list[tuple[int, int]]:
    """Begin and end of each run of true values."""
    steps = np.flatnonzero(np.diff(np.concatenate([[False], flags, [False]]).astype(np.int8)))
    return list(zip(steps[0::2].tolist(), steps[1::2].tolist(), strict=True))


def _parted(changes: Flags) -> list[tuple[int, int]]:
    """Runs between the places where something changes. changes : (n − 1,), between neighbors."""
    ends = np.flatnonzero(changes) + 1
    bounds = [0, *ends.tolist(), len(changes) + 1]
    return list(zip(bounds[:-1], bounds[1:], strict=True))


def _without_narrow(spans: list[tuple[int, int]]) -> list[tuple[int, int]]:
    """Runs without the blur between two of them."""
    widths = np.array([end - begin for begin, end in spans])
    # The usual width is that of the run which a pixel of the middle lies in.
    usual = np.sort(np.repeat(widths, widths))[widths.sum() // 2] if widths.sum() else 0
    return [span for span, width in zip(spans, widths.tolist(), strict=True) if width >= max(usual * NARROW, 1)]


def _bands(block: Bytes, tolerance: int) -> list[tuple[int, int]]:
    """Rows of a block that look alike from left to right, without the blur between them."""
    changes = _gap(block[1:], block[:-1]) > tolerance
    found = _without_narrow(_parted(changes.mean(axis=1) > (0.02 if tolerance else 0)))
    return _joined(found, [block[(top + bottom) // 2] for top, bottom in found], tolerance)


def _joined(spans: list[tuple[int, int]], looks: list[Bytes], tolerance: int) -> list[tuple[int, int]]:
    """Runs that are parted by noise alone are one. looks : what each shows."""
    if not tolerance:
        return spans
    made: list[tuple[int, int]] = []
    last: Bytes | None = None
    for span, look in zip(spans, looks, strict=True):
        if last is not None and _alike(look, last, tolerance).mean() > 0.9:
            made[-1] = (made[-1][0], span[1])
        else:
            made.append(span)
            last = look
    return made


def _tiles(block: Bytes, tolerance: int) -> Iterator[tuple[int, int, int, int]]:
    """Left, top, right, bottom of the plain pieces of a block in which squares touch each other."""
    height, width = block.shape[:2]
    looked = 0
    for top, bottom in _bands(block, tolerance):
        inset = (bottom - top) // 5
        band = block[top + inset : bottom - inset]
        # Noise is taken out by the middle one of several rows; what is exact needs but one.
        profile = np.median(band[:: max(1, len(band) // 16)], axis=0).astype(np.uint8) if tolerance else band[len(band) // 2]
        runs = _without_narrow(_parted(_gap(profile[1:], profile[:-1]) > tolerance))
        looks = [np.median(profile[left:right], axis=0).astype(np.uint8) for left, right in runs] if tolerance else []
        looked += len(runs)
        if looked > MOST_LOOKED:
            return
        if tolerance and width < 3 * len(runs):
            continue  # noise: nothing as narrow as that stays apart in a lossy picture
        for left, right in _joined(runs, looks, tolerance) if tolerance else runs:
            # Specks, as letters are made of, are no squares; in a picture of one line every pixel may be one.
            if height == 1 or width == 1 or (right - left) * (bottom - top) >= FEWEST_PIXELS_A_PIECE:
                yield left, top, right, bottom


def _pieces(rgba: Bytes, ground: Bytes | None, tolerance: int) -> list[tuple[int, int, int, int]]:
    """Left, top, right, bottom of what may be a square, row by row."""
    if ground is None:
        return list(islice(_tiles(rgba, tolerance), MOST_PIECES + 1))
    mask = ~_alike(rgba, ground, tolerance + 2)
    found: list[tuple[int, int, int, int]] = []
    blocks = 0
    for top, bottom in _spans(mask.mean(axis=1) > (0.01 if tolerance else 0)):
        rows = mask[top:bottom]
        if blocks > MOST_BLOCKS:
            return []
        for left, right in _spans(rows.mean(axis=0) > (0.2 if tolerance else 0)):
            # Blocks of one row may begin and end at different heights.
            inner = np.flatnonzero(rows[:, left:right].mean(axis=1) > (0.3 if tolerance else 0))
            if not len(inner):
                continue
            blocks += 1
            high, low = top + int(inner[0]), top + int(inner[-1]) + 1
            tiles = islice(_tiles(rgba[high:low, left:right], tolerance), MOST_PIECES + 1)
            found += [(left + a, high + b, left + c, high + d) for a, b, c, d in tiles]
            if len(found) > MOST_PIECES:
                return []
    return found


def _settled(rgba: Bytes, area: Integers, color: Bytes, tolerance: int) -> tuple[int, int, int, int]:
    """An area of a noisy picture as far as its color reaches, from its middle on, into the blur about it or back out of it."""
    left, top, width, height = area.tolist()

    def reach(flags: Flags, begin: int, size: int) -> tuple[int, int]:
        middle = begin + size // 2
        inside = next(((one, end) for one, end in _spans(flags) if one <= middle < end), (begin, begin + size))
        return inside[0], inside[1] - inside[0]

    rows = rgba[max(top - height, 0) : top + 2 * height, left + width // 4 : left + width - width // 4]
    above = min(top, height)
    begin, down = reach(_alike(rows, color, 2 * tolerance).mean(axis=1) > 0.6, above, height)
    top += begin - above
    columns = rgba[top + down // 4 : top + down - down // 4, max(left - width, 0) : left + 2 * width]
    before = min(left, width)
    begin, across = reach(_alike(columns, color, 2 * tolerance).mean(axis=0) > 0.6, before, width)
    return left + begin - before, top, across, down


def _ground_between(rgba: Bytes, pieces: list[tuple[int, int, int, int]], tolerance: int) -> Bytes | None:
    """The color of most of the rim where it also stands between the pieces time and again: squares that reach the rim."""
    if not 4 <= len(pieces) <= MOST_PIECES:
        return None
    rim = np.concatenate([rgba[0], rgba[-1], rgba[:, 0], rgba[:, -1]])
    color = _usual(rim)
    middles = np.array([rgba[(top + bottom) // 2, (left + right) // 2] for left, top, right, bottom in pieces])
    of_it = _alike(middles, color, tolerance + 2)
    parted = int((np.diff(of_it.astype(np.int8)) == 1).sum())
    return color if parted >= 2 and _alike(rim, color, tolerance + 2).mean() > 0.4 else None


def _by_runs(rgba: Bytes, tolerance: int) -> Squares | None:
    ground = _ground(rgba, tolerance)
    pieces = _pieces(rgba, ground, tolerance)
    if ground is None and (between := _ground_between(rgba, pieces, tolerance)) is not None:
        ground = between
        pieces = _pieces(rgba, ground, tolerance)
    if not 2 <= len(pieces) <= MOST_PIECES:
        return None
    areas = np.array([(left, top, right - left, bottom - top) for left, top, right, bottom in pieces])
    sizes = areas[:, 2] * areas[:, 3]
    is_line = min(rgba.shape[:2]) == 1
    by_height = np.argsort(areas[:, 3])
    usual = areas[by_height[np.searchsorted(np.cumsum(sizes[by_height]), sizes.sum() / 2)], 3]
    keep, colors = [], []
    for place, (left, top, width, height) in enumerate(areas.tolist()):
        if height < usual * LEAST_HEIGHT or (not is_line and width * height < FEWEST_PIXELS_A_PIECE):
            continue
        x, y = width // 6, height // 6
        pixels = rgba[top + y : top + height - y, left + x : left + width - x].reshape(-1, 4)
        color = _usual(pixels)
        is_ground = ground is not None and bool(_alike(color, ground, tolerance + 4))
        if not is_ground and _alike(pixels, color, tolerance + 2).mean() >= SOLID:
            keep.append(place)
            colors.append(color)
            if tolerance:
                areas[place] = _settled(rgba, areas[place], color, tolerance)
    if len(keep) < 2:
        return None
    areas = areas[keep]
    found = np.array(colors, dtype=np.uint8)
    explained = _explained(rgba, areas, found, ground, tolerance)
    if explained < EXPLAINED:
        return None
    rows, columns = _shape(areas)
    where = "on a plain ground" if ground is not None else "that touch"
    note = f"Read as {len(keep):,} pieces of one color {where}, in {rows} {'row' if rows == 1 else 'rows'}."
    return Squares("by runs", areas, found, columns if rows > 1 else None, note, explained)


def _shape(areas: Integers) -> tuple[int, int]:
    """Rows, and the most that stand in one of them."""
    tops = areas[:, 1]
    begins = np.flatnonzero(
        np.concatenate([[True], np.diff(areas[:, 0]) < 0]) | np.concatenate([[True], tops[1:] >= tops[:-1] + areas[:-1, 3]])
    )
    return len(begins), int(np.diff([*begins.tolist(), len(areas)]).max())


def _explained(rgba: Bytes, areas: Integers, colors: Bytes, ground: Bytes | None, tolerance: int) -> float:
    """The share of pixels that a drawing of the squares on their ground would show as they are."""
    drawn = np.zeros_like(rgba)
    if ground is not None:
        drawn[:] = ground
    for (left, top, width, height), color in zip(areas.tolist(), colors, strict=True):
        drawn[top : top + height, left : left + width] = color
    return float(_alike(rgba, drawn, tolerance + 2).mean())


def _pitch(places: Integers) -> float | None:
    """The distance at which places follow each other, some of them missing, or None where they do not."""
    different = np.unique(places)
    if len(different) < 3:
        return None
    gaps = np.diff(different)
    # A pixel or two of difference is how programs round.
    gaps = gaps[gaps > 2]
    if not len(gaps):
        return None
    pitch = float(gaps.min())
    counts = np.rint((places - places.min()) / pitch)
    pitch = float((places.max() - places.min()) / counts.max())
    return pitch if np.abs(places - places.min() - np.rint((places - places.min()) / pitch) * pitch).max() <= 2 else None


def _by_lattice(rgba: Bytes, runs: Squares, tolerance: int) -> Squares | None:
    """A grid with margins and gaps, with the places at which the ground itself, or nothing else, is seen."""
    areas = runs.areas
    width, height = np.median(areas[:, 2:], axis=0).astype(int).tolist()
    if np.abs(areas[:, 2:] - (width, height)).max() > 2 or len(areas) < 3:
        return None
    across, down = _pitch(areas[:, 0]), _pitch(areas[:, 1])
    tops = np.unique(areas[:, 1])
    if across is None or (down is None and len(tops) > 2):
        return None
    left, top = int(areas[:, 0].min()), int(tops.min())
    columns = round((int(areas[:, 0].max()) - left) / across) + 1
    step = down or float(np.ptp(tops)) or 1.0
    rows = round((int(tops.max()) - top) / step) + 1
    if columns * rows > MOST_CELLS:
        return None
    cells = [(round(left + at % columns * across), round(top + at // columns * step), width, height) for at in range(columns * rows)]
    colors = np.array([_usual(rgba[y + h // 3 : y + h - h // 3, x + w // 3 : x + w - w // 3].reshape(-1, 4)) for x, y, w, h in cells])
    ground = _ground(rgba, tolerance)
    last = len(cells)
    while last > 1 and ground is not None and _alike(colors[last - 1], ground, tolerance + 2):
        last -= 1
    grid = np.array(cells[:last])
    explained = _explained(rgba, grid, colors[:last], ground, tolerance)
    note = f"Read as a grid of {columns} × {rows} cells of {width} × {height} pixels with gaps."
    return Squares("by grid", grid, colors[:last], columns if rows > 1 else None, note, explained)


def find_squares(rgba: Bytes, is_lossy: bool) -> list[Squares]:
    """Every way in which the picture is a sheet of squares, the one that explains it best first; empty where it is none.

    Parameters
    ----------
    rgba : Bytes
        (h, w, 4) uint8.
    is_lossy : bool
        Whether it was kept as JPEG or lossy WebP.

    Returns
    -------
    list[Squares]
        Each way, the best first.
    """
    tolerance = LOSSY if is_lossy else LOSSLESS
    grid = None if is_lossy else _by_whole_grid(rgba)
    runs = _by_runs(rgba, tolerance)
    if runs is not None and (grid is None or _has_ground_cells(rgba, grid, tolerance)):
        grid = _by_lattice(rgba, runs, tolerance)
    found = [way for way in (grid, runs) if way is not None]
    if len(found) == 2 and np.array_equal(found[0].colors, found[1].colors):
        return found[:1]
    if len(found) == 2 and grid is not None and runs is not None:
        _, _, width, height = grid.areas[0].tolist()
        # Many cells that are no squares are more likely pieces of different widths; a grid of the ground's own cells says too much.
        is_of_cells = abs(width - height) <= max(width, height) // 5 or len(runs.areas) * 4 >= len(grid.areas) * 3
        if (
            not is_of_cells
            or runs.explained > grid.explained
            or (len(grid.areas) > len(runs.areas) and _ground(rgba, tolerance) is not None)
        ):
            found.reverse()
    return found


def _has_ground_cells(rgba: Bytes, grid: Squares, tolerance: int) -> bool:
    ground = _ground(rgba, tolerance)
    return ground is not None and bool(_alike(grid.colors, ground, tolerance + 2).mean() > 0.1)
