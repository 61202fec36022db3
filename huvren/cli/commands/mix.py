"""`huvren mix`: colors mixed by parts."""

import argparse
import json

from huvren.cli.arguments import number_between
from huvren.core.color.mixing import MODELS, ladder, mix
from huvren.core.color.notation import parse_color
from huvren.core.errors import BadInput
from huvren.core.palette.naming import suggest_name

DESCRIPTION = "Mix COLORS by PARTS as paint or as light."


def arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("colors", nargs="+", metavar="COLOR")
    parser.add_argument("--parts", metavar="P:P", help="such as 3:1; equal parts where left out")
    parser.add_argument("--model", choices=MODELS.ids(), default="pigment")
    parser.add_argument("--steps", type=number_between(1, 64, int), metavar="N", help="the ladder between two colors instead")
    parser.add_argument("--json", action="store_true")


def run(options: argparse.Namespace) -> int:
    colors = [parse_color(text) for text in options.colors]
    if len(colors) < 2:
        raise BadInput("Mixing needs two colors or more. Name another one.")
    try:
        parts = [float(part) for part in options.parts.split(":")] if options.parts else [1.0] * len(colors)
    except ValueError:
        raise BadInput(f"“{options.parts[:40]}” are no parts. Write numbers with colons between, such as 3:1.") from None
    mixed = mix(colors, parts, options.model)
    steps = ladder(colors[0], colors[1], options.steps, options.model) if options.steps else []
    if options.steps and len(colors) != 2:
        raise BadInput(f"A ladder goes between two colors; {len(colors)} were given.")
    if options.json:
        said = {"hex": mixed.hex, "name": suggest_name(mixed), "ladder": [color.hex for color in steps]}
        print(json.dumps(said, ensure_ascii=False))
        return 0
    for color in steps or [mixed]:
        print(f"{color.hex}  {suggest_name(color)}")
    return 0
