"""Cards: what the shelf shows of a palette, written with its head and read without any document."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from functools import lru_cache
from operator import itemgetter
from typing import Any, TypeVar

import numpy as np

from huvren.core.color.arrays import Floats
from huvren.core.color.eight_bits import to_eight_bits
from huvren.core.color.notation import parse_color
from huvren.core.color.value import Color, srgb_of
from huvren.core.names import folded
from huvren.core.palette import values
from huvren.core.palette.values import KeptRamp
from huvren.core.ramp.profile import rgba_bytes, stepped
from huvren.core.ramp.values import Ramp
from huvren.core.reduction.nearest_of_many import nearest
from huvren.core.stored.link import Link
from huvren.studio.models import Palette, RampCard

Key = TypeVar("Key")
RAMP_STRIP = 64
"""Colors that stand for a ramp on its card."""
STRIP_SWATCHES = 64
FIELDS = ("name", "tags", "count", "strip", "colors", "searched", "tag_words", "sort_key", "painted")


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


def write_card(
    row: Palette, palette: values.Palette, links: Iterable[Link], also: Sequence[str] = (), before: values.Palette | None = None
) -> None:
    """Save a row with the card of a new head, within the transaction that moves it.

    also : further fields of it that have changed. before : what its card is of until now, where that is known.
    """
    row.name, row.tags, row.count = palette.name, list(palette.tags), len(palette.swatches)
    row.strip = strip_of([swatch.color for swatch in palette.swatches[:STRIP_SWATCHES]])
    row.colors = rgb_bytes([swatch.color for swatch in palette.swatches if swatch.color.alpha > 0])
    row.searched = lines((row.name, *row.tags, *(swatch.name for swatch in palette.swatches)))
    row.tag_words = lines(row.tags)
    row.painted = [link.picture for link in links]
    if row._state.adding:
        row.save()
    else:
        row.save(update_fields=[*FIELDS, *also])
    if before is None or before.ramps or palette.ramps:
        _write_ramps(row, palette)


def _write_ramps(row: Palette, palette: values.Palette) -> None:
    """The cards of its kept ramps, where they are others than before."""
    wanted = [
        {"ramp": kept.id, "name": kept.name, "tags": list(kept.tags), "strip": card_strip(kept, palette).hex()}
        for kept in palette.ramps
    ]
    if list(row.ramp_cards.order_by("position").values("ramp", "name", "tags", "strip")) == wanted:
        return
    row.ramp_cards.all().delete()
    RampCard.objects.bulk_create(
        RampCard(palette=row, position=place, **searchable_ramp(card), **card) for place, card in enumerate(wanted)
    )


def lines(texts: Iterable[str]) -> str:
    """Texts to search in, a line each."""
    return folded("\n".join(texts))


def searchable_ramp(card: Mapping[str, Any]) -> dict[str, Any]:
    """What the card of a ramp is found by."""
    return {
        "searched": lines((card["name"], *card["tags"])), "tag_words": lines(card["tags"])
    }  # fmt: skip


def opaque(strip: str) -> bytes:
    """The colors of a strip in rrggbbaa that are not wholly clear, three bytes each."""
    rgba = np.frombuffer(bytes.fromhex(strip), dtype=np.uint8).reshape(-1, 4)
    return rgba[rgba[:, 3] > 0, :3].tobytes()


TOGETHER = 3_000_000
"""Bytes of colors that are looked at at once, however many palettes there are."""


def nearest_first(rows: Iterable[tuple[Key, bytes]], wanted: str, within: float) -> list[tuple[float, Key]]:
    """ΔEOK×100 and id of what has a color that is so near to another, the nearest first; what is equally near stands as in `rows`.

    rows : id and colors, three 8-bit sRGB channels each. wanted : a color in any notation. Raises `BadColor`.
    """
    color = np.array(parse_color(wanted).oklab)
    near: list[tuple[float, Key]] = []
    waiting: list[tuple[Key, bytes]] = []
    held = 0
    for row in rows:
        if row[1]:
            waiting.append(row)
            held += len(row[1])
        if held >= TOGETHER:
            near += _near(waiting, color, within)
            waiting, held = [], 0
    near += _near(waiting, color, within)
    return sorted(near, key=itemgetter(0))


def _near(rows: Sequence[tuple[Key, bytes]], color: Floats, within: float) -> Iterator[tuple[float, Key]]:
    if not rows:
        return iter(())
    rgb = np.frombuffer(b"".join([colors for _, colors in rows]), dtype=np.uint8).reshape(-1, 3)
    gaps = nearest(rgb, np.array([len(colors) // 3 for _, colors in rows]), color).astype(float).round(3)
    places = np.flatnonzero(gaps <= within)
    return zip(gaps[places].tolist(), [rows[place][0] for place in places.tolist()], strict=True)
