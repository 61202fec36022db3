"""A ramp as a CSS gradient (CSS Images 4 §3.1), with stops baked in plain sRGB for readers that know no other space."""

import numpy as np

from huvren.core.color.difference import delta_eok
from huvren.core.color.notation import NOTATIONS, format_css
from huvren.core.color.spaces import SPACES, ColorSpace, convert
from huvren.core.color.value import Color
from huvren.core.errors import BadInput
from huvren.core.ramp.values import Ramp, Stop, components_in
from huvren.core.ramp.ways import Lane

CLOSE_ENOUGH = 1.0
MOST_FALLBACK_STOPS = 65
PROBES = 513
TRACE_SHARE = 0.00125
"""Share of its usual range that a strength needs to carry a hue through a reader that passes stops on as sRGB; less than one
8-bit step (0.0005 of OKLCh's 0.4)."""


MISSING_AS = {space.id: notation for space in SPACES if (notation := {"srgb": "rgb"}.get(space.id, space.id)) in NOTATIONS}
"""By space, the notation that can say `none` of its components."""


def _percent(share: float) -> str:
    return f"{round(share * 100, 2):g}%"


def fallback_stops(ramp: Ramp) -> tuple[Ramp, float]:
    """The fewest evenly spread sRGB stops (with the ramp's own) that stay within ΔE 1 of it, and the largest ΔEOK×100."""
    probes = np.linspace(0, 1, PROBES)
    wanted, wanted_alpha, _ = ramp.shown(probes)
    baked = ramp
    worst = np.inf
    count = 2
    while worst > CLOSE_ENOUGH and count <= MOST_FALLBACK_STOPS:
        places = np.unique(np.round(np.concatenate([np.linspace(0, 1, count), ramp.positions]), 6))
        srgb, alpha, _ = ramp.shown(places)
        rows = zip(srgb.tolist(), alpha.tolist(), places.tolist(), strict=True)
        baked = Ramp(tuple(Stop(Color("srgb", tuple(row), share), place) for row, share, place in rows), Lane.of("srgb"))
        got, got_alpha, _ = baked.shown(probes)
        gaps = delta_eok(convert(got, "srgb", "oklab"), convert(wanted, "srgb", "oklab"))
        worst = float((gaps * np.minimum(got_alpha, wanted_alpha)).max())
        count = count * 2 - 1 if count > 2 else 3
    return baked, worst


def _written(ramp: Ramp) -> str:
    rows = zip(ramp.stops, ramp.positions, strict=True)
    return ", ".join(f"{format_css(stop.color, 'hex')} {_percent(at)}" for stop, at in rows)


def _hue_of(color: Color, space: ColorSpace) -> float | None:
    """The hue of a color in a space that has one, or None where it has no power there or is missing."""
    assert space.hue is not None
    hue = float(components_in(color, space)[space.hue])
    return None if np.isnan(hue) else hue


def _with_a_trace(color: Color, space: ColorSpace, hue: float) -> str:
    """A gray in the space's own function, with a hue and hardly any strength."""
    assert space.hue is not None
    coords = list(color.to(space.id))
    coords[space.hue] = hue
    if space.strength is not None:
        coords[space.strength] = TRACE_SHARE * space.channels[space.strength].high
    alpha = "" if color.alpha == 1 else f" / {color.alpha:.3g}"
    return f"{space.function}({' '.join(f'{value:.5g}' for value in coords)}{alpha})"


def _stop(ramp: Ramp, place: int) -> list[str]:
    """A stop as text, once or twice.

    A gray's hue has no power and should be its neighbor's; not every reader of CSS finds that out, so where the space has a
    CSS function of its own it is written down with a trace of strength, and where the two neighbors differ, once for each
    side. What was given as missing is written as `none`.
    """
    color, space = ramp.stops[place].color, ramp.space
    if color.missing:
        return [format_css(color, MISSING_AS[color.space])] if color.space in MISSING_AS else [_plain(color)]
    if space.hue is not None and space.function and _hue_of(color, space) is None:
        beside = [_hue_of(ramp.stops[side].color, space) for side in (place - 1, place + 1) if 0 <= side < len(ramp.stops)]
        hues = list(dict.fromkeys(hue for hue in beside if hue is not None))
        if hues:
            return [_with_a_trace(color, space, hue) for hue in hues]
    return [_plain(color)]


def _plain(color: Color) -> str:
    return format_css(color, "hex" if color.space == "srgb" or color.in_srgb else "oklch")


def write_css(ramp: Ramp) -> str:
    """Two declarations: the sRGB stand-in first, then the gradient in its own space, which newer readers take instead.

    Raises `BadInput` for a space that CSS gradients do not know.
    """
    space = ramp.space
    if space.gradient is None:
        raise BadInput(f"CSS has no gradient in {space.label}. Take another space, or bake the ramp.")
    if space.id == "srgb" and not any(stop.color.missing for stop in ramp.stops):
        return f"background: linear-gradient(90deg, {_written(ramp)});\n"
    route = f" {ramp.lane.route.id} hue" if space.hue is not None else ""
    stops = ", ".join(f"{text} {_percent(at)}" for place, at in enumerate(ramp.positions) for text in _stop(ramp, place))
    baked, worst = fallback_stops(ramp)
    return (
        f"/* {len(baked.stops)} sRGB stops stand in where “in {space.gradient}” is not known; largest difference ΔE {worst:.1f}. */\n"
        f"background: linear-gradient(90deg, {_written(baked)});\n"
        f"background: linear-gradient(90deg in {space.gradient}{route}, {stops});\n"
    )
