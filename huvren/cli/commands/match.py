"""`huvren match`: each swatch and its nearest in another palette."""

import argparse
import json
from pathlib import Path

from huvren.cli.files import read_likeliest
from huvren.core.palette.matching import match

DESCRIPTION = "For each swatch of FIRST, its nearest in SECOND."


def arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("first", type=Path, metavar="FIRST")
    parser.add_argument("second", type=Path, metavar="SECOND")
    parser.add_argument("--json", action="store_true")


def run(options: argparse.Namespace) -> int:
    first, second = (read_likeliest(path).found.palette for path in (options.first, options.second))
    found = match(first.swatches, second.swatches)
    if options.json:
        rows = [
            {
                "hex": m.swatch.color.hex, "name": m.swatch.name,
                "nearest": None if m.place is None else second.swatches[m.place].color.hex,
                "index": m.place, "delta": None if m.place is None else round(m.delta, 4),
            }
            for m in found
        ]  # fmt: skip
        print(json.dumps({"matches": rows}, ensure_ascii=False))
        return 0
    for m in found:
        partner = None if m.place is None else second.swatches[m.place]
        said = f"{partner.color.hex}  {partner.name:<24} ΔE {m.delta:.2f}" if partner else "nothing of the same alpha"
        print(f"{m.swatch.color.hex}  {m.swatch.name:<24} {said}")
    return 0
