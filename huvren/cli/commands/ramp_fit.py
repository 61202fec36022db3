"""`huvren ramp-fit`: a ramp read from a line drawn across a picture."""

import argparse
import json
from pathlib import Path

from huvren.cli.arguments import number_between
from huvren.core.errors import BadInput

DESCRIPTION = "Read the ramp along a line across PICTURE, as the fewest stops that keep within a tolerance."


def arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("picture", type=Path, metavar="PICTURE")
    parser.add_argument("--line", metavar="X0,Y0,X1,Y1", help="in pixels; else along the middle of the longer side")
    parser.add_argument(
        "--tolerance", type=number_between(0.01, 100, float), default=1.0, metavar="T", help="ΔE in OKLab × 100, else 1"
    )
    parser.add_argument("--json", action="store_true")


def run(options: argparse.Namespace) -> int:
    from huvren.cli.files import read_picture_file
    from huvren.core.ramp.fit import along, fit

    picture = read_picture_file(options.picture)
    width, height = max(picture.width - 1, 1), max(picture.height - 1, 1)
    if options.line is None:
        line = (0.0, 0.5, 1.0, 0.5) if picture.width >= picture.height else (0.5, 0.0, 0.5, 1.0)
    else:
        try:
            x0, y0, x1, y1 = (float(word) for word in options.line.split(","))
        except ValueError:
            raise BadInput(f"--line takes four numbers with commas between them, not “{options.line[:60]}”.") from None
        if not (0 <= min(x0, x1) <= max(x0, x1) <= width and 0 <= min(y0, y1) <= max(y0, y1) <= height):
            raise BadInput(f"The line leaves the picture, which has {picture.width} × {picture.height} pixels.")
        line = (x0 / width, y0 / height, x1 / width, y1 / height)
    found = fit(along(picture.rgba, line), options.tolerance)
    stops = [{"at": round((s.position or 0.0) * 100, 3), "hex": s.color.hex} for s in found.plan.stops if s.color]
    if options.json:
        print(json.dumps({"stops": stops, "worst": round(found.worst, 4), "fewest": found.fewest}, ensure_ascii=False))
        return 0
    for stop in stops:
        print(f"{stop['hex']} {stop['at']:g}%")
    print(f"{len(stops)} stops, largest difference ΔE {found.worst:.2f}")
    return 0
