"""`huvren ramp`: colors between colors, or a ramp made for a purpose."""

import argparse
import json
from dataclasses import replace
from pathlib import Path

from huvren.cli.ramps import add_ramp_arguments, figures_of, listed_colors, plan_from
from huvren.core.color.notation import parse_color
from huvren.core.errors import BadInput
from huvren.core.ramp.plan import RampPlan, plain_only

DESCRIPTION = "Ramp from the first COLOR through the others to the last in N steps, in SPACE; or made for a purpose."
STEPS = 9


def arguments(parser: argparse.ArgumentParser) -> None:
    from huvren.core.ramp.makers import MAKERS

    parser.add_argument("colors", nargs="+", metavar="COLOR", help="any notation, for example '#262b5c' or 'oklch(0.8 0.1 85)'")
    add_ramp_arguments(parser)
    parser.add_argument(
        "--make", choices=MAKERS.ids(), help="a ramp for a purpose, from the colors; it sets space, curve and spacing"
    )
    parser.add_argument("--set", action="append", default=[], metavar="NAME=NUMBER", help="a number of --make, such as turn=40")
    form = parser.add_mutually_exclusive_group()
    form.add_argument("--json", action="store_true", help="print colors and figures as one JSON object")
    form.add_argument("--css", action="store_true", help="print a CSS gradient with an sRGB stand-in")
    form.add_argument("--svg", action="store_true", help="print an SVG gradient")
    form.add_argument("--out", type=Path, metavar="FILE", help="write it as .ggr, .cpt, .css, .svg, .png, .csv, .py, .json …")


def _made(options: argparse.Namespace) -> list[RampPlan]:
    from huvren.core.ramp.makers import MAKERS, make

    numbers = {}
    for pair in options.set:
        name, _, value = pair.partition("=")
        try:
            numbers[name] = float(value)
        except ValueError:
            raise BadInput(f"--set takes NAME=NUMBER, not “{pair[:60]}”.") from None
    maker = MAKERS[options.make]
    continues = options.steps is None and (options.css or options.svg or options.out)
    steps = None if continues else options.steps or maker.steps
    return make(maker.id, [parse_color(text) for text in options.colors], numbers, steps, options.by)


def _written(plan: RampPlan, options: argparse.Namespace) -> int:
    from huvren.cli.files import write_bytes
    from huvren.core.formats import FORMATS, Document
    from huvren.core.formats.report import ramp_report
    from huvren.core.palette.values import Palette

    ending = options.out.suffix.lower()
    name = options.out.stem or "Ramp"
    target = next((entry for entry in FORMATS if entry.ramp and entry.write and ending in entry.endings), None)
    if target is None:
        endings = ", ".join(dict.fromkeys(entry.endings[0] for entry in FORMATS if entry.ramp and entry.write))
        raise BadInput(f"No ramp can be written as “{ending}”. These endings work: {endings}.")
    write_bytes(options.out, target.written(Document(Palette(name), ramps=((name, plan),))))
    for loss in ramp_report(target, name, plan, plain_only, {}):
        print(f"{target.label}: {loss.text}")
    return 0


def run(options: argparse.Namespace) -> int:
    plans = _made(options) if options.make else [plan_from(options, options.colors)]
    if options.css or options.svg or options.out:
        if len(plans) > 1:
            raise BadInput(f"That makes {len(plans)} ramps; a file holds one. Give one color at a time.")
        plan = plans[0]
        if options.out:
            return _written(plan, options)
        if options.css:
            from huvren.core.ramp.css import write_css

            print(write_css(plan.ramp(plain_only)), end="")
            return 0
        from huvren.core.formats import FORMATS, Document
        from huvren.core.palette.values import Palette

        print(FORMATS["svg-gradient"].written(Document(Palette("Ramp"), ramps=(("Ramp", plan),))).decode(), end="")
        return 0
    plans = [plan if plan.steps else replace(plan, steps=STEPS) for plan in plans]
    if not options.json:
        for plan in plans:
            for color in plan.ramp(plain_only).baked(plan.steps or STEPS):
                print(color.hex)
        return 0
    said = []
    for plan in plans:
        names = [s.color.hex for s in plan.stops if s.color] if options.make else options.colors
        said.append({
            "sentence": plan.sentence(names), "purpose": plan.purpose,
            "recipe": {
                "stops": names, "steps": plan.steps, "space": plan.space, "hue": plan.hue, "curve": plan.curve,
                "spacing": plan.spacing, "gamut": plan.gamut, "closed": plan.closed, "measure": plan.measure,
            },
            "colors": listed_colors(plan), **figures_of(plan),
        })  # fmt: skip
    print(json.dumps(said[0] if len(said) == 1 else {"ramps": said}, ensure_ascii=False))
    return 0
