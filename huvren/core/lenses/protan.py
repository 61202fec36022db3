"""Protan eyes: the long-wave cones are weak or missing."""

from huvren.core.color.vision import VISIONS, seen
from huvren.core.lenses.lens import LENSES, Amount, Lens

VISION = VISIONS["protan"]
LENSES.register(
    Lens(
        "protan", "protan eyes", "The long-wave cones are weak or missing: reds look dark and lean to brown.", "eye",
        lambda srgb, severity: seen(srgb, VISION, severity / 100), Amount("severity", 0, 100, 100),
    )
)  # fmt: skip
