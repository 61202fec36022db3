"""Companions of a base color: hues round the circle at held lightness, in OKLCh."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from huvren.core.color.planes import chroma_limit
from huvren.core.color.value import Color
from huvren.core.errors import BadInput
from huvren.core.registry import Registry


@dataclass(frozen=True)
class Scheme:
    """A scheme. `spread` is the usual angle in degrees that its companions can be opened or closed by; 0 for none.

    turns : spread and count → degrees of every color from the base, which comes first with 0. by_lightness : its colors go
    from dark to light through one hue, and the base is none of them.
    """

    id: str
    """By which it is named in documents, addresses and commands."""
    label: str
    """As menus call it."""
    use: str
    """What it is for, in one sentence."""
    spread: float
    """Degrees between neighbors."""
    counts: tuple[int, int]
    """The fewest and the most colors."""
    turns: Callable[[float, int], list[float]]
    usual: int = 0
    """Where nothing is chosen."""
    by_lightness: bool = False

    def offsets(self, spread: float | None, count: int) -> list[float]:
        """Degrees of every color of the scheme from the base."""
        return self.turns(self.spread if spread is None else spread, count)


def _to_either_side(spread: float, count: int) -> list[float]:
    """0, +1, −1, +2 …"""
    return [(step + 1) // 2 * spread * (1 if step % 2 else -1) if step else 0.0 for step in range(count)]


SCHEMES: Registry[Scheme] = Registry("scheme")
for _entry in (
    Scheme("complement", "complement", "The opposite hue: the strongest contrast.", 0, (2, 2), lambda spread, count: [0.0, 180.0]),
    Scheme("split", "split complement", "The two hues beside the opposite one: contrast without the clash.", 30, (3, 3),
           lambda spread, count: [0.0, 180.0 - spread, 180.0 + spread]),
    Scheme("analogous", "analogous", "Neighbors on the circle: one light over everything.", 30, (2, 9), _to_either_side, usual=5),
    Scheme("triad", "triad", "Three hues a third of the circle apart.", 120, (3, 3), lambda spread, count: [0.0, spread, -spread]),
    Scheme("tetrad", "tetrad", "Two pairs of opposites.", 60, (4, 4), lambda spread, count: [0.0, spread, 180.0, 180.0 + spread]),
    Scheme("scale", "single-hue scale", "One hue from dark to light.", 0, (2, 32), lambda spread, count: [0.0] * count, usual=5,
           by_lightness=True),
):  # fmt: skip
    SCHEMES.register(_entry)


def companions(base: Color, scheme: str, spread: float | None = None, count: int | None = None) -> list[Color]:
    """The colors of a scheme, the base first, all at its lightness; chroma is reduced where a hue cannot hold it.

    A scale goes from dark to light through the base's hue, with the base's share of the chroma that sRGB allows at each
    lightness. Raises `BadInput` for a count that the scheme cannot have.
    """
    entry = SCHEMES[scheme]
    low, high = entry.counts
    number = count if count is not None else entry.usual or low
    if not low <= number <= high:
        raise BadInput(f"A {entry.label} has {low if low == high else f'{low} to {high}'} colors; {number} were asked for.")
    lightness, chroma, hue = base.to("oklch")
    if entry.by_lightness:
        share = chroma / max(chroma_limit(lightness, hue), 1e-6)
        steps = np.linspace(0.2, 0.95, number)
        return [Color("oklch", (float(step), min(share, 1.0) * chroma_limit(float(step), hue), hue)) for step in steps]
    made = []
    for offset in entry.offsets(spread, number):
        turned = (hue + offset) % 360
        made.append(base if offset == 0 else Color("oklch", (lightness, min(chroma, chroma_limit(lightness, turned)), turned)))
    return made


def reroll(kept: list[Color], count: int, seed: int, scheme: str = "analogous", spread: float | None = None) -> list[Color]:
    """`count` colors that go with those kept, drawn anew for every seed.

    Hues come from the scheme around the most colorful kept one, or around a drawn hue; lightness from what the kept
    leave free; of 24 draws each, the one farthest from everything there is taken.
    """
    random = np.random.default_rng(seed)
    offsets = SCHEMES[scheme].offsets(spread, max(SCHEMES[scheme].counts[0], 3))
    vivid = max(kept, key=lambda color: color.to("oklch")[1], default=None)
    base = vivid.to("oklch")[2] if vivid is not None and vivid.to("oklch")[1] > 0.02 else float(random.uniform(0, 360))
    places = [np.array(color.oklab) for color in kept]
    made = []
    for _ in range(count):
        best, farthest = None, -1.0
        for _ in range(24):
            lightness = float(random.uniform(0.22, 0.93))
            hue = (base + float(random.choice(offsets)) + float(random.normal(0, 7))) % 360
            color = Color("oklch", (lightness, chroma_limit(lightness, hue) * float(random.uniform(0.25, 0.9)), hue))
            gap = min((float(np.linalg.norm(place - color.oklab)) for place in places), default=1.0)
            if gap > farthest:
                best, farthest = color, gap
        assert best is not None
        made.append(best)
        places.append(np.array(best.oklab))
    return made
