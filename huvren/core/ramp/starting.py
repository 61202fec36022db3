"""Starting ramps: a dozen that a press needs, each useful as it is and easily bent to one's own."""

from dataclasses import dataclass, field
from typing import Any

from huvren.core.color.notation import parse_color
from huvren.core.ramp.plan import PlanStop, RampPlan
from huvren.core.registry import Registry


@dataclass(frozen=True)
class Starting:
    """A ramp to begin with. stops : colors as text, each with its place or None; tags : what it is for."""

    id: str
    """By which it is named in documents, addresses and commands."""
    name: str
    """What people call it."""
    use: str
    """What it is for, in one sentence."""
    tags: tuple[str, ...]
    stops: tuple[tuple[str, float | None], ...]
    settings: dict[str, Any] = field(default_factory=dict)
    """That differ from the usual."""

    @property
    def plan(self) -> RampPlan:
        return RampPlan(tuple(PlanStop(parse_color(text), position=at) for text, at in self.stops), **self.settings)

    def __hash__(self) -> int:
        return hash(self.id)


STARTING: Registry[Starting] = Registry("starting ramp")


def _even(*texts: str) -> tuple[tuple[str, float | None], ...]:
    return tuple((text, None) for text in texts)


for _entry in (
    Starting(
        "lamp-glow", "Lamp glow", "From the dark round a lamp into its flame.", ("glow", "light"),
        _even("#120f1c", "#3d1f2b", "#8a3f22", "#e08a2e", "#ffd98a", "#fffbe8"),
        {"curve": "monotone", "spacing": "even", "steps": 11},
    ),
    Starting(
        "dusk", "Dusk", "The sky behind a roof, an hour after sunset.", ("sky", "light"),
        _even("#1b2150", "#4b3b78", "#a65a7e", "#f0926a", "#ffd7a0"), {"curve": "natural", "spacing": "even", "steps": 9},
    ),
    Starting(
        "dusk-to-lamp", "Dusk to lamp", "The ramp that goes muddy in plain RGB.", ("light", "proof"),
        _even("#2b3a8c", "#ffc34d"), {"steps": 9},
    ),
    Starting(
        "reed-green", "Reed green", "Leaves from the water's edge up to the tips.", ("leaf",),
        _even("#16241c", "#2f5237", "#6b8f45", "#b9c76a", "#eef0bf"), {"curve": "monotone", "spacing": "lightness", "steps": 9},
    ),
    Starting(
        "wing-brown", "Wing brown", "A wing's shades, cool below and warm above.", ("wing", "shading"),
        _even("#241a20", "#4d332b", "#84603f", "#b99567", "#e6d3ad"),
        {"curve": "monotone", "spacing": "lightness", "steps": 7, "purpose": "shading"},
    ),
    Starting(
        "moth-gray", "Moth gray", "Warm and cool grays for fur and dust.", ("wing", "shading"),
        _even("#1d1f24", "#54545a", "#97928c", "#d8d0c2"),
        {"curve": "monotone", "spacing": "lightness", "steps": 7, "purpose": "shading"},
    ),
    Starting(
        "ink-wash", "Ink wash", "One ink thinned step by step down to the paper.", ("ink",),
        _even("#14151f", "#f4efe2"), {"space": "oklab", "spacing": "lightness", "steps": 8},
    ),
    Starting(
        "clear-veil", "Clear veil", "Ink that thins out to nothing: for washes over a plate.", ("ink", "alpha"),
        _even("#14151f", "#14151f00"), {"steps": None},
    ),
    Starting(
        "pigment-dusk", "Pigment dusk", "Blue into yellow as paints would mix, by way of green.", ("paint",),
        _even("#23409c", "#f6cf3a"), {"space": "pigment", "spacing": "even", "steps": 9},
    ),
    Starting(
        "count-heat", "Count heat", "Moths in a trap, few to many: reads in gray as well.", ("chart",),
        (("oklch(0.2 0.06 290)", 0), ("oklch(0.38 0.13 330)", 0.25), ("oklch(0.57 0.18 20)", 0.5), ("oklch(0.77 0.15 65)", 0.75),
         ("oklch(0.96 0.07 100)", 1)),
        {"curve": "monotone", "spacing": "even", "steps": 9, "purpose": "sequential"},
    ),
    Starting(
        "above-below", "Above and below", "Counts against the mean of ten summers.", ("chart",),
        (("oklab(0.45 -0.024 -0.11)", 0), ("oklab(0.95 0 0)", 0.5), ("oklab(0.45 0.0904 0.0671)", 1)),
        {"spacing": "even", "steps": 9, "purpose": "diverging"},
    ),
    Starting(
        "month-cycle", "Month cycle", "Twelve months, and December stands beside January.", ("chart",),
        _even("oklab(0.62 -0.02 -0.1)", "oklab(0.7 -0.1 -0.02)", "oklab(0.8 -0.04 0.1)", "oklab(0.72 0.08 0.06)",
              "oklab(0.6 0.08 -0.06)", "oklab(0.62 -0.02 -0.1)"),
        {"curve": "natural", "spacing": "even", "closed": True, "steps": 12, "purpose": "cyclic"},
    ),
    Starting(
        "night-shade", "Night shade", "Indigo shadows for anything that is lit by one lamp.", ("shading", "light"),
        _even("#0e0d18", "#221d3c", "#43315a", "#6f4a67"), {"curve": "monotone", "spacing": "lightness", "steps": 6},
    ),
):  # fmt: skip
    STARTING.register(_entry)
