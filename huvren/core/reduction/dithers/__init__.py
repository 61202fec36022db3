"""Dithers: ways to lay out the indices of a palette over a picture. One file each."""

from huvren.core.reduction.dithers.dither import (
    DITHERS,
    Dither,
    Target,
    WorkingSpace,
)

# isort: off
from huvren.core.reduction.dithers import (  # noqa: F401  (menu order)
    none,
    floyd_steinberg,
    ordered,
    blue_noise,
    clustered_dot,
    checker,
    kernels,
)
# isort: on

__all__ = ["DITHERS", "Dither", "Target", "WorkingSpace"]
