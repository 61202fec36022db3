"""What a lens is, and the registry of lenses."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np

from huvren.core.color.arrays import Bytes, Floats
from huvren.core.color.eight_bits import to_eight_bits
from huvren.core.errors import BadInput
from huvren.core.registry import Registry


@dataclass(frozen=True)
class Amount:
    """How strong a lens is: its range, and what it is where nothing is said."""

    label: str
    """As menus call it."""
    low: float
    """The least."""
    high: float
    """The most."""
    usual: float
    """Where nothing is chosen."""
    unit: str = "%"
    """Written behind the number."""


@dataclass(frozen=True)
class Lens:
    """`see` : (n, 3) sRGB 0..1 and the amount → (n, 3) sRGB 0..1. kind : what it stands for.

    is_estimate : whether it stands for something that differs from device to device.
    """

    id: str
    """By which it is named in documents, addresses and commands."""
    label: str
    """As menus call it."""
    use: str
    """What it is for, in one sentence."""
    kind: Literal["eye", "screen", "paper"]
    see: Callable[[Floats, float], Floats]
    """(n, 3) sRGB 0..1 and an amount → (n, 3) sRGB."""
    amount: Amount | None = None
    """None where it has no degrees."""
    is_estimate: bool = False

    def settled(self, amount: float | None) -> float:
        """The amount, or the usual one. Raises `BadInput` for one out of range, or for a lens that has none."""
        if self.amount is None:
            if amount is not None:
                raise BadInput(f"The lens “{self.label}” has no amount.")
            return 0.0
        value = self.amount.usual if amount is None else amount
        if not self.amount.low <= value <= self.amount.high:
            raise BadInput(f"{self.amount.label.capitalize()} {value:g} is outside {self.amount.low:g} to {self.amount.high:g}.")
        return value

    def through(self, srgb: Floats, amount: float | None = None) -> Floats:
        """(..., 3) sRGB 0..1 → the same shape, as it is seen.

        Parameters
        ----------
        srgb : Floats
            (..., 3) sRGB 0..1.
        amount : float | None
            How much of it, within the bounds that the lens declares; None for its usual amount.

        Returns
        -------
        Floats
            The same shape, as it is seen.

        Raises
        ------
        BadInput
            As `settled` does.
        """
        rows = np.clip(np.asarray(srgb, dtype=np.float64), 0, 1).reshape(-1, 3)
        return np.clip(self.see(rows, self.settled(amount)), 0, 1).reshape(np.shape(srgb))

    def through_bytes(self, rgb: Bytes, amount: float | None = None) -> Bytes:
        """(..., 3) uint8 → the same shape; each different color is looked at once.

        Parameters
        ----------
        rgb : Bytes
            (..., 3) uint8.
        amount : float | None
            How much of it, within the bounds that the lens declares; None for its usual amount.

        Returns
        -------
        Bytes
            The same shape; each different color is looked at once.

        Raises
        ------
        BadInput
            As `settled` does.
        """
        flat = np.ascontiguousarray(rgb).reshape(-1, 3)
        words = flat[:, 0].astype(np.uint32) << 16 | flat[:, 1].astype(np.uint32) << 8 | flat[:, 2]
        different, back = np.unique(words, return_inverse=True)
        colors = np.stack([different >> 16, different >> 8 & 255, different & 255], axis=-1) / 255
        shown = to_eight_bits(self.through(colors, amount))
        return np.asarray(shown[back].reshape(rgb.shape))


LENSES: Registry[Lens] = Registry("lens")


def parse_lens(text: str) -> tuple[Lens, float | None]:
    """“deutan”, “deutan:80” → the lens and its amount. Raises `Unknown` and `BadInput`."""
    name, mark, number = text.partition(":")
    lens = LENSES[name.strip()]
    if not mark:
        return lens, None
    try:
        amount = float(number)
    except ValueError:
        raise BadInput(f"“{number[:20]}” is no amount of a lens. Write it as {lens.id}:80.") from None
    if amount != amount:
        raise BadInput("An amount of a lens has to be a number.")
    lens.settled(amount)
    return lens, amount
