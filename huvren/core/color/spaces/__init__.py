"""Color spaces. One file a space; each declares its channels, its base and the two functions to and from it.

The base chain of every space ends in `xyz-d65`; `convert` climbs from one space to the nearest common
ancestor and down to the other, so that n spaces need n edges.
"""

from huvren.core.color.spaces.space import (
    POWERLESS_SHARE,
    SPACES,
    Between,
    Channel,
    ColorSpace,
    Conversion,
    Editing,
    Meaning,
    convert,
    edited_spaces,
    matrix,
    to_polar,
    to_rectangular,
)

# isort: off
from huvren.core.color.spaces import (  # noqa: F401  (registration order is menu order)
    xyz,
    srgb,
    oklab,
    hsv,
    hsl,
    hwb,
    cielab,
    display_p3,
    wide_rgb,
    cmyk,
    gray,
)
# isort: on

__all__ = [
    "POWERLESS_SHARE",
    "SPACES",
    "Between",
    "Channel",
    "ColorSpace",
    "Conversion",
    "Editing",
    "Meaning",
    "convert",
    "edited_spaces",
    "matrix",
    "to_polar",
    "to_rectangular",
]
