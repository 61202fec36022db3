"""`huvren inspect`: what a file holds."""

import argparse
import json
from pathlib import Path
from typing import Any

from huvren.cli.files import read_bytes
from huvren.core.color.eight_bits import hex_of
from huvren.core.errors import HuvrenError
from huvren.core.formats import is_picture
from huvren.core.formats.readings import read_palette
from huvren.core.pictures import open_picture, read_picture

DESCRIPTION = "Say what a picture or palette file holds."


def arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("file", type=Path, metavar="FILE")
    parser.add_argument("--json", action="store_true")


def run(options: argparse.Namespace) -> int:
    data = read_bytes(options.file)
    found: dict[str, Any] = {"file": options.file.name, "bytes": len(data)}
    try:
        picture = read_picture(data, options.file.name)
    except HuvrenError:
        if is_picture(data):
            open_picture(data, options.file.name)
            raise
        entry, palette_found = read_palette(data, options.file.name)
        palette = palette_found.palette
        found |= {
            "kind": "palette", "format": entry.label, "name": palette.name, "colors": len(palette.swatches),
            "palette": [
                {"hex": s.color.hex, "name": s.name, "sure": sure, **({"doubt": doubt} if doubt else {})}
                for s, sure, doubt in zip(
                    palette.swatches, palette_found.sure or (1.0,) * len(palette.swatches),
                    palette_found.doubts or ("",) * len(palette.swatches), strict=True,
                )
            ],
            "notes": list(palette_found.notes),
        }  # fmt: skip
    else:
        from huvren.core.reduction.histogram import build_histogram

        histogram = build_histogram(picture.rgba, 1)
        found |= {
            "kind": "picture", "format": picture.format, "width": picture.width, "height": picture.height,
            "colors": histogram.distinct, "transparent": histogram.transparent,
            "palette": [{"hex": hex_of(channels), "name": ""} for channels in picture.own_palette],
            "notes": list(picture.notes),
        }  # fmt: skip
    if options.json:
        print(json.dumps(found, ensure_ascii=False))
    elif found["kind"] == "picture":
        print(f"{found['file']}: {found['format']} picture, {found['width']} × {found['height']}, "
              f"{found['colors']:,} colors, palette of {len(found['palette'])}")  # fmt: skip
    else:
        doubtful = sum("doubt" in entry for entry in found["palette"])
        in_doubt = f", {doubtful} of them doubtful" if doubtful else ""
        print(f"{found['file']}: {found['format']}, {found['colors']} colors{in_doubt}")
    return 0
