"""`huvren ramp`: colors between colors."""

import argparse
import json

from huvren.cli.arguments import number_between
from huvren.core.color.notation import parse_color
from huvren.core.errors import BadInput
from huvren.core.ramp.css import write_css
from huvren.core.ramp.profile import profile
from huvren.core.ramp.recipe import FEWEST_STEPS, MOST_STEPS, RampRecipe, RampStop, ramp_of, say
from huvren.core.ramp.ways import HUE_ROUTES, WAYS

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
    recipe = RampRecipe(
        stops=[RampStop(text=text[:200]) for text in options.colors[:64]], steps=options.steps, space=options.space, hue=options.hue
    )
    if len(options.colors) > 64:
        raise BadInput(f"A ramp takes at most 64 colors; {len(options.colors)} were given.")
    ramp = ramp_of(recipe, parse_color)
    colors = ramp.baked(recipe.steps)
    if options.css:
        print(write_css(ramp), end="")
        return 0
    drawn = profile(ramp)
    if options.json:
        print(json.dumps({
            "sentence": say(recipe, options.colors),
            "recipe": recipe.model_dump(),
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
