"""Ramps of a palette: drawn, examined, made, fitted and written. Nothing here stores anything; operations do."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from huvren.core.color.arrays import Bytes
from huvren.core.errors import BadInput, HuvrenError
from huvren.core.formats import FORMATS, Document, Format
from huvren.core.formats.report import Loss, ramp_report
from huvren.core.palette.values import KeptRamp, Palette
from huvren.core.ramp.plan import RampPlan, plan_to_document
from huvren.core.ramp.profile import rgba_bytes
from huvren.core.ramp.recipe import RampRecipe
from huvren.core.ramp.values import Ramp
from huvren.core.reduction.dithers import DITHERS
from huvren.core.reduction.recipe import ReduceRecipe
from huvren.core.reduction.reduce import reduce_picture

DITHERED = (512, 48)
"""Width and height of a dithered lane in pixels: it is shown at twice that, so that the dots can be seen."""


@dataclass(frozen=True)
class RampFile:
    """A file of one ramp, or the sentence that says why there is none; and its keep report."""

    format: Format
    data: bytes | None
    problem: str | None
    losses: tuple[Loss, ...]


def write_ramp(palette: Palette, recipe: RampRecipe, name: str, format_id: str, options: Mapping[str, str]) -> RampFile:
    """Raises `Unknown` and `BadInput` for wrong requests."""
    entry = FORMATS[format_id]
    if entry.write is None or entry.ramp is None:
        raise BadInput(f"{entry.label} holds no ramp.")
    wrong = set(options) - {option.id for option in entry.options}
    if wrong:
        raise BadInput(f"{entry.label} has no option “{sorted(wrong)[0]}”.")
    plan = recipe.plan()
    document = Document(palette, options=options, ramps=((name, plan.untied(palette.color_of)),))
    for option in entry.options:
        entry.option(document, option.id)
    losses = tuple(ramp_report(entry, name, plan, palette.color_of, options))
    try:
        return RampFile(entry, entry.written(document), None, losses)
    except HuvrenError as error:
        return RampFile(entry, None, str(error), losses)


def dithered(palette: Palette, ramp: Ramp, steps: int | None, dither: str, strength: int) -> Bytes:
    """(h, w, 4) uint8: the ramp painted with the palette's swatches and no others. Raises `BadInput` for a palette without any."""
    colors = [swatch.color for swatch in palette.swatches if swatch.color.alpha > 0]
    if not colors:
        raise BadInput("There is no swatch to dither with. Bake the ramp or add a color first.")
    if len(colors) > 256:
        raise BadInput(f"A dithered ramp is painted with at most 256 swatches; this palette has {len(colors):,}.")
    DITHERS[dither]
    width, height = DITHERED
    middles = (np.arange(width) + 0.5) / width
    if steps is not None:
        middles = ramp.shares(steps)[np.minimum((middles * steps).astype(int), steps - 1)]
    row = rgba_bytes(*ramp.shown(middles)[:2])
    row[:, 3] = 255
    recipe = ReduceRecipe(chooser="fixed-list", listed=[color.hex[:7] for color in colors], colors=len(colors), dither=dither,
                          strength=strength)  # fmt: skip
    made = reduce_picture(np.ascontiguousarray(np.repeat(row[None], height, axis=0)), recipe)
    return np.dstack([made.rgb[made.indices], np.full((height, width, 1), 255, np.uint8)])


def plans_as_recipes(plans: Sequence[RampPlan]) -> list[RampRecipe]:
    return [RampRecipe.model_validate(plan_to_document(plan)) for plan in plans]


def alone(palette: Palette, kept: KeptRamp, tied: bool) -> Palette:
    """A palette of one ramp, with the swatches that its stops are tied to or with plain stops."""
    swatches = tuple(replace(s, slot=None, pinned=False, group=None) for s in palette.swatches if tied and s.id in kept.plan.tied())
    plan = kept.plan if tied else kept.plan.untied(palette.color_of)
    return Palette(palette.name, swatches, ramps=(replace(kept, plan=plan, group=None, baked=()),))
