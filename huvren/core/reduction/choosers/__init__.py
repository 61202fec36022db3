"""Choosers: ways to pick k colors for a picture. One file each."""

from collections.abc import Callable
from dataclasses import dataclass

from huvren.core.color.arrays import Floats
from huvren.core.reduction.histogram import Histogram, Points
from huvren.core.registry import Registry

Choose = Callable[[Histogram, Points, int, Floats], Floats]
"""(histogram, its points, number of colors to add, (m, 3) OKLab of colors that are there already) → (≤ k, 3) OKLab."""


@dataclass(frozen=True)
class Chooser:
    id: str
    label: str
    use: str
    choose: Choose


CHOOSERS: Registry[Chooser] = Registry("chooser")

from huvren.core.reduction.choosers import perceptual  # noqa: E402, F401
