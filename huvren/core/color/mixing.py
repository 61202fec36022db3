"""Mixing colors by parts: as paints, or as lights.

Lights add up: linear sRGB, weighed by parts. Paints absorb: each color gets a smooth reflectance spectrum within 0..1
that looks like it under D65, by the least slope of its hyperbolic arctangent (Burns 2020, “Numerical methods for smooth
reflectance reconstruction”, method LHTSS). Its ratio of absorption to scattering follows from Kubelka and Munk 1931, for
infinitely thick layers; both add up by parts, and the mixture's reflectance is seen under D65 again. What a color does not
tell is how strong its paint is: every paint is taken to absorb and scatter as much as any other, summed over the spectrum,
so that a part of white and a part of black give a middle gray. It is a model of paint in general, not of any pigment.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import cache, lru_cache
from pathlib import Path

import numpy as np

from huvren.core.color.arrays import Floats
from huvren.core.color.gamut import map_to_srgb
from huvren.core.color.spaces import convert
from huvren.core.color.transfer import decode_srgb_array, encode_srgb_array
from huvren.core.color.value import Color
from huvren.core.errors import BadInput
from huvren.core.registry import Registry


@dataclass(frozen=True)
class Model:
    """A way colors mix. `mixed` : the colors, their (n, 3) linear sRGB and (n,) weights → (3,) linear sRGB."""

    id: str
    """By which it is named in documents, addresses and commands."""
    label: str
    """As menus call it."""
    use: str
    """What it is for, in one sentence."""
    mixed: Callable[[Sequence[Color], Floats, Floats], Floats]
    """(n colors, their reflectances or light, their parts) → the mixture."""


MODELS: Registry[Model] = Registry("mixing model")
FILE = Path(__file__).with_name("reflectance_to_linear_srgb.npy")
DARKEST = 2e-4
"""Linear light that a reflectance is recovered down to, and up to one less it: ideal black and white have none."""


@cache
def reflectance_to_linear_srgb() -> Floats:
    """(3, 36): see `tools/reflectance.py`, which makes it.

    Returns
    -------
    Floats
        (3, 36).
    """
    return np.asarray(np.load(FILE))


@cache
def _slopes() -> Floats:
    """The matrix whose quadratic form is the sum of squared differences between neighboring bands."""
    count = reflectance_to_linear_srgb().shape[1]
    slopes = 4 * np.eye(count) - 2 * np.eye(count, k=1) - 2 * np.eye(count, k=-1)
    slopes[0, 0] = slopes[-1, -1] = 2
    return slopes


@lru_cache(maxsize=4096)
def _recovered(linear: tuple[float, float, float]) -> Floats:
    """LHTSS by Newton's method: minimize the slopes of z, where (tanh z + 1) / 2 is the reflectance that gives `linear`."""
    sensor, slopes = reflectance_to_linear_srgb(), _slopes()
    count = sensor.shape[1]
    wanted = np.array(linear)
    z, multipliers = np.zeros(count), np.zeros(3)
    for _ in range(120):
        curve = 1 / np.cosh(z) ** 2 / 2
        bend = -np.tanh(z) * 2 * curve
        forces = sensor.T @ multipliers
        gradient = np.concatenate([slopes @ z + curve * forces, sensor @ ((np.tanh(z) + 1) / 2) - wanted])
        if np.abs(gradient).max() < 1e-9:
            break
        system = np.zeros((count + 3, count + 3))
        system[:count, :count] = slopes + np.diag(bend * forces)
        system[:count, count:] = curve[:, None] * sensor.T
        system[count:, :count] = sensor * curve
        step = np.linalg.lstsq(system, -gradient, rcond=None)[0]
        # Half a step at most where the arctangent is steep keeps saturated colors from running away.
        step *= min(1.0, 2.0 / max(float(np.abs(step[:count]).max()), 1e-12))
        z, multipliers = z + step[:count], multipliers + step[count:]
    return np.asarray((np.tanh(z) + 1) / 2)


def reflectance_of(color: Color) -> Floats:
    """(36,) reflectance at 380, 390 … 730 nm, 0..1, that looks like the color's sRGB form under D65.

    Parameters
    ----------
    color : Color
        Any color; its sRGB form counts.

    Returns
    -------
    Floats
        (36,) 0..1.
    """
    linear = np.clip(decode_srgb_array(np.array(color.srgb)), DARKEST, 1 - DARKEST)
    red, green, blue = (round(float(channel), 9) for channel in linear)
    return _recovered((red, green, blue))


