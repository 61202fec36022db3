"""Selecting swatches by rule: one registered entry a rule."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from huvren.core.color.difference import DELTA_SCALE
from huvren.core.errors import BadInput
from huvren.core.palette.values import Palette, Swatch, Usage
from huvren.core.registry import Registry


@dataclass(frozen=True)
class Request:
    """What a rule may ask for: swatches that are selected already, a tolerance in ΔEOK×100, pixels of each swatch."""

    palette: Palette
    """That is selected from."""
    ids: tuple[str, ...]
    """Swatches that are selected now."""
    tolerance: float
    """ΔEOK×100."""
    usage: Usage
    """Pixels of each swatch in the linked pictures."""


@dataclass(frozen=True)
class SelectRule:
    """needs : “swatch” where the rule begins from what is selected, “tolerance” where it also takes a tolerance."""

    id: str
    """By which it is named in documents, addresses and commands."""
    label: str
    """As menus call it."""
    use: str
    """What it is for, in one sentence."""
    choose: Callable[[Request], list[Swatch]]
    """The swatches that are selected."""
    needs: tuple[str, ...] = ()


SELECT_RULES: Registry[SelectRule] = Registry("selection rule")


def _similar(request: Request) -> list[Swatch]:
    if not request.ids:
        raise BadInput("Select the swatch first that the others should be similar to.")
    wanted = np.array([swatch.color.oklab for swatch in request.palette.pick(request.ids)])
    places = np.array([swatch.color.oklab for swatch in request.palette.swatches])
    gaps = np.linalg.norm(places[:, None] - wanted[None], axis=-1).min(axis=1) * DELTA_SCALE
    return [swatch for swatch, gap in zip(request.palette.swatches, gaps, strict=True) if gap <= request.tolerance]


def _unused(request: Request) -> list[Swatch]:
    if not request.usage:
        raise BadInput("No picture is painted with this palette, so nothing can be told about what is unused.")
    return [swatch for swatch in request.palette.swatches if not request.usage.get(swatch.id)]


def _doubles(request: Request) -> list[Swatch]:
    seen: set[tuple[int, int, int, int]] = set()
    doubles = []
    for swatch in request.palette.swatches:
        if swatch.color.bytes in seen:
            doubles.append(swatch)
        seen.add(swatch.color.bytes)
    return doubles


def _same_group(request: Request) -> list[Swatch]:
    groups = {swatch.group for swatch in request.palette.pick(request.ids)}
    return [swatch for swatch in request.palette.swatches if swatch.group in groups]


SELECT_RULES.register(
    SelectRule("similar", "similar to this", "Within a tolerance of any selected swatch.", _similar, ("swatch", "tolerance"))
)
SELECT_RULES.register(SelectRule("unused", "painting nothing", "No pixel of the linked pictures has them.", _unused))
SELECT_RULES.register(
    SelectRule(
        "outside", "outside sRGB", "Their color cannot be shown as it was given.",
        lambda request: [swatch for swatch in request.palette.swatches if not swatch.color.in_srgb],
    )
)  # fmt: skip
SELECT_RULES.register(SelectRule("doubles", "doubles", "The same 8-bit color as a swatch before them.", _doubles))
SELECT_RULES.register(
    SelectRule("group", "of the same group", "Everything in the groups of what is selected.", _same_group, ("swatch",))
)
SELECT_RULES.register(
    SelectRule(
        "locked", "locked", "Everything that stays through reductions and merges.",
        lambda request: [swatch for swatch in request.palette.swatches if swatch.locked],
    )
)  # fmt: skip


def select(palette: Palette, rule: str, ids: tuple[str, ...] = (), tolerance: float = 5.0, usage: Usage | None = None) -> list[str]:
    """Ids of the swatches that a rule chooses, in strip order. Raises `BadInput` or `Unknown` in words."""
    return [swatch.id for swatch in SELECT_RULES[rule].choose(Request(palette, ids, tolerance, usage or {}))]
