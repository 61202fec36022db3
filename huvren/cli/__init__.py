"""The `huvren` command: a thin shell over the core.

Exit status: 0 done, 1 bad input (one sentence on standard error), 2 wrong use.
"""

import argparse
import json
import sys
import time
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np

from huvren import __version__
from huvren.cli import palettes
from huvren.cli.files import read_bytes, write_bytes, writer_for
from huvren.core.color.notation import parse_color
from huvren.core.errors import BadInput, HuvrenError
from huvren.core.formats import FORMATS, Document
from huvren.core.formats.readings import is_picture, read_palette
from huvren.core.palette.naming import suggest_name
from huvren.core.palette.values import Palette, Swatch
from huvren.core.pictures import READABLE, Picture, open_picture, read_picture
from huvren.core.reduction.adopt import adopt, kept_colors, paint_with
from huvren.core.reduction.choosers import CHOOSERS
from huvren.core.reduction.dithers import DITHERS
from huvren.core.reduction.histogram import build_histogram
from huvren.core.reduction.recipe import FEWEST, MOST, ReduceRecipe, say
from huvren.core.reduction.reduce import reduce_picture


def _picture(path: Path) -> Picture:
    return read_picture(read_bytes(path), path.name)


def _listed(palette: Palette, counts: dict[str, int], pixels: int) -> list[dict[str, Any]]:
    return [{"hex": s.color.hex, "name": s.name, "coverage": round(counts.get(s.id, 0) / pixels, 6)} for s in palette.swatches]


def _reduce(options: argparse.Namespace) -> int:
    if options.out.suffix.lower() != ".png":
        raise BadInput(f"“{options.out}” does not end in .png; reduced pictures are written as indexed PNG.")
    target = writer_for(options.save_palette) if options.save_palette else None
    clock = time.perf_counter()
    picture = _picture(options.input)
    seconds = {"read": time.perf_counter() - clock}
    locked = [Swatch(c, suggest_name(c), locked=True) for c in (parse_color(text) for text in options.keep)]
    palette, fixed = Palette(options.input.stem, tuple(locked)), None
    if options.palette:
        found = read_palette(read_bytes(options.palette), options.palette.name)[1].palette
        fixed = [s.color.bytes[:3] for s in [*locked, *found.swatches] if s.color.alpha > 0]
        palette = Palette(found.name, (*locked, *found.swatches), found.groups)
        if len(palette.swatches) > MOST:
            raise BadInput(f"“{options.palette.name}” makes {len(palette.swatches)} colors; an indexed picture holds {MOST}.")
    recipe = ReduceRecipe(
        colors=min(max(options.colors or len(fixed or []) or 24, FEWEST), MOST), dither=options.dither,
        strength=options.strength, chooser=options.chooser,
    )  # fmt: skip
    reduction = reduce_picture(picture.rgba, recipe, kept_colors(palette), fixed=fixed)
    adopted = adopt(palette, reduction, options.input.name, recipe.order) if fixed is None else paint_with(palette, reduction)
    place = {swatch.id: index for index, swatch in enumerate(adopted.palette.swatches)}
    order = np.array([place[swatch_id] for swatch_id in adopted.table] or [0], dtype=np.uint8)
    clock = time.perf_counter()
    document = Document(adopted.palette, order[reduction.indices])
    writer = FORMATS["indexed-png"].write
    assert writer is not None
    data = writer(document)
    write_bytes(options.out, data)
    if target is not None and target.write is not None:
        write_bytes(options.save_palette, target.write(Document(adopted.palette)))
    seconds |= {**reduction.seconds, "write": time.perf_counter() - clock}
    counts: dict[str, int] = {}
    for index, swatch_id in enumerate(adopted.table):
        counts[swatch_id] = counts.get(swatch_id, 0) + int(reduction.figures.counts[index])
    figures = reduction.figures
    if options.json:
        print(json.dumps({
            "recipe": recipe.model_dump(),
            "distinct": figures.distinct,
            "used": figures.used,
            "mean": round(figures.mean, 4), "p95": round(figures.p95, 4), "max": round(figures.max, 4),
            "bytes": len(data),
            "colors": _listed(adopted.palette, counts, picture.width * picture.height),
            "notes": [*picture.notes, *reduction.notes],
            "seconds": {step: round(value, 4) for step, value in seconds.items()},
        }, ensure_ascii=False))  # fmt: skip
        return 0
    kept = len(kept_colors(palette))
    print(f"Painted with the {len(fixed)} colors of {options.palette.name}." if fixed else say(recipe, kept))
    print(f"{figures.distinct:,} colors in the picture · {figures.used} used · mean ΔE {figures.mean:.2f} · "
          f"95 % under {figures.p95:.2f} · file {len(data) / 1024:,.0f} KB")  # fmt: skip
    for note in (*picture.notes, *reduction.notes):
        print(note)
    return 0


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


def _percent(text: str) -> int:
    value = int(text)
    if not 0 <= value <= 100:
        raise argparse.ArgumentTypeError(f"{value} is not between 0 and 100")
    return value


def _count(text: str) -> int:
    value = int(text)
    if not FEWEST <= value <= MOST:
        raise argparse.ArgumentTypeError(f"{value} is not between {FEWEST} and {MOST}")
    return value


def build_parser() -> argparse.ArgumentParser:
    """The whole command line; its choices come from the registries."""
    parser = argparse.ArgumentParser(prog="huvren", description="Palettes, reductions and ramps from the command line.")
    parser.add_argument("--version", action="version", version=f"huvren {__version__}")
    commands = parser.add_subparsers(dest="command", required=True, metavar="COMMAND")

    reduce = commands.add_parser(
        "reduce", help="reduce a picture to few colors",
        description="Reduce to N colors chosen by CHOOSER, keeping the colors given, dithered as told.",
    )  # fmt: skip
    reduce.add_argument("input", type=Path, metavar="IN", help=f"a picture: {', '.join(READABLE.values())}")
    reduce.add_argument("--colors", type=_count, metavar="N", help="1 to 256; 24 where it is left out")
    reduce.add_argument("--chooser", choices=CHOOSERS.ids(), default="perceptual")
    reduce.add_argument("--dither", choices=DITHERS.ids(), default="none")
    reduce.add_argument("--strength", type=_percent, default=100, metavar="0..100")
    reduce.add_argument("--keep", nargs="+", action="extend", default=[], metavar="HEX", help="colors that must stay")
    reduce.add_argument("--palette", type=Path, metavar="FILE", help="paint with exactly the colors of this file")
    reduce.add_argument("--out", type=Path, required=True, metavar="OUT.png")
    reduce.add_argument("--save-palette", type=Path, metavar="FILE")
    reduce.add_argument("--json", action="store_true", help="print figures as one JSON object")
    reduce.set_defaults(run=_reduce)

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
        return int(options.run(options))
    except HuvrenError as error:
        print(f"huvren: {error}", file=sys.stderr)
        return 1
