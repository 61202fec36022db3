"""Makers: ramps for a purpose, from a few colors. One file each; each gives stops and spacing, and its purpose says the checks."""

from huvren.core.ramp.makers.maker import (
    MAKERS,
    Maker,
    MakerNumber,
    make,
    oklch_of,
    remade,
    shown_colors,
    turned,
)

# isort: off
from huvren.core.ramp.makers import shading, sequential, diverging, cyclic  # noqa: F401  (menu order)
# isort: on


__all__ = ["MAKERS", "Maker", "MakerNumber", "make", "oklch_of", "remade", "shown_colors", "turned"]
