"""`huvren merge`: near twins of a palette file."""

import argparse
from pathlib import Path

from huvren.cli.arguments import number_between
from huvren.cli.changing import change
from huvren.core.palette.clusters import MOST_CLUSTERED
from huvren.core.palette.merging import SURVIVORS
from huvren.core.palette.operations.merge import MergeNearTwins, MergeToCount

DESCRIPTION = "Merge swatches within TOLERANCE ΔE of each other, keeping RULE."


def arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("file", type=Path, metavar="FILE")
    tolerance = number_between(0, 100, float)
    how_far = parser.add_mutually_exclusive_group(required=True)
    how_far.add_argument("--tolerance", type=tolerance, metavar="T", help="ΔE in OKLab × 100; 2 is hard to see, 0 for exact twins")
    how_far.add_argument("--to", type=number_between(1, MOST_CLUSTERED, int), metavar="N", help="until N swatches are left")
    parser.add_argument("--keep", choices=SURVIVORS.ids(), default="first", help="who stays of each cluster")
    parser.add_argument("--out", type=Path, required=True, metavar="FILE")
    parser.add_argument("--json", action="store_true")


def run(options: argparse.Namespace) -> int:
    merge: MergeToCount | MergeNearTwins
    if options.to is not None:
        merge = MergeToCount(count=options.to, keep=options.keep)
    else:
        merge = MergeNearTwins(tolerance=options.tolerance, keep=options.keep)
    return change(options, lambda palette: (merge.label(palette), merge.apply(palette).palette))
