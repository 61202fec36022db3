"""The colors that any picture shows, where it has at most 256 of them, in the order they first appear."""

import numpy as np

from huvren.core.color.arrays import Bytes
from huvren.core.color.value import Color
from huvren.core.errors import BadFile, HuvrenError
from huvren.core.formats.format import FORMATS, Format, Found, Keeps, is_picture
from huvren.core.formats.swatch_list import SwatchList

MOST = 256
AT_ONCE = 65_536


def _own(data: bytes) -> list[tuple[int, int, int, int]] | None:
    from huvren.core.pictures import once, read_small

    return once(data, "own colors", lambda: _distinct(read_small(data).rgba))


def _distinct(rgba: Bytes) -> list[tuple[int, int, int, int]] | None:
    """The colors of (h, w, 4) pixels in the order they first appear, or None for more than 256. Stops where that is known."""
    words = np.ascontiguousarray(rgba).view(np.uint32).ravel()
    known, order = np.empty(0, dtype=np.uint32), []
    for begin in range(0, len(words), AT_ONCE):
        part = words[begin : begin + AT_ONCE]
        if len(known):
            part = part[known[np.searchsorted(known, part).clip(0, len(known) - 1)] != part]
        if not len(part):
            continue
        found, first = np.unique(part, return_index=True)
        order.append(found[np.argsort(first)])
        known = np.sort(np.concatenate([known, found]))
        if len(known) > MOST:
            return None
    red, green, blue, alpha = np.concatenate(order).view(np.uint8).reshape(-1, 4).T.tolist()
    return list(zip(red, green, blue, alpha, strict=True))


def sniff(data: bytes) -> float:
    if not is_picture(data):
        return 0.0
    try:
        return 0.6 if _own(data) is not None else 0.0
    except HuvrenError:
        return 0.0


def read(data: bytes) -> Found:
    """One swatch for each color."""
    colors = _own(data)
    if colors is None:
        raise BadFile(f"The picture has more than {MOST} colors. Reduce it first.")
    made = SwatchList()
    for color in colors:
        made.add(Color.from_bytes(*color))
    return Found(made.palette(), (f"Its own {len(colors)} colors, in the order they first appear.",))


FORMATS.register(
    Format(
        "own-colors", (".png", ".gif", ".webp", ".jpg", ".jpeg"), "picture's own colors", "picture", "image/png",
        Keeps(alpha="all", most=MOST), "Every color that a picture of at most 256 colors shows.", sniff=sniff, read=read,
    )
)  # fmt: skip
