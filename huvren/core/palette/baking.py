"""Swatches that were baked from kept ramps: whether they follow, and letting them."""

from dataclasses import replace
from functools import lru_cache

from huvren.core.color.value import Color
from huvren.core.errors import BadInput
from huvren.core.palette.naming import Namer
from huvren.core.palette.values import KeptRamp, Palette, Swatch, new_id
from huvren.core.ramp.plan import RampPlan
from huvren.core.ramp.values import Ramp


def steps_of(plan: RampPlan, palette: Palette) -> list[Color]:
    """The colors that baking gives. Raises `BadInput` for a continuous ramp."""
    if plan.steps is None:
        raise BadInput("A continuous ramp cannot be baked. Say in how many steps.")
    return plan.ramp(palette.color_of).baked(plan.steps)


def changed_by_hand(ramp: KeptRamp, palette: Palette) -> list[Swatch]:
    """The swatches baked from a ramp whose color is no longer the one that baking gave."""
    given = dict(ramp.baked)
    return [swatch for swatch in palette.swatches if swatch.id in given and swatch.color != given[swatch.id]]


@lru_cache(maxsize=512)
def _baked(ramp: Ramp, steps: int) -> tuple[Color, ...]:
    """Remembered, as every answer about a palette asks it of every ramp."""
    return tuple(ramp.baked(steps))


def follows(ramp: KeptRamp, palette: Palette) -> bool:
    """Whether baking again would change nothing but what was changed by hand."""
    if not ramp.baked or ramp.plan.steps is None:
        return True
    wanted = _baked(ramp.plan.ramp(palette.color_of), ramp.plan.steps)
    return len(wanted) == len(ramp.baked) and all(color == given for color, (_, given) in zip(wanted, ramp.baked, strict=True))


def baked_again(kept: KeptRamp, palette: Palette) -> tuple[Palette, tuple[str, ...]]:
    """The palette with the swatches of a kept ramp as the ramp is now, and what is to be said: those changed or taken out by hand
    stay so. Of other counts, further swatches come behind the last of them, and those that are too many go."""
    colors = steps_of(kept.plan, palette)
    by_hand = {swatch.id: swatch for swatch in changed_by_hand(kept, palette)}
    ids = [swatch for swatch, _ in kept.baked]
    wanted = dict(zip(ids, colors, strict=False))
    gone = {swatch for swatch in ids[len(colors) :] if swatch not in by_hand}
    made: list[Swatch] = []
    for swatch in palette.swatches:
        if swatch.id in gone:
            continue
        does_follow = swatch.id in wanted and swatch.id not in by_hand
        made.append(replace(swatch, color=wanted[swatch.id]) if does_follow else swatch)
    present = {swatch.id for swatch in palette.swatches}
    out = sum(swatch not in present for swatch in ids[: len(colors)])
    last = max((place for place, swatch in enumerate(made) if swatch.id in ids), default=-1) + 1
    namer = Namer(swatch.name for swatch in palette.swatches)
    more = [
        Swatch(color, namer.give(f"{kept.name[:180]} {step}"), new_id(), group=made[last - 1].group)
        for step, color in enumerate(colors[len(ids) :], start=len(ids) + 1)
    ]
    after = palette.with_swatches([*made[:last], *more, *made[last:]])
    baked = [*zip(ids, colors, strict=False), *((swatch.id, swatch.color) for swatch in more)]
    left = {swatch.id for swatch in after.swatches}
    marked = replace(after.ramp(kept.id), group=kept.group, baked=tuple(baked) if left & set(dict(baked)) else ())
    notes = []
    if by_hand:
        count = len(by_hand)
        notes.append(f"{count} swatch{'' if count == 1 else 'es'} changed by hand stayed as they are: {_listed(by_hand)}.")
    if out:
        notes.append(f"{out} swatch{'' if out == 1 else 'es'} taken out by hand stayed out.")
    return after.with_ramps(marked if ramp.id == kept.id else ramp for ramp in after.ramps), tuple(notes)


def _listed(swatches: dict[str, Swatch], most: int = 4) -> str:
    names = [f"“{swatch.name or swatch.color.hex}”" for swatch in swatches.values()]
    return ", ".join(names[:most]) + (f" and {len(names) - most} more" if len(names) > most else "")
