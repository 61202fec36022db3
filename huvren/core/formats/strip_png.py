"""Strip PNG: a row of equal squares, one a swatch; read back by the grid that the changes of color fall on.

What reads pictures is loaded when there is one.
"""

import io
import math

import numpy as np

from huvren.core.color.arrays import Bytes, Integers
from huvren.core.color.value import Color
from huvren.core.errors import BadFile, HuvrenError
from huvren.core.formats import FORMATS, Document, Format, Found, Keeps, SwatchList

SQUARES = ((64, 32), (2048, 8), (100_000, 1))
"""Up to so many swatches, squares of so many pixels."""
MOST_CELLS = 65_536
FEWEST_PIXELS_A_CELL = 4


def _edges(rgba: Bytes, axis: int) -> Integers:
    """Places along an axis where any line across changes color."""
    words = np.ascontiguousarray(rgba).view(np.uint32)[..., 0]
    return np.flatnonzero((np.diff(words, axis=axis) != 0).any(axis=1 - axis)) + 1


def grid_of(rgba: Bytes) -> tuple[int, int] | None:
    """Width and height in pixels of the cells that an (h, w, 4) picture is a grid of, or None where it is no grid."""
    height, width = rgba.shape[:2]
    across = math.gcd(width, *_edges(rgba, 1).tolist())
    down = math.gcd(height, *_edges(rgba, 0).tolist())
    if down == height and across % height == 0:
        across = height
    elif across == width and down % width == 0:
        down = width
    cells = (width // across) * (height // down)
    is_line = min(width, height) == 1
    if cells < 2 or cells > MOST_CELLS or not (is_line or across * down >= FEWEST_PIXELS_A_CELL):
        return None
    return across, down


def _pixels(data: bytes) -> Bytes:
    from huvren.core.pictures import read_picture

    return read_picture(data, "the picture").rgba


def sniff(data: bytes) -> float:
    if data[:4] != b"\x89PNG":
        return 0.0
    try:
        grid = grid_of(_pixels(data))
    except HuvrenError:
        return 0.0
    return 0.0 if grid is None else 0.9


def read(data: bytes) -> Found:
    """One swatch a cell, row by row; clear cells that only fill the last row are left out."""
    rgba = _pixels(data)
    grid = grid_of(rgba)
    if grid is None:
        raise BadFile("The picture is no grid of plain squares.")
    across, down = grid
    cells = rgba[down // 2 :: down, across // 2 :: across]
    rows, columns = cells.shape[:2]
    flat = cells.reshape(-1, 4)
    filled = len(flat)
    while rows > 1 and filled > 1 and flat[filled - 1, 3] == 0 and filled > (rows - 1) * columns:
        filled -= 1
    made = SwatchList()
    for red, green, blue, alpha in flat[:filled].tolist():
        made.add(Color.from_bytes(red, green, blue, alpha))
    left = f", {len(flat) - filled} clear ones at the end left out" if filled < len(flat) else ""
    note = f"Read as a grid of {columns} × {rows} cells of {across} × {down} pixels{left}."
    return Found(made.palette(columns=columns if rows > 1 else None), (note,))


def write(document: Document) -> bytes:
    """A single row of squares, smaller the more there are."""
    from PIL import Image

    swatches = document.palette.swatches
    if not swatches:
        raise BadFile("There is no swatch to draw. Add one first.")
    side = next(side for most, side in SQUARES if len(swatches) <= most)
    row = np.array([swatch.color.bytes for swatch in swatches], dtype=np.uint8)
    image = Image.fromarray(np.repeat(np.repeat(row[None], side, axis=0), side, axis=1), "RGBA")
    buffer = io.BytesIO()
    image.save(buffer, "PNG", compress_level=9)
    return buffer.getvalue()


FORMATS.register(
    Format(
        "strip-png", (".png",), "strip of squares", "picture", "image/png", Keeps(alpha="all", most=100_000),
        "The strip as a small picture to pick from; any program opens it.", sniff=sniff, read=read, write=write,
    )
)  # fmt: skip
