"""`huvren sort`: the order of a palette file."""

import argparse
from pathlib import Path

from huvren.cli.changing import change
from huvren.core.palette.sorting import SORT_KEYS, said_sort, sorted_palette

DESCRIPTION = "Sort all swatches, each group by itself, by KEYS."


def arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("file", type=Path, metavar="FILE")
    how = parser.add_mutually_exclusive_group(required=True)
    how.add_argument("--smooth", action="store_true", help="along a short path through OKLab, so that neighbors differ little")
    how.add_argument("--by", metavar="KEYS", help=f"some of {','.join(SORT_KEYS.ids())}; all but the last are coarse")
    parser.add_argument("--descending", action="store_true")
    parser.add_argument("--out", type=Path, required=True, metavar="FILE")
    parser.add_argument("--json", action="store_true")


def run(options: argparse.Namespace) -> int:
    if options.smooth:
        from huvren.core.palette.operations.sort import SmoothOrder

        smooth = SmoothOrder()
        return change(options, lambda palette: (smooth.label(palette), smooth.apply(palette).palette))
    keys = [key.strip() for key in options.by.split(",")]
    for key in keys:
        SORT_KEYS[key]
    label = said_sort("all swatches", keys, options.descending)
    return change(options, lambda palette: (label, sorted_palette(palette, keys, options.descending)))
