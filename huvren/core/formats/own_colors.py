"""The colors that any picture shows, where it has at most 256 of them, in the order they first appear."""

import numpy as np

from huvren.core.color.value import Color
from huvren.core.errors import BadFile, HuvrenError
from huvren.core.formats import FORMATS, Format, Found, Keeps, SwatchList

MOST = 256
QUICK_LOOK = 65_536
"""Pixels looked at first: most photographs show more than 256 colors there already."""


def _own(data: bytes) -> list[tuple[int, int, int, int]] | None:
    from huvren.core.pictures import read_picture

    words = np.ascontiguousarray(read_picture(data, "the picture").rgba).view(np.uint32).ravel()
    if len(np.unique(words[:QUICK_LOOK])) > MOST:
        return None
    found, first = np.unique(words, return_index=True)
    if len(found) > MOST:
        return None
    red, green, blue, alpha = found[np.argsort(first)].view(np.uint8).reshape(-1, 4).T.tolist()
    return list(zip(red, green, blue, alpha, strict=True))


def sniff(data: bytes) -> float:
    if data[:4] not in (b"\x89PNG", b"GIF8", b"RIFF") and data[:3] != b"\xff\xd8\xff":
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
