"""Indexed PNG: the reduced picture with the palette in strip order (PLTE, and tRNS for alpha; ISO/IEC 15948).

`color_table.py` reads such files back.
"""

import io

import numpy as np

from huvren.core.errors import BadInput
from huvren.core.formats.format import FORMATS, Document, Format, Keeps

PERCEPTUAL = 0
"""The rendering intent."""


def write(document: Document) -> bytes:
    """An 8-bit (or smaller, for few colors) indexed PNG; its palette has exactly the swatches, in their order."""
    from PIL import Image
    from PIL.PngImagePlugin import PngInfo

    swatches, indices = document.palette.swatches, document.frames[0] if document.frames else None
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
    # What the numbers mean is said, so that no program has to guess (PNG, third edition, §11.3.2.5).
    info = PngInfo()
    info.add(b"sRGB", bytes([PERCEPTUAL]))
    buffer = io.BytesIO()
    image.save(buffer, "PNG", compress_level=6, pnginfo=info, **options)
    return buffer.getvalue()


FORMATS.register(
    Format(
        "indexed-png", (".png",), "indexed picture", "picture", "image/png", Keeps(alpha="all", places="index", most=256),
        "The reduced picture; its color table is the strip, in order.", contents=frozenset({"palette", "picture"}), write=write,
    )
)  # fmt: skip
