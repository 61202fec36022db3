"""Choosers: ways to pick k colors for a picture. One file each."""

from huvren.core.reduction.choosers.chooser import (
    CHOOSERS,
    Brief,
    Chooser,
    oklab_to_bytes,
)

# isort: off
from huvren.core.reduction.choosers import (  # noqa: F401  (menu order)
    perceptual,
    median_cut,
    most_used,
    most_different,
    own_colors,
    fixed_list,
    best_of_list,
    channel_depth,
    as_it_is,
)
# isort: on

__all__ = ["CHOOSERS", "Brief", "Chooser", "oklab_to_bytes"]
