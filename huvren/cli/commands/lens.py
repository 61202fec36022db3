"""`huvren lens`: a palette or a picture as another eye, screen or paper would show it, written as a file of its own."""

import argparse
import io
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from huvren.cli.files import read_bytes, read_likeliest, write_bytes, writer_for
from huvren.core.color.arrays import Bytes
from huvren.core.color.value import Color
from huvren.core.errors import BadInput
from huvren.core.formats import Document, is_picture

DESCRIPTION = "See a palette or a picture through a lens, and write what is seen. The file itself stays as it is."


def arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("file", type=Path, metavar="FILE", help="a palette, or a picture; an indexed one keeps its indices")
    parser.add_argument("--lens", required=True, metavar="LENS[:AMOUNT]", help="such as deutan:80, lightness or glare:6")
    parser.add_argument("--out", type=Path, required=True, metavar="FILE")


def run(options: argparse.Namespace) -> int:
    import numpy as np

    from huvren.core.lenses import parse_lens

    lens, amount = parse_lens(options.lens)
    data = read_bytes(options.file)

    def see(rgb: Bytes) -> Bytes:
        return lens.through_bytes(rgb, amount)

    if is_picture(data):
        if options.out.suffix.lower() != ".png":
            raise BadInput("A picture seen through a lens is written as .png. Name such a file with --out.")
        write_bytes(options.out, _picture(data, options.file.name, see))
        print(f"{options.file.name} through “{lens.label}” → {options.out}.")
        return 0
    palette = read_likeliest(options.file).found.palette
    rgb = np.array([swatch.color.bytes[:3] for swatch in palette.swatches], np.uint8).reshape(-1, 3)
    colors = [Color.from_bytes(*(int(v) for v in row)) for row in see(rgb)]
    swatches = [replace(s, color=color.with_alpha(s.color.alpha)) for s, color in zip(palette.swatches, colors, strict=True)]
    target = writer_for(options.out)
    # Kept ramps and other variants are of the colors as they are: what is written is only what is seen.
    seen = replace(palette, ramps=(), variants=(), variant=None).with_swatches(swatches)
    write_bytes(options.out, target.written(Document(seen)))
    print(f"{options.file.name} through “{lens.label}” → {options.out}: {len(swatches):,} colors.")
    return 0


def _picture(data: bytes, name: str, see: Callable[[Bytes], Bytes]) -> bytes:
    """A PNG of what is seen: an indexed one changes its table alone."""
    import numpy as np
    from PIL import Image

    from huvren.core.pictures import encode_png, read_picture

    decoded = read_picture(data, name)
    with Image.open(io.BytesIO(data)) as opened:
        if opened.format == "PNG" and opened.mode == "P":
            opened.load()
            table = np.array(opened.getpalette("RGB") or [], np.uint8).reshape(-1, 3)
            opened.putpalette(see(table).tobytes(), "RGB")
            written = io.BytesIO()
            clear = opened.info.get("transparency")
            opened.save(written, "PNG", **({} if clear is None else {"transparency": clear}))
            return written.getvalue()
    return encode_png(np.dstack([see(decoded.rgba[..., :3]), decoded.rgba[..., 3]]))
