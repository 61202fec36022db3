"""Orders of the strip after a reduction: what each swatch is sorted by."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from huvren.core.registry import Registry

HUE_NEUTRAL = 0.02
"""Below this chroma in OKLab a swatch counts as neutral and comes before every hue."""


@dataclass(frozen=True)
class Facts:
    """What is known of a swatch. count : pixels that it paints; appears : where it first does so, in reading order, or
    infinity; before : its place before the reduction, or behind all."""

    lightness: float
    """OKLab L."""
    a: float
    """OKLab a."""
    b: float
    """OKLab b."""
    count: int
    appears: float
    before: int


@dataclass(frozen=True)
class Order:
    """An order of the strip. Swatches of equal keys go from dark to light."""

    id: str
    """By which it is named in documents, addresses and commands."""
    label: str
    """As menus call it."""
    key: Callable[[Facts], float]
    """What is sorted by."""
    needs_appearance: bool = False
    """Whether it asks where colors first appear."""


def _by_hue(facts: Facts) -> float:
    """The hue's section of 30°, neutrals first."""
    vivid = np.hypot(facts.a, facts.b) >= HUE_NEUTRAL
    return float(np.degrees(np.arctan2(facts.b, facts.a)) % 360 // 30) if vivid else -1.0


ORDERS: Registry[Order] = Registry("order")
for _entry in (
    Order("lightness", "from dark to light", lambda facts: facts.lightness),
    Order("use", "by use", lambda facts: -facts.count),
    Order("hue", "by hue", _by_hue),
    Order("appearance", "as they first appear", lambda facts: facts.appears, needs_appearance=True),
    Order("same", "as before", lambda facts: facts.before),
):
    ORDERS.register(_entry)
