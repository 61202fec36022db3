"""`huvren curve`: how many colors a picture needs."""

import argparse
import json
from pathlib import Path

from huvren.cli.files import read_picture_file
from huvren.core.reduction.curve import error_curve
from huvren.core.reduction.histogram import build_histogram

DESCRIPTION = "Error against the number of colors."


def arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("input", type=Path, metavar="IN")
    parser.add_argument("--settled", action="store_true", help="refine each count as a reduction would; slower")
    parser.add_argument("--json", action="store_true")


def run(options: argparse.Namespace) -> int:
    histogram = build_histogram(read_picture_file(options.input).rgba)
    curve = error_curve(histogram, settled=options.settled)
    rows = [
        {"colors": count, "mean": round(mean, 4), "p95": round(p95, 4)}
        for count, mean, p95 in zip(curve.counts, curve.mean, curve.p95, strict=True)
    ]
    if options.json:
        print(json.dumps({"distinct": curve.distinct, "knee": curve.knee, "curve": rows}))
        return 0
    print(f"{curve.distinct:,} colors in the picture; the knee is at {curve.knee}.")
    for row in rows:
        print(f"{row['colors']:>4}  mean ΔE {row['mean']:6.2f}   95 % under {row['p95']:6.2f}")
    return 0
