"""Deutan eyes: the middle-wave cones are weak or missing."""

from huvren.core.color.vision import VISIONS, seen
from huvren.core.lenses.lens import LENSES, Amount, Lens

VISION = VISIONS["deutan"]
LENSES.register(
    Lens(
        "deutan", "deutan eyes", "The middle-wave cones are weak or missing: greens and reds look alike.", "eye",
        lambda srgb, severity: seen(srgb, VISION, severity / 100), Amount("severity", 0, 100, 100),
    )
)  # fmt: skip
