"""What the commands about ramps share: the arguments that describe one, reading one from a file, and saying it."""

import argparse
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from huvren.core.color.measures import MEASURES
from huvren.core.color.notation import parse_color
from huvren.core.errors import BadInput
from huvren.core.ramp.curves import CURVES
from huvren.core.ramp.easings import EASINGS, LINEAR, Easing
from huvren.core.ramp.gamuts import GAMUTS
from huvren.core.ramp.plan import PURPOSES, PlanStop, RampPlan, plain_only
from huvren.core.ramp.stops import FEWEST_STEPS, MOST_STEPS, MOST_STOPS
from huvren.core.ramp.ways import HUE_ROUTES, WAYS


def add_ramp_arguments(parser: argparse.ArgumentParser) -> None:
    """How a ramp runs through its stops."""
    parser.add_argument("--at", metavar="P,P,…", help="where the stops stand, in percent, for example 0,30,100")
    parser.add_argument("--space", choices=WAYS.ids(), default="oklab")
    parser.add_argument("--hue", choices=HUE_ROUTES.ids(), default="shorter", help="the way round the hue circle")
    parser.add_argument("--steps", type=int, metavar="N", help=f"{FEWEST_STEPS} to {MOST_STEPS}")
    spacing = parser.add_mutually_exclusive_group()
    spacing.add_argument("--even", action="store_true", help="the same difference from step to step")
    spacing.add_argument("--even-lightness", action="store_true", help="the same rise in lightness from step to step")
    parser.add_argument(
        "--by",
        choices=MEASURES.ids(),
        default="oklab",
        help="the measure by which even steps are so, and those of --make",
    )
    parser.add_argument("--curve", choices=CURVES.ids(), default="straight")
    parser.add_argument(
        "--ease", metavar="EASING", help=f"{', '.join(EASINGS.ids())}; with numbers as in bezier:0.4,0,0.6,1 or steps:4"
    )
    parser.add_argument("--gamut", choices=GAMUTS.ids(), default="reduce", help="what becomes of colors outside sRGB")
    parser.add_argument("--closed", action="store_true", help="it goes round: the steps do not repeat the first color")


def _numbers(text: str, what: str) -> list[float]:
    try:
        return [float(word) for word in text.split(",")]
    except ValueError:
        raise BadInput(f"{what} are numbers with commas between them, not “{text[:60]}”.") from None


def _easing(text: str | None) -> Easing:
    if text is None:
        return LINEAR
    kind, _, numbers = text.partition(":")
    EASINGS[kind]
    return Easing(kind, tuple(_numbers(numbers, "The numbers of an easing")) if numbers else ())


def plan_from(options: argparse.Namespace, colors: Sequence[str]) -> RampPlan:
    """The plan of the command line. Raises `BadInput` and `BadColor`."""
    if len(colors) > MOST_STOPS:
        raise BadInput(f"A ramp takes at most {MOST_STOPS} colors; {len(colors)} were given.")
    places: list[float | None] = [None] * len(colors)
    if options.at is not None:
        given = _numbers(options.at, "The places of --at")
        if len(given) != len(colors):
            raise BadInput(f"--at has {len(given)} places for {len(colors)} colors. Give one for each.")
        if not all(0 <= place <= 100 for place in given):
            raise BadInput("The places of --at are 0 to 100 percent.")
        places = [place / 100 for place in given]
    easing = _easing(options.ease)
    spacing = "even" if options.even else "lightness" if options.even_lightness else "position"
    stops = tuple(PlanStop(parse_color(text), position=at, easing=easing) for text, at in zip(colors, places, strict=True))
    return RampPlan(
        stops, options.steps, options.space, options.hue, options.curve, spacing, options.gamut, options.closed,
        measure=options.by,
    )  # fmt: skip


def named_plans(words: Sequence[str]) -> list[tuple[str, RampPlan]]:
    """The ramps of a file, or the one that colors make. Raises `BadInput` for a file that holds none."""
    path = Path(words[0])
    if len(words) == 1 and path.exists():
        from huvren.cli.files import read_likeliest

        palette = read_likeliest(path).found.palette
        if not palette.ramps:
            raise BadInput(f"“{path}” holds no ramp. Give colors, or a file of a ramp such as .ggr, .cpt, .svg, .css or .json.")
        return [(kept.name, kept.plan.untied(palette.color_of)) for kept in palette.ramps]
    colors = [parse_color(text) for text in words]
    return [("Ramp", RampPlan(tuple(PlanStop(color) for color in colors), None))]


def add_purpose(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--purpose", choices=PURPOSES.ids(), help="what it shall promise; else what the file says it is for")


def figures_of(plan: RampPlan) -> dict[str, Any]:
    """What is measured of a ramp, for `--json`."""
    from huvren.core.ramp.profile import profile

    drawn = profile(plan.ramp(plain_only), plan.steps)
    return {
        "dip": round(drawn.dip, 4), "rise": round(drawn.rise, 4), "outside": round(drawn.outside, 4),
        "evenness": round(drawn.evenness.exact, 4), "evenness_rounded": round(drawn.evenness.rounded, 4),
        "different_colors": drawn.banding.colors, "widest_band": round(drawn.banding.widest, 5),
    }  # fmt: skip


def listed_colors(plan: RampPlan) -> list[dict[str, Any]]:
    """The baked steps, for `--json`."""
    return [
        {"hex": c.hex, "space": c.space, "coords": [round(v, 6) for v in c.coords], "alpha": c.alpha, "in_srgb": c.in_srgb}
        for c in plan.ramp(plain_only).baked(plan.steps or 9)
    ]
