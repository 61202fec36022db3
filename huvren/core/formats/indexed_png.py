"""Indexed PNG: the reduced picture with the palette in strip order (PLTE, and tRNS for alpha; ISO/IEC 15948)."""

import io

import numpy as np
from PIL import Image

from huvren.core.color.value import Color
from huvren.core.errors import BadFile, BadInput
from huvren.core.formats import FORMATS, Document, Format, Found, Keeps
from huvren.core.palette.naming import suggest_name, unused_name
from huvren.core.palette.values import Palette, Swatch
from huvren.core.pictures import open_picture

SIGNATURE = b"\x89PNG\r\n\x1a\n"
INDEXED = 3


def sniff(data: bytes) -> float:
    return 1.0 if data[:8] == SIGNATURE and data[25:26] == bytes([INDEXED]) else 0.0


def read(data: bytes) -> Found:
    """The palette of the picture in index order, with its transparency."""
    image = open_picture(data, "the picture")
    try:
        image.load()
    except (OSError, SyntaxError, ValueError) as error:
        raise BadFile("The picture is damaged or cut short.") from error
    if image.mode != "P":
        raise BadFile("The picture holds no palette of its own.")
    colors = np.array(image.getpalette("RGB") or [], dtype=np.uint8).reshape(-1, 3)
    alphas = [255] * len(colors)
    shown = image.info.get("transparency")
    if isinstance(shown, bytes):
        alphas[: len(shown)] = list(shown)[: len(colors)]
    elif isinstance(shown, int) and shown < len(colors):
        alphas[shown] = 0
    swatches: list[Swatch] = []
    taken: set[str] = set()
    for (red, green, blue), alpha in zip(colors.tolist(), alphas, strict=True):
        color = Color.from_bytes(red, green, blue, alpha)
        name = unused_name(suggest_name(color), taken)
        taken.add(name)
        swatches.append(Swatch(color, name))
    return Found(Palette("Untitled").with_swatches(swatches))


def write(document: Document) -> bytes:
    """An 8-bit (or smaller, for few colors) indexed PNG; its palette has exactly the swatches, in their order."""
    swatches, indices = document.palette.swatches, document.indices
    if indices is None:
        raise BadInput("An indexed PNG needs a reduced picture. Reduce a picture with this palette first.")
    if not 1 <= len(swatches) <= 256:
        raise BadInput(f"An indexed PNG holds 1 to 256 colors; this palette has {len(swatches)}.")
    if int(indices.max(initial=0)) >= len(swatches):
        raise BadInput("A pixel of the picture has no swatch.")
    image = Image.fromarray(np.ascontiguousarray(indices), "P")
    colors = [swatch.color.bytes for swatch in swatches]
    image.putpalette([channel for color in colors for channel in color[:3]])
    options: dict[str, bytes] = {}
    if any(color[3] != 255 for color in colors):
        last = max(place for place, color in enumerate(colors) if color[3] != 255)
        options["transparency"] = bytes(color[3] for color in colors[: last + 1])
    buffer = io.BytesIO()
    image.save(buffer, "PNG", compress_level=6, **options)
    return buffer.getvalue()


FORMATS.register(
    Format(
        "indexed-png", (".png",), "indexed picture", "image/png", Keeps(alpha=True, most=256),
        "The reduced picture; its color table is the strip, in order.", needs_picture=True,
        sniff=sniff, read=read, write=write,
    )
)  # fmt: skip
