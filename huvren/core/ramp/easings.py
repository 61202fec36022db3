"""Easings: how the share of an interval that is done follows from the place within it."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from huvren.core.color.arrays import Floats
from huvren.core.errors import BadInput
from huvren.core.registry import Registry

BISECTIONS = 40


@dataclass(frozen=True)
class Number:
    """A number that an easing takes, with its bounds."""

    name: str
    """What people call it."""
    low: float
    """The least."""
    high: float
    """The most."""
    usual: float
    """Where nothing is chosen."""


@dataclass(frozen=True)
class EasingKind:
    """A kind of easing. `bend` takes (n,) places 0..1 within the interval and the numbers, and gives (n,) shares 0..1."""

    id: str
    """By which it is named in documents, addresses and commands."""
    label: str
    """As menus call it."""
    use: str
    """What it is for, in one sentence."""
    numbers: tuple[Number, ...]
    """That it takes."""
    bend: Callable[[Floats, tuple[float, ...]], Floats]
    """(n,) places 0..1 and its numbers → (n,) shares 0..1."""


EASINGS: Registry[EasingKind] = Registry("easing")


@dataclass(frozen=True)
class Easing:
    """A kind with its numbers, the usual ones where none are given. Raises `BadInput` for numbers out of bounds."""

    kind: str = "linear"
    """Id of an `EasingKind`."""
    numbers: tuple[float, ...] = ()
    """Its numbers."""

    def __post_init__(self) -> None:
        wanted = EASINGS[self.kind].numbers
        if not self.numbers:
            object.__setattr__(self, "numbers", tuple(number.usual for number in wanted))
        if len(self.numbers) != len(wanted):
            raise BadInput(f"The easing “{self.kind}” takes {len(wanted)} numbers; {len(self.numbers)} were given.")
        for number, value in zip(wanted, self.numbers, strict=True):
            if not number.low <= value <= number.high:
                raise BadInput(
                    f"The easing “{self.kind}” has {number.name} = {value:g}; it must lie within {number.low:g} and {number.high:g}."
                )

    def bend(self, places: Floats) -> Floats:
        """(n,) places 0..1 → (n,) shares 0..1.

        Parameters
        ----------
        places : Floats
            (n,) 0..1.

        Returns
        -------
        Floats
            (n,) shares 0..1.
        """
        return EASINGS[self.kind].bend(places, self.numbers)


def _steps(places: Floats, numbers: tuple[float, ...]) -> Floats:
    count = round(numbers[0])
    return np.asarray(np.minimum(np.floor(places * count), count - 1) / (count - 1))


def _along(first: float, second: float, t: Floats) -> Floats:
    """One coordinate of a cubic Bézier from 0 to 1."""
    return np.asarray(3 * (1 - t) ** 2 * t * first + 3 * (1 - t) * t**2 * second + t**3)


def _bezier(places: Floats, numbers: tuple[float, ...]) -> Floats:
    """The curve of CSS Easing 1 §2.2: x is the place, y the share; x is turned round by bisection."""
    x1, y1, x2, y2 = numbers
    low, high = np.zeros_like(places), np.ones_like(places)
    for _ in range(BISECTIONS):
        middle = (low + high) / 2
        before = _along(x1, x2, middle) < places
        low, high = np.where(before, middle, low), np.where(before, high, middle)
    return np.clip(np.where(places <= 0, 0.0, np.where(places >= 1, 1.0, _along(y1, y2, (low + high) / 2))), 0, 1)


EASINGS.register(EasingKind("linear", "straight", "At the same pace all the way.", (), lambda places, numbers: places))
EASINGS.register(
    EasingKind(
        "smooth", "smooth", "Slow at both stops, so that neither shows as an edge.", (), lambda p, numbers: p * p * (3 - 2 * p)
    )
)
EASINGS.register(
    EasingKind("steps", "in flat steps", "So many flat colors from stop to stop.", (Number("count", 2, 256, 4),), _steps)
)
EASINGS.register(
    EasingKind(
        "bezier", "by hand", "A curve with two handles.",
        (Number("x1", 0, 1, 0.4), Number("y1", 0, 1, 0.0), Number("x2", 0, 1, 0.6), Number("y2", 0, 1, 1.0)), _bezier,
    )
)  # fmt: skip
LINEAR = Easing()
