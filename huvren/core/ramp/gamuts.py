"""What a ramp shows where it leaves sRGB."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from huvren.core.color.arrays import Flags, Floats
from huvren.core.color.gamut import clip_to_srgb, displayed, in_srgb_gamut
from huvren.core.color.spaces import convert
from huvren.core.registry import Registry


@dataclass(frozen=True)
class GamutRule:
    """A way into sRGB. `show` : (n, c) coordinates in a space by id → (n, 3) sRGB 0..1, and (n,) true where nothing had to change."""

    id: str
    """By which it is named in documents, addresses and commands."""
    label: str
    """As menus call it."""
    use: str
    """What it is for, in one sentence."""
    show: Callable[[Floats, str], tuple[Floats, Flags]]
    """(n, channels) and a space → (n, 3) sRGB 0..1 and (n,) bool."""


GAMUTS: Registry[GamutRule] = Registry("gamut rule")


def _clip(coords: Floats, space: str) -> tuple[Floats, Flags]:
    srgb = convert(coords, space, "srgb")
    return clip_to_srgb(np.asarray(srgb)), in_srgb_gamut(np.asarray(srgb))


GAMUTS.register(GamutRule("reduce", "less chroma", "Hue and lightness stay, chroma gives way.", displayed))
GAMUTS.register(GamutRule("clip", "plain clip", "Each channel is cut off at its end; hues shift.", _clip))