def _weights(count: int, parts: Sequence[float]) -> Floats:
    weights = np.array(parts, dtype=np.float64)
    if len(weights) != count:
        raise BadInput(f"{count} colors were given, but parts for {len(weights)}. Give one number for each.")
    if (weights < 0).any() or not np.isfinite(weights).all():
        raise BadInput("Parts are 0 or more.")
    if not weights.any():
        raise BadInput("All parts are 0, so there is nothing to mix. Give at least one color a part.")
    return np.asarray(weights / weights.sum())


def _mixed_light(colors: Sequence[Color], linear: Floats, weights: Floats) -> Floats:
    return np.asarray(weights @ linear)


def paints_of(colors: Sequence[Color]) -> Floats:
    """(n, 40): what adds up by parts when paints mix: absorption in 36 bands, scattering, and the linear light that the recovered
    reflectance could not hold, which comes back in proportion, so that a color alone stays itself.

    Parameters
    ----------
    colors : Sequence[Color]
        n colors in any space.

    Returns
    -------
    Floats
        (n, 40).
    """
    spectra = np.array([reflectance_of(color) for color in colors])
    ratio = (1 - spectra) ** 2 / (2 * spectra)
    scattering = 1 / (1 + ratio.mean(axis=1))
    lost = decode_srgb_array(np.array([color.srgb for color in colors])) - spectra @ reflectance_to_linear_srgb().T
    return np.column_stack([ratio * scattering[:, None], scattering, lost])


def seen_paint(paints: Floats) -> Floats:
    """(n, 40) paints, mixed or not → (n, 3) linear sRGB, unbounded.

    Beyond what can be mixed nothing absorbs less than nothing.

    Parameters
    ----------
    paints : Floats
        (n, 40) as `paints_of` gives them, mixed by their parts.

    Returns
    -------
    Floats
        (n, 3) linear sRGB, unbounded.
    """
    ratio = np.maximum(paints[:, :-4], 0) / np.maximum(paints[:, -4:-3], 1e-6)
    mixture = 1 + ratio - np.sqrt(ratio**2 + 2 * ratio)
    return np.asarray(mixture @ reflectance_to_linear_srgb().T + paints[:, -3:])


def _mixed_paint(colors: Sequence[Color], linear: Floats, weights: Floats) -> Floats:
    return np.asarray(seen_paint((weights @ paints_of(colors))[None])[0])


MODELS.register(Model("pigment", "paint", "As paints on a palette: yellow and blue give a green, mixtures go darker.", _mixed_paint))
MODELS.register(Model("light", "light", "As colored lights on a wall: mixtures go lighter, opposites give a gray.", _mixed_light))


def mix(colors: Sequence[Color], parts: Sequence[float], model: str) -> Color:
    """One color of several by parts; alphas mix by parts as well. What is clear tints by as much as it covers, so that a wholly clear
    color only thins the others (premultiplied, as CSS Color 4 §12.3 mixes). Raises `BadInput` where no part is left."""
    weights = _weights(len(colors), parts)
    held = [place for place, weight in enumerate(weights) if weight > 0]
    if len(held) == 1:
        return colors[held[0]]
    alphas = np.array([color.alpha for color in colors])
    tints = weights * alphas if (weights * alphas).any() else weights
    tinted = [place for place, tint in enumerate(tints) if tint > 0]
    alpha = float(weights @ alphas)
    if len(tinted) == 1:
        return replace(colors[tinted[0]], alpha=alpha)
    linear = decode_srgb_array(np.array([color.srgb for color in colors]))
    mixed = MODELS[model].mixed(colors, linear, tints / tints.sum())
    srgb = encode_srgb_array(mixed)
    if srgb.min() < -1e-6 or srgb.max() > 1 + 1e-6:
        srgb = map_to_srgb(convert(srgb, "srgb", "oklch"))
    red, green, blue = np.clip(srgb, 0, 1)
    return Color("srgb", (float(red), float(green), float(blue)), alpha)


def ladder(first: Color, last: Color, steps: int, model: str) -> list[Color]:
    """`steps` mixtures in even parts between two colors, without the ends."""
    if steps < 1:
        raise BadInput("A ladder has at least one step.")
    shares = [step / (steps + 1) for step in range(1, steps + 1)]
    return [mix([first, last], [1 - share, share], model) for share in shares]
