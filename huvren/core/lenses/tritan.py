"""Tritan eyes: the short-wave cones are weak or missing."""

from huvren.core.color.vision import VISIONS, seen
from huvren.core.lenses.lens import LENSES, Amount, Lens

VISION = VISIONS["tritan"]
LENSES.register(
    Lens(
        "tritan", "tritan eyes", "The short-wave cones are weak or missing: blues and greens look alike.", "eye",
        lambda srgb, severity: seen(srgb, VISION, severity / 100), Amount("severity", 0, 100, 100),
    )
)  # fmt: skip
