"""Cards: what the shelf shows of a palette, written with its head and read without any document."""

from collections.abc import Iterable, Sequence
from functools import lru_cache
from typing import TypeVar

import numpy as np

from huvren.core.color.difference import DELTA_SCALE
from huvren.core.color.eight_bits import to_eight_bits
from huvren.core.color.notation import parse_color
from huvren.core.color.value import Color, srgb_of
from huvren.core.palette import values
from huvren.core.palette.values import KeptRamp
from huvren.core.ramp.profile import rgba_bytes, stepped
from huvren.core.ramp.values import Ramp
from huvren.core.reduction.histogram import oklab_of_rgb
from huvren.core.stored.link import Link
from huvren.studio.models import Palette

Key = TypeVar("Key")
RAMP_STRIP = 64
"""Colors that stand for a ramp on its card."""
STRIP_SWATCHES = 64
FIELDS = ("name", "tags", "count", "strip", "colors", "words", "painted", "ramps")


@lru_cache(maxsize=4096)
def strip_of_ramp(ramp: Ramp, steps: int | None) -> bytes:
    """64 colors, four bytes each, as a card shows the ramp: its steps, or samples where it has none or more."""
    if steps is not None and steps <= RAMP_STRIP:
        rgba = stepped(ramp, steps)[np.arange(RAMP_STRIP) * steps // RAMP_STRIP]
    else:
        rgba = rgba_bytes(*ramp.shown((np.arange(RAMP_STRIP) + 0.5) / RAMP_STRIP)[:2])
    return rgba.tobytes()


def card_strip(kept: KeptRamp, palette: values.Palette) -> bytes:
    """The strip of a kept ramp, with the colors that its swatches have."""
    return strip_of_ramp(kept.plan.ramp(palette.color_of), kept.plan.steps)


def hexes_of(colors: Sequence[Color]) -> list[str]:
    """`#rrggbb` of many colors at once, alpha left out."""
    if not colors:
        return []
    codes = rgb_bytes(colors).hex()
    return [f"#{codes[place : place + 6]}" for place in range(0, len(codes), 6)]


def rgb_bytes(colors: Sequence[Color]) -> bytes:
    """Three 8-bit sRGB channels for each color, one after the other."""
    return to_eight_bits(srgb_of(colors)[0]).tobytes() if colors else b""


def strip_of(colors: Sequence[Color]) -> str:
    """rrggbbaa in hex of the first `STRIP_SWATCHES` colors, one after the other; empty for none."""
    shown = colors[:STRIP_SWATCHES]
    rgb = np.frombuffer(rgb_bytes(shown), dtype=np.uint8).reshape(-1, 3)
    alphas = np.array([color.bytes[3] for color in shown], dtype=np.uint8)
    return np.column_stack([rgb, alphas]).tobytes().hex() if shown else ""


def write_card(row: Palette, palette: values.Palette, links: Iterable[Link]) -> None:
    """Fill in the card of a row that is about to be saved with a new head."""
    row.name, row.tags, row.count = palette.name, list(palette.tags), len(palette.swatches)
    row.strip = strip_of([swatch.color for swatch in palette.swatches[:STRIP_SWATCHES]])
    row.colors = rgb_bytes([swatch.color for swatch in palette.swatches if swatch.color.alpha > 0])
    row.words = "\n".join(swatch.name for swatch in palette.swatches)
    row.painted = [link.picture for link in links]
    row.ramps = [
        {"id": kept.id, "name": kept.name, "tags": list(kept.tags), "strip": card_strip(kept, palette).hex()}
        for kept in palette.ramps
    ]


def opaque(strip: str) -> bytes:
    """The colors of a strip in rrggbbaa that are not wholly clear, three bytes each."""
    rgba = np.frombuffer(bytes.fromhex(strip), dtype=np.uint8).reshape(-1, 4)
    return rgba[rgba[:, 3] > 0, :3].tobytes()


def nearness(rows: Iterable[tuple[Key, bytes | memoryview]], wanted: str) -> dict[Key, float]:
    """ΔEOK×100 from a color to the nearest swatch of each palette, or step of each ramp; those without an opaque one are left out.

    rows : id and `Palette.colors`, three 8-bit sRGB channels a swatch; wanted : any notation. Raises `BadColor`.
    """
    known = [(palette_id, bytes(colors)) for palette_id, colors in rows if colors]
    if not known:
        return {}
    rgb = np.frombuffer(b"".join(colors for _, colors in known), dtype=np.uint8).reshape(-1, 3)
    away = oklab_of_rgb(rgb) - np.array(parse_color(wanted).oklab)
    squares = np.einsum("ij,ij->i", away, away)
    starts = np.cumsum([0, *(len(colors) // 3 for _, colors in known[:-1])])
    nearest = np.sqrt(np.minimum.reduceat(squares, starts)) * DELTA_SCALE
    return {palette_id: round(float(gap), 3) for (palette_id, _), gap in zip(known, nearest, strict=True)}
