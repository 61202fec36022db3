"""The color table that an indexed PNG or GIF carries, in index order, with its transparency."""

import numpy as np

from huvren.core.color.value import Color
from huvren.core.errors import BadFile, HuvrenError
from huvren.core.formats import FORMATS, Format, Found, Keeps, SwatchList


def sniff(data: bytes) -> float:
    if data[:4] == b"\x89PNG":
        return 0.95 if data[25:26] == b"\x03" else 0.0
    if data[:4] != b"GIF8":
        return 0.0
    from huvren.core.pictures import open_picture

    try:
        return 0.95 if open_picture(data).mode == "P" else 0.0
    except HuvrenError:
        return 0.0


def read(data: bytes) -> Found:
    """Every entry of the table, used or not."""
    from huvren.core.pictures import open_picture

    image = open_picture(data, "the picture")
    try:
        image.load()
    except (OSError, SyntaxError, ValueError, EOFError) as error:
        raise BadFile("The picture is damaged or cut short.") from error
    if image.mode != "P":
        raise BadFile("The picture holds no color table.")
    colors = np.array(image.getpalette("RGB") or [], dtype=np.uint8).reshape(-1, 3)
    alphas = [255] * len(colors)
    shown = image.info.get("transparency")
    if isinstance(shown, bytes):
        alphas[: len(shown)] = list(shown)[: len(colors)]
    elif isinstance(shown, int) and shown < len(colors):
        alphas[shown] = 0
    made = SwatchList()
    for (red, green, blue), alpha in zip(colors.tolist(), alphas, strict=True):
        made.add(Color.from_bytes(red, green, blue, alpha))
    return Found(made.palette(), ("Its color table, in the order of its indices.",))


FORMATS.register(
    Format(
        "color-table", (".png", ".gif"), "picture's color table", "picture", "image/png", Keeps(alpha="all", most=256),
        "The table of an indexed picture, in index order.", sniff=sniff, read=read,
    )
)  # fmt: skip
