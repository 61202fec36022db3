"""Strip PNG: a row of equal squares, one a swatch; any sheet of squares is read, by `squares.py`.

What reads pictures is loaded when there is one.
"""

import io
from collections.abc import Mapping
from typing import TYPE_CHECKING

import numpy as np

from huvren.core.color.value import Color
from huvren.core.errors import BadFile, HuvrenError
from huvren.core.formats.format import FORMATS, Document, Format, Found, Keeps, is_picture
from huvren.core.formats.swatch_list import SwatchList

if TYPE_CHECKING:
    from huvren.core.formats.pictures.plain_areas import Squares

SQUARES = ((64, 32), (2048, 8), (100_000, 1))
"""Up to so many swatches, squares of so many pixels."""


def _found(data: bytes) -> "list[Squares]":
    from huvren.core.formats.pictures.squares import find_squares
    from huvren.core.pictures import once, read_small

    def find() -> "list[Squares]":
        picture = read_small(data)
        return find_squares(picture.rgba, picture.kind.is_lossy)

    return once(data, "squares", find)


def sniff(data: bytes) -> float:
    if not is_picture(data):
        return 0.0
    try:
        found = _found(data)
    except HuvrenError:
        return 0.0
    return 0.9 if found else 0.0


def read_ways(data: bytes) -> Mapping[str, Found]:
    """By runs and by a grid, the one that explains the picture best first; one alone where both say the same."""
    ways = _found(data)
    if not ways:
        raise BadFile("The picture is no sheet of plain squares.")
    return {way.way if len(ways) > 1 else "": _as_palette(way) for way in ways}


def _as_palette(way: "Squares") -> Found:
    made = SwatchList()
    for red, green, blue, alpha in way.colors.tolist():
        made.add(Color.from_bytes(red, green, blue, alpha))
    share = f" It explains {way.explained:.0%} of the picture." if way.explained < 0.995 else ""
    return Found(made.palette(columns=way.columns), (way.note + share,), areas=tuple(map(tuple, way.areas.tolist())))


def read(data: bytes) -> Found:
    """The way that explains the picture best."""
    return next(iter(read_ways(data).values()))


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
        "strip-png", (".png", ".jpg", ".jpeg", ".webp", ".gif"), "strip of squares", "picture", "image/png",
        Keeps(alpha="all", most=100_000),
        "The strip as a small picture to pick from; any program opens it.", sniff=sniff, read=read,
        read_ways=read_ways, write=write,
    )
)  # fmt: skip
