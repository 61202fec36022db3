"""Lenses: ways to see every color as another eye, room, screen or paper would. Nothing that is stored changes.

A lens is one file that declares itself: a function from sRGB arrays to sRGB arrays, with one amount where it has degrees.
"""

from huvren.core.lenses.lens import (
    LENSES,
    Amount,
    Lens,
    parse_lens,
)

# isort: off
from huvren.core.lenses import (  # noqa: F401  (menu order)
    lightness,
    protan,
    deutan,
    tritan,
    achromatic,
    gamma_18,
    gamma_26,
    glare,
    evening,
    small_gamut,
    depth_565,
    depth_444,
    sixteen_gray,
    seven_ink,
    ink_on_paper,
)
# isort: on

__all__ = ["LENSES", "Amount", "Lens", "parse_lens"]
