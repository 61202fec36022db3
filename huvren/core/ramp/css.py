"""A ramp as a CSS gradient (CSS Images 4 §3.1), with stops baked in plain sRGB for readers that know no other space."""

import numpy as np

from huvren.core.color.notation import NOTATIONS, format_css
from huvren.core.color.spaces import SPACES, ColorSpace
from huvren.core.color.value import Color
from huvren.core.ramp.baking import Baked, bake
from huvren.core.ramp.values import REDUCED, STRAIGHT, Ramp
from huvren.core.ramp.ways import components_of

TRACE_SHARE = 0.00125
"""Share of its usual range that a strength needs to carry a hue through a reader that passes stops on as sRGB; less than one
8-bit step (0.0005 of OKLCh's 0.4)."""


MISSING_AS = {space.id: notation for space in SPACES if (notation := {"srgb": "rgb"}.get(space.id, space.id)) in NOTATIONS}
"""By space, the notation that can say `none` of its components."""


def _percent(share: float) -> str:
    return f"{round(share * 100, 3):g}%"


def why_baked(ramp: Ramp) -> str:
    """What CSS cannot say of a ramp, in words; empty where it can say all."""
    reasons = [
        *([] if ramp.lane.way.gradient else [f"no gradient in {ramp.lane.way.label}"]),
        *([] if ramp.curve is STRAIGHT else [f"no {ramp.curve.label} curve"]),
        *([] if ramp.spacing.id == "position" else [f"no spacing {ramp.spacing.label}"]),
        *([] if all(stop.easing.kind == "linear" for stop in ramp.stops[:-1]) else ["no easing"]),
        *([] if ramp.gamut is REDUCED else [f"no {ramp.gamut.label}"]),
    ]
    return ", ".join(reasons)


def _written(baked: Baked) -> str:
    rows = zip(baked.srgb.tolist(), baked.alpha.tolist(), baked.places.tolist(), strict=True)
    return ", ".join(f"{Color('srgb', tuple(row), min(share, 1.0)).hex} {_percent(at)}" for row, share, at in rows)


def _hue_of(color: Color, space: ColorSpace) -> float | None:
    """The hue of a color in a space that has one, or None where it has no power there or is missing."""
    assert space.hue is not None
    hue = float(components_of([color], space)[0, space.hue])
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

    What CSS cannot say (`why_baked`) is baked into the stand-in alone, and the comment says how near it comes.
    """
    way = ramp.lane.way
    unsaid = why_baked(ramp)
    hints = [_percent(at + stop.midpoint * (after - at)) if stop.midpoint != 0.5 else ""
             for stop, at, after in zip(ramp.stops[:-1], ramp.positions[:-1], ramp.positions[1:], strict=True)]  # fmt: skip
    texts = [[f"{text} {_percent(at)}" for text in _stop(ramp, place)] for place, at in enumerate(ramp.positions)]
    parts = [part for row, hint in zip(texts, [*hints, ""], strict=True) for part in (*row, *([hint] if hint else []))]
    if not unsaid and way.id == "srgb" and not any(stop.color.missing for stop in ramp.stops):
        return f"background: linear-gradient(90deg, {', '.join(parts)});\n"
    baked = bake(ramp)
    stand_in = f"background: linear-gradient(90deg, {_written(baked)});\n"
    near = f"largest difference ΔE {baked.worst:.1f}"
    if unsaid:
        return f"/* CSS has {unsaid}: {len(baked.places)} sRGB stops stand in; {near}. */\n{stand_in}"
    route = f" {ramp.lane.route.id} hue" if way.is_polar else ""
    return (
        f"/* {len(baked.places)} sRGB stops stand in where “in {way.gradient}” is not known; {near}. */\n"
        + stand_in
        + f"background: linear-gradient(90deg in {way.gradient}{route}, {', '.join(parts)});\n"
    )
