"""Squares in a picture: where a sheet of swatches has its colors, by runs and by a grid, and how much of the picture that explains.

By runs: `square_runs`. By grid: cells of one size, with or without margins and gaps.
"""

import math

import numpy as np

from huvren.core.color.arrays import Bytes, Integers
from huvren.core.formats.pictures.plain_areas import Squares, are_alike, explained_share, ground_of, usual_color, words_of
from huvren.core.formats.pictures.square_runs import by_runs

MOST_CELLS = 100_000
FEWEST_PIXELS_A_CELL = 4
LOSSLESS, LOSSY = 0, 14
"""How much two pixels of one square may differ in a channel, by how the picture was kept."""


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
    return np.flatnonzero((np.diff(words_of(rgba), axis=axis) != 0).any(axis=1 - axis)) + 1


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
    middles = [rgba[y + h // 3 : y + h - h // 3, x + w // 3 : x + w - w // 3] for x, y, w, h in cells]
    colors = np.array([usual_color(middle.reshape(-1, 4)) for middle in middles])
    ground = ground_of(rgba, tolerance)
    last = len(cells)
    while last > 1 and ground is not None and are_alike(colors[last - 1], ground, tolerance + 2):
        last -= 1
    grid = np.array(cells[:last])
    explained = explained_share(rgba, grid, colors[:last], ground, tolerance)
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
    runs = by_runs(rgba, tolerance)
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
            or (len(grid.areas) > len(runs.areas) and ground_of(rgba, tolerance) is not None)
        ):
            found.reverse()
    return found


def _has_ground_cells(rgba: Bytes, grid: Squares, tolerance: int) -> bool:
    ground = ground_of(rgba, tolerance)
    return ground is not None and bool(are_alike(grid.colors, ground, tolerance + 2).mean() > 0.1)
