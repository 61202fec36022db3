"""The `huvren` command: a thin shell over the core.

Exit status: 0 done, 1 bad input (one sentence on standard error), 2 wrong use.
"""

import argparse
import json
import os
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from huvren import __version__
from huvren.cli import palettes, reduce
from huvren.cli.files import read_bytes
from huvren.core.errors import HuvrenError
from huvren.core.formats import FORMATS
from huvren.core.formats.readings import is_picture, read_palette
from huvren.core.pictures import open_picture, read_picture
from huvren.core.reduction.histogram import build_histogram


def _inspect(options: argparse.Namespace) -> int:
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
            "palette": [{"hex": s.color.hex, "name": s.name} for s in palette.swatches],
            "notes": list(palette_found.notes),
        }  # fmt: skip
    else:
        histogram = build_histogram(picture.rgba, 1)
        found |= {
            "kind": "picture", "format": picture.format, "width": picture.width, "height": picture.height,
            "colors": histogram.distinct, "transparent": histogram.transparent,
            "palette": [{"hex": f"#{r:02x}{g:02x}{b:02x}", "name": ""} for r, g, b in picture.own_palette],
            "notes": list(picture.notes),
        }  # fmt: skip
    if options.json:
        print(json.dumps(found, ensure_ascii=False))
    elif found["kind"] == "picture":
        print(f"{found['file']}: {found['format']} picture, {found['width']} × {found['height']}, "
              f"{found['colors']:,} colors, palette of {len(found['palette'])}")  # fmt: skip
    else:
        print(f"{found['file']}: {found['format']}, {found['colors']} colors")
    return 0


def _formats(options: argparse.Namespace) -> int:
    rows: list[dict[str, Any]] = [
        {
            "id": entry.id, "endings": list(entry.endings), "kind": entry.kind, "media_type": entry.media_type,
            "reads": entry.read is not None, "writes": entry.write is not None, "use": entry.use,
            "keeps": {
                "title": entry.keeps.title, "names": entry.keeps.names, "groups": entry.keeps.groups,
                "alpha": entry.keeps.alpha, "ids": entry.keeps.ids, "locks": entry.keeps.locks,
                "columns": entry.keeps.columns, "spaces": list(entry.keeps.spaces), "depth_bits": entry.keeps.depth_bits,
                "most": entry.keeps.most,
            },
        }
        for entry in FORMATS
    ]  # fmt: skip
    if options.json:
        print(json.dumps({"formats": rows}))
    else:
        for row in rows:
            print(f"{row['id']:<13} {'/'.join(row['endings'][:3]):<16} {row['kind']:<22} {row['use']}")
    return 0


def build_parser() -> argparse.ArgumentParser:
    """The whole command line; its choices come from the registries."""
    parser = argparse.ArgumentParser(prog="huvren", description="Palettes, reductions and ramps from the command line.")
    parser.add_argument("--version", action="version", version=f"huvren {__version__}")
    commands = parser.add_subparsers(dest="command", required=True, metavar="COMMAND")

    reduce.add_commands(commands)
    palettes.add_commands(commands)

    inspect = commands.add_parser("inspect", help="say what a picture or palette file holds")
    inspect.add_argument("file", type=Path, metavar="FILE")
    inspect.add_argument("--json", action="store_true")
    inspect.set_defaults(run=_inspect)

    formats = commands.add_parser("formats", help="list the formats that can be read and written")
    formats.add_argument("--json", action="store_true")
    formats.set_defaults(run=_formats)
    return parser


def main(arguments: Sequence[str] | None = None) -> int:
    """Run one command; returns the exit status."""
    options = build_parser().parse_args(arguments)
    try:
        status = int(options.run(options))
        sys.stdout.flush()
        return status
    except HuvrenError as error:
        print(f"huvren: {error}", file=sys.stderr)
        return 1
    except BrokenPipeError:
        # Whoever reads the lines has seen enough. What Python flushes when it ends goes nowhere then.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 0
