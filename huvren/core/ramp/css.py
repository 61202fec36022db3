"""A ramp as a CSS gradient (CSS Images 4 §3.1), with stops baked in plain sRGB for readers that know no other space."""

from collections.abc import Sequence

import numpy as np

from huvren.core.color.arrays import Floats
from huvren.core.color.difference import delta_eok
from huvren.core.color.gamut import displayed
from huvren.core.color.notation import format_css
from huvren.core.color.spaces import convert
from huvren.core.color.value import Color
from huvren.core.ramp.interpolate import Stop, sample, settle_positions
from huvren.core.ramp.recipe import RampRecipe
from huvren.core.ramp.ways import WAYS

CLOSE_ENOUGH = 1.0
MOST_FALLBACK_STOPS = 65
PROBES = 513


def _percent(share: float) -> str:
    return f"{round(share * 100, 2):g}%"


def _shown(stops: Sequence[Stop], space: str, route: str, places: Floats) -> tuple[Floats, Floats]:
    coords, alpha = sample(stops, space, route, places)
    return displayed(coords, space)[0], alpha


def fallback_stops(stops: Sequence[Stop], space: str, route: str) -> tuple[list[Stop], float]:
    """The fewest evenly spread sRGB stops (with the ramp's own) that stay within ΔE 1 of it, and the largest ΔEOK×100."""
    probes = np.linspace(0, 1, PROBES)
    wanted, wanted_alpha = _shown(stops, space, route, probes)
    own = settle_positions([stop.position for stop in stops])
    baked: list[Stop] = []
    worst = np.inf
    count = 2
    while worst > CLOSE_ENOUGH and count <= MOST_FALLBACK_STOPS:
        places = np.unique(np.round(np.concatenate([np.linspace(0, 1, count), own]), 6))
        srgb, alpha = _shown(stops, space, route, places)
        rows = zip(srgb.tolist(), alpha.tolist(), places.tolist(), strict=True)
        baked = [Stop(Color("srgb", tuple(row), share), place) for row, share, place in rows]
        got, got_alpha = sample(baked, "srgb", "shorter", probes)
        gaps = delta_eok(convert(got, "srgb", "oklab"), convert(wanted, "srgb", "oklab"))
        worst = float((gaps * np.minimum(got_alpha, wanted_alpha)).max())
        count = count * 2 - 1 if count > 2 else 3
    return baked, worst


def _written(stops: Sequence[Stop]) -> str:
    positions = settle_positions([stop.position for stop in stops])
    return ", ".join(f"{format_css(stop.color, 'hex')} {_percent(at)}" for stop, at in zip(stops, positions, strict=True))


def _exact(stops: Sequence[Stop]) -> str:
    positions = settle_positions([stop.position for stop in stops])
    return ", ".join(
        f"{format_css(stop.color, 'hex' if stop.color.space == 'srgb' or stop.color.in_srgb else 'oklch')} {_percent(at)}"
        for stop, at in zip(stops, positions, strict=True)
    )


def write_css(recipe: RampRecipe, stops: Sequence[Stop]) -> str:
    """Two declarations: the sRGB stand-in first, then the gradient in its own space, which newer readers take instead."""
    way = WAYS[recipe.space]
    route = f" {recipe.hue} hue" if way.is_polar else ""
    gradient = f"background: linear-gradient(90deg in {way.css}{route}, {_exact(stops)});"
    if recipe.space == "srgb":
        return f"background: linear-gradient(90deg, {_written(stops)});\n"
    baked, worst = fallback_stops(stops, recipe.space, recipe.hue)
    return (
        f"/* {len(baked)} sRGB stops stand in where “in {way.css}” is not known; largest difference ΔE {worst:.1f}. */\n"
        f"background: linear-gradient(90deg, {_written(baked)});\n{gradient}\n"
    )
