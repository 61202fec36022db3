"""`huvren ramp`: colors between colors."""

import argparse
import json

from huvren.cli.arguments import number_between
from huvren.core.color.notation import parse_color
from huvren.core.errors import BadInput
from huvren.core.ramp.css import write_css
from huvren.core.ramp.profile import profile
from huvren.core.ramp.values import FEWEST_STEPS, MOST_STEPS, MOST_STOPS, Ramp, Stop, said_ramp
from huvren.core.ramp.ways import HUE_ROUTES, WAYS, Lane

DESCRIPTION = "Ramp from the first COLOR through the others to the last in N steps, in SPACE."


def arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("colors", nargs="+", metavar="COLOR", help="any notation, for example '#262b5c' or 'oklch(0.8 0.1 85)'")
    parser.add_argument("--steps", type=number_between(FEWEST_STEPS, MOST_STEPS, int), default=9, metavar="N", help="2 to 64, else 9")
    parser.add_argument("--space", choices=WAYS.ids(), default="oklab")
    parser.add_argument("--hue", choices=HUE_ROUTES.ids(), default="shorter", help="the way round the hue circle, for oklch")
    form = parser.add_mutually_exclusive_group()
    form.add_argument("--json", action="store_true", help="print colors and figures as one JSON object")
    form.add_argument("--css", action="store_true", help="print a CSS gradient with an sRGB stand-in")


def run(options: argparse.Namespace) -> int:
    if len(options.colors) > MOST_STOPS:
        raise BadInput(f"A ramp takes at most {MOST_STOPS} colors; {len(options.colors)} were given.")
    ramp = Ramp(tuple(Stop(parse_color(text)) for text in options.colors), Lane.of(options.space, options.hue))
    colors = ramp.baked(options.steps)
    if options.css:
        print(write_css(ramp), end="")
        return 0
    drawn = profile(ramp)
    if options.json:
        print(json.dumps({
            "sentence": said_ramp(options.colors, options.steps, ramp.lane),
            "recipe": {"stops": options.colors, "steps": options.steps, "space": options.space, "hue": options.hue},
            "colors": [
                {"hex": c.hex, "space": c.space, "coords": [round(v, 6) for v in c.coords], "alpha": c.alpha, "in_srgb": c.in_srgb}
                for c in colors
            ],
            "dip": round(drawn.dip, 4), "rise": round(drawn.rise, 4), "outside": round(drawn.outside, 4),
        }, ensure_ascii=False))  # fmt: skip
        return 0
    for color in colors:
        print(color.hex)
    return 0
