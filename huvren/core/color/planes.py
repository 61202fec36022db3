"""Planes of color for the editor, as pictures that are clear where sRGB ends. One entry a plane."""

from dataclasses import dataclass, replace

import numpy as np

from huvren.core.color.arrays import Bytes, Floats
from huvren.core.color.convert import oklch_to_srgb, to_srgb
from huvren.core.color.eight_bits import to_eight_bits
from huvren.core.color.gamut import in_srgb_gamut
from huvren.core.registry import Registry

WIDEST_CHROMA = 0.34
"""A little over the largest chroma in sRGB (0.3225, a blue)."""


@dataclass(frozen=True)
class Plane:
    """Two coordinates across and up, a third held.

    space : whose coordinates they are; across, up, held : which of its channels, with the ends of the two that are seen.
    """

    id: str
    """By which it is named in documents, addresses and commands."""
    label: str
    """As menus call it."""
    space: str
    across: tuple[int, float, float]
    up: tuple[int, float, float]
    held: int
    is_round: bool = False
    """Whether it is drawn as a disc."""


PLANES: Registry[Plane] = Registry("plane")
for _entry in (
    Plane("chroma-lightness", "chroma × lightness", "oklch", (1, 0.0, WIDEST_CHROMA), (0, 0.0, 1.0), 2),
    Plane("hue-chroma", "hue × chroma", "oklch", (2, 0.0, 360.0), (1, 0.0, WIDEST_CHROMA), 0),
    Plane("hue-lightness", "hue × lightness", "oklch", (2, 0.0, 360.0), (0, 0.0, 1.0), 1),
    Plane("saturation-value", "saturation × value", "hsv", (1, 0.0, 1.0), (2, 0.0, 1.0), 0),
    Plane("hue-disc", "hue round, chroma outward", "oklch", (2, 0.0, 360.0), (1, 0.0, WIDEST_CHROMA), 0, is_round=True),
):
    PLANES.register(_entry)


def _place(plane: Plane, held: float, across: Floats, up: Floats) -> Floats:
    """(..., 3) coordinates of places given by shares 0..1 across and up."""
    coords = np.empty((*across.shape, 3))
    coords[..., plane.held] = held
    if plane.is_round:
        x, y = across * 2 - 1, up * 2 - 1
        coords[..., plane.across[0]] = np.degrees(np.arctan2(y, x)) % 360
        coords[..., plane.up[0]] = np.hypot(x, y) * plane.up[2]
        return coords
    for share, (channel, low, high) in ((across, plane.across), (up, plane.up)):
        coords[..., channel] = low + (high - low) * share
    return coords


def draw_plane(plane_id: str, held: float, width: int, height: int, reach: float | None = None) -> Bytes:
    """(height, width, 4) uint8 of a plane at a held coordinate; pixels outside sRGB are clear.

    Parameters
    ----------
    plane_id : str
        One of `PLANES`.
    held : float
        The coordinate that the plane does not show.
    width : int
        In pixels.
    height : int
        In pixels.
    reach : float | None
        The upper end of what goes up or outward, where it is not the plane's own.

    Returns
    -------
    Bytes
        (height, width, 4) uint8.
    """
    plane = PLANES[plane_id]
    if reach is not None:
        plane = replace(plane, up=(plane.up[0], plane.up[1], reach))
    across, up = np.meshgrid(np.linspace(0, 1, width), np.linspace(1, 0, height))
    srgb = to_srgb(_place(plane, held, across, up), plane.space)
    drawn = np.zeros((height, width, 4), dtype=np.uint8)
    drawn[..., :3] = to_eight_bits(srgb)
    drawn[..., 3] = np.where(in_srgb_gamut(srgb), 255, 0)
    if plane.is_round:
        drawn[np.hypot(across * 2 - 1, up * 2 - 1) > 1, 3] = 0
    return drawn


LEAST_REACH = 0.04


def chroma_reach(lightness: float) -> float:
    """A little over the largest OKLCh chroma that sRGB has at a lightness 0..1, so that a disc of dark hues fills it too."""
    rings = np.linspace(0, WIDEST_CHROMA, 171)[1:, None]
    hues = np.arange(0, 360, 3.0)[None]
    coords = np.stack(np.broadcast_arrays(np.full((1, 1), lightness), rings, hues), axis=-1)
    inside = in_srgb_gamut(oklch_to_srgb(coords)).any(axis=1)
    widest = float(rings[inside][-1, 0]) if inside.any() else 0.0
    return round(min(max(widest * 1.06, LEAST_REACH), WIDEST_CHROMA), 3)


def chroma_limit(lightness: float, hue_degrees: float) -> float:
    """The largest chroma inside sRGB at a lightness and hue, to 1e-4."""
    low, high = 0.0, WIDEST_CHROMA
    while high - low > 1e-4:
        middle = (low + high) / 2
        if in_srgb_gamut(oklch_to_srgb([lightness, middle, hue_degrees])):
            low = middle
        else:
            high = middle
    return low
