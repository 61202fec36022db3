"""Merging swatches into one: who survives, and with which color."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from huvren.core.color.value import Color
from huvren.core.palette.fields import merged_into
from huvren.core.palette.values import Palette, Swatch, Usage
from huvren.core.registry import Registry


@dataclass(frozen=True)
class Survivor:
    """A rule for a merge. `pick` gives the swatch that stays, in the color it stays with; it never sees a locked one."""

    id: str
    """By which it is named in documents, addresses and commands."""
    label: str
    """As menus call it."""
    use: str
    """What it is for, in one sentence."""
    pick: Callable[[Sequence[Swatch], Usage], Swatch]
    """Of those that become one, the one that stays."""


SURVIVORS: Registry[Survivor] = Registry("merge rule")


def _most_used(swatches: Sequence[Swatch], usage: Usage) -> Swatch:
    return max(swatches, key=lambda swatch: usage.get(swatch.id, 0))


def mean_color(swatches: Sequence[Swatch], usage: Usage) -> Color:
    """The mean in OKLab, each color weighed by its pixels (equally where none has any) and its alpha."""
    pixels = np.array([float(usage.get(swatch.id, 0)) for swatch in swatches])
    if not pixels.any():
        pixels[:] = 1
    alphas = np.array([swatch.color.alpha for swatch in swatches])
    weights = pixels * alphas
    if not weights.any():
        return swatches[0].color
    oklab = np.array([swatch.color.to("oklab") for swatch in swatches])
    mean = (oklab * weights[:, None]).sum(axis=0) / weights.sum()
    return Color("oklab", tuple(float(v) for v in mean), float(weights.sum() / pixels.sum()))


def _average(swatches: Sequence[Swatch], usage: Usage) -> Swatch:
    return replace(_most_used(swatches, usage), color=mean_color(swatches, usage))


SURVIVORS.register(Survivor("most-used", "the most used", "The swatch that paints the most pixels stays as it is.", _most_used))
SURVIVORS.register(
    Survivor("average", "their average", "The mean color, weighed by pixels; the most used swatch keeps its name.", _average)
)
SURVIVORS.register(
    Survivor("first", "the first", "The swatch that stands first in the strip stays as it is.", lambda swatches, usage: swatches[0])
)

SURVIVORS.register(
    Survivor(
        "lightest", "the lightest", "The swatch of the highest lightness stays as it is.",
        lambda swatches, usage: max(swatches, key=lambda swatch: swatch.color.oklab[0]),
    )
)  # fmt: skip


def _gathered(survivor: Swatch, cluster: Sequence[Swatch]) -> Swatch:
    """The survivor with what its fields say that they take over from the others."""
    changes = merged_into(survivor, cluster)
    return replace(survivor, **changes) if changes else survivor


def merge(palette: Palette, clusters: Sequence[Sequence[Swatch]], rule: str, usage: Usage) -> tuple[Palette, dict[str, str]]:
    """Merge each cluster into one swatch; the palette after, and who took over from whom.

    Locked swatches always stay as they are: where a cluster holds some, each other member goes to the nearest of them.
    """
    kept: dict[str, Swatch] = {}
    heirs: dict[str, str] = {}
    for cluster in clusters:
        locked = [swatch for swatch in cluster if swatch.locked]
        staying = locked or [SURVIVORS[rule].pick(cluster, usage)]
        kept.update({swatch.id: swatch if locked else _gathered(swatch, cluster) for swatch in staying})
        places = np.array([swatch.color.oklab for swatch in staying])
        for swatch in cluster:
            if swatch.id not in kept:
                nearest = int(np.linalg.norm(places - np.array(swatch.color.oklab), axis=1).argmin())
                heirs[swatch.id] = staying[nearest].id
    merged = [kept.get(swatch.id, swatch) for swatch in palette.swatches if swatch.id not in heirs]
    return palette.with_swatches(merged), heirs
