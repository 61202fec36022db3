"""A ramp as a CSS gradient (CSS Images 4 §3.1), with stops baked in plain sRGB for readers that know no other space."""

from collections.abc import Sequence

import numpy as np

from huvren.core.color.arrays import Floats
from huvren.core.color.difference import delta_eok
from huvren.core.color.gamut import displayed
from huvren.core.color.notation import format_css
from huvren.core.color.spaces import convert
from huvren.core.color.value import Color
from huvren.core.ramp.interpolate import Stop, sample, settle_positions, without_powerless
from huvren.core.ramp.recipe import RampRecipe
from huvren.core.ramp.ways import WAYS, Way

CLOSE_ENOUGH = 1.0
MOST_FALLBACK_STOPS = 65
PROBES = 513
TRACE = 0.0005
"""Chroma that carries a hue through a reader that passes stops on as sRGB; less than one 8-bit step."""


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


def _hue_of(color: Color, way: Way) -> float | None:
    """The hue of a color in a polar space, or None where it has no power."""
    hue = float(without_powerless(way.id, np.array([color.to(way.id)]))[0, -1])
    return None if np.isnan(hue) else hue


def _stop(stops: Sequence[Stop], place: int, way: Way) -> list[str]:
    """A stop as text, once or twice.

    A gray's hue has no power and should be its neighbor's; not every reader of CSS finds that out, so it is written
    down with a trace of chroma, and where the two neighbors differ, once for each side.
    """
    color = stops[place].color
    if way.is_polar and _hue_of(color, way) is None:
        beside = [_hue_of(stops[side].color, way) for side in (place - 1, place + 1) if 0 <= side < len(stops)]
        hues = list(dict.fromkeys(hue for hue in beside if hue is not None))
        alpha = "" if color.alpha == 1 else f" / {color.alpha:.3g}"
        if hues:
            return [f"{way.css}({color.to(way.id)[0]:.5g} {TRACE} {hue:.5g}{alpha})" for hue in hues]
    return [format_css(color, "hex" if color.space == "srgb" or color.in_srgb else "oklch")]


def _exact(stops: Sequence[Stop], way: Way) -> str:
    positions = settle_positions([stop.position for stop in stops])
    return ", ".join(f"{text} {_percent(at)}" for place, at in enumerate(positions) for text in _stop(stops, place, way))


def write_css(recipe: RampRecipe, stops: Sequence[Stop]) -> str:
    """Two declarations: the sRGB stand-in first, then the gradient in its own space, which newer readers take instead."""
    way = WAYS[recipe.space]
    route = f" {recipe.hue} hue" if way.is_polar else ""
    gradient = f"background: linear-gradient(90deg in {way.css}{route}, {_exact(stops, way)});"
    if recipe.space == "srgb":
        return f"background: linear-gradient(90deg, {_written(stops)});\n"
    baked, worst = fallback_stops(stops, recipe.space, recipe.hue)
    return (
        f"/* {len(baked)} sRGB stops stand in where “in {way.css}” is not known; largest difference ΔE {worst:.1f}. */\n"
        f"background: linear-gradient(90deg, {_written(baked)});\n{gradient}\n"
    )
