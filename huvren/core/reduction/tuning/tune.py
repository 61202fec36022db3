"""Tuning: lay a sample out, solve for the colors that mix best, lay it out again.

Several beginnings are tried on a small sample: the colors that the chooser found, and colors that span the picture, picked
by what they can mix, each time with another regard for grain. Those that do best go on to a larger sample; of all rounds
the best is kept. Steps are longer than the equations say, since the dither answers to a wider palette by using it.

Where a part got worse than any was, its color is held and the others settle around it. Never worse than it began, see `settling.py`.
"""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from huvren.core.color.arrays import Bytes
from huvren.core.progress import Hurry, Watch, never, unwatched
from huvren.core.reduction.choosers.channel_depth import snap
from huvren.core.reduction.histogram import LINEAR_OF_BYTE
from huvren.core.reduction.tuning.equations import Equations, solve
from huvren.core.reduction.tuning.grid import onto_grid
from huvren.core.reduction.tuning.mixing import mixing_error, pick_greedily, wants_of
from huvren.core.reduction.tuning.sample import Sample, light_to_bytes
from huvren.core.reduction.tuning.settling import FULL, SKETCH, rated, settle_for
from huvren.core.reduction.tuning.task import Task, Trial, distinct, look, sample_of

ALONE = 5
"""Rounds where there is one beginning only."""
GRAINS = (0.03, 0.06, 0.1, 0.18)
PLACES = 300
MOST_PICKED = 48
"""Free colors beyond which the chooser's own are the only beginning."""
STRIDE = 2.0
"""How much longer than the equations say a step is."""
MOST_MENDED = 3


def _next(task: Task, equations: Equations, rgb: Bytes, stride: float) -> Bytes:
    solved = solve(equations, rgb, task.fixed)
    if task.depth is not None:
        return distinct(task, onto_grid(equations, solved, rgb, task.fixed, task.depth))
    now = LINEAR_OF_BYTE[rgb]
    moved = light_to_bytes(now + stride * (solved - now))
    moved[: task.fixed] = rgb[: task.fixed]
    return distinct(task, moved)


def alternate(task: Task, sample: Sample, rgb: Bytes, rounds: int, first: Equations | None = None) -> Trial:
    """So many rounds from (k, 3) colors; the best of them, the beginning among them.

    Parameters
    ----------
    task : Task
        What is tuned: frames, recipe and the colors begun with.
    sample : Sample
        Pixels that are looked at.
    rgb : Bytes
        (k, 3) uint8 sRGB.
    rounds : int
        How many.
    first : Equations | None
        What the task's own colors look like there, where that is known.

    Returns
    -------
    Trial
        Palette and error.
    """
    first = first or look(task, sample, task.rgb)
    best = Trial(float("inf"), rgb)
    expected: tuple[float, ...] = ()
    for count in range(rounds + 1):
        equations = look(task, sample, rgb, expected, solves=count < rounds)
        expected = equations.errors
        rating = rated(task, equations, first)
        if rating < best.error:
            best = Trial(rating, rgb)
        if count == rounds:
            break
        after = _next(task, equations, rgb, STRIDE)
        if np.array_equal(after, rgb):
            after = _next(task, equations, rgb, 1.0)
            if np.array_equal(after, rgb):
                break
        rgb = after
    return best


def spanning(task: Task, sample: Sample, grains: Sequence[float] = GRAINS) -> list[Bytes]:
    """Palettes that are picked from the sample's own light by what they can mix, one for each grain.

    Parameters
    ----------
    task : Task
        What is tuned: frames, recipe and the colors begun with.
    sample : Sample
        Pixels that are looked at.
    grains : Sequence[float]
        One for each palette.

    Returns
    -------
    list[Bytes]
        (k, 3) uint8 each.
    """
    free = len(task.rgb) - task.fixed
    if free > MOST_PICKED:
        return []
    wants = wants_of(sample, PLACES)
    if len(wants.light) < free:
        return []
    candidates = np.concatenate([LINEAR_OF_BYTE[task.rgb[: task.fixed]].astype(np.float64), wants.light])
    found = []
    for grain in grains:
        picked = light_to_bytes(candidates[pick_greedily(wants, candidates, task.fixed, free, grain)])
        if task.depth is not None:
            picked = snap(picked, task.depth)
        picked[: task.fixed] = task.rgb[: task.fixed]
        found.append(distinct(task, picked))
    return found


def _with_held(task: Task, sample: Sample, rgb: Bytes, place: int) -> Bytes:
    """A palette with the color of one place of the sample in it, and without the one that is missed least for it."""
    held = light_to_bytes(sample.views[0].light[place : place + 1])
    if task.depth is not None:
        held = snap(held, task.depth)
    wants = wants_of(sample, PLACES)
    rest = [
        np.concatenate([rgb[: task.fixed], held, np.delete(rgb[task.fixed :], gone, axis=0)]) for gone in range(len(rgb) - task.fixed)
    ]
    errors = [mixing_error(wants, LINEAR_OF_BYTE[each].astype(np.float64)) for each in rest]
    return rest[int(np.argmin(errors))]


def _mend(task: Task, sample: Sample, best: Trial, rounds: int, first: Equations) -> Trial:
    """The best of what comes where the color is held of that part which got worse most, as long as one is worse than it began."""
    for _ in range(MOST_MENDED if len(task.rgb) - task.fixed > 1 else 0):
        now = look(task, sample, best.rgb, first.errors)
        if now.worst <= first.worst:
            break
        cell = int((now.cells - np.minimum(first.cells, first.worst)).argmax())
        inside = np.flatnonzero(sample.cells == cell)
        place = int(inside[(now.gaps - first.gaps)[inside].argmax()])
        rgb = _with_held(task, sample, best.rgb, place)
        held = replace(task, rgb=rgb, fixed=task.fixed + 1)
        if len(np.unique(rgb, axis=0)) < len(rgb):
            break
        after = alternate(held, sample, rgb, rounds, first)
        let_go = alternate(task, sample, after.rgb, 1, first)
        after = let_go if let_go.error < after.error else after
        if after.error >= best.error:
            break
        best = after
    return best


def tune(task: Task, watch: Watch = unwatched, hurry: Hurry = never) -> Bytes:
    """(k, 3) uint8 colors that look nearer from afar than those of the task, or these; the first `fixed` are the same.

    The order of the others says nothing. Deterministic, but where it is hurried on. Raises whatever the watch raises.

    Parameters
    ----------
    task : Task
        What is tuned: frames, recipe and the colors begun with.
    watch : Watch
        Told of every step; what it raises is passed on.
    hurry : Hurry
        Where it says so at the beginning little is tried; where it says so later the best of what has been tried is taken.

    Returns
    -------
    Bytes
        (k, 3) uint8.
    """
    if len(task.rgb) == task.fixed or len(task.rgb) < 2 or task.histogram.distinct <= len(task.rgb):
        return task.rgb
    effort = SKETCH if hurry() else FULL
    stages = effort.stages
    samples = {enough: sample_of(task, enough) for enough, _, _ in stages}
    firsts = {enough: look(task, sample, task.rgb) for enough, sample in samples.items()}
    largest = stages[-1][0]
    # What is needed is read off the largest sample, what works is tried on the smallest.
    palettes = [task.rgb, *spanning(task, samples[largest], GRAINS[: stages[0][1] - 1])]
    if len(palettes) == 1:
        return settle_for(task, [alternate(task, samples[largest], task.rgb, ALONE, firsts[largest]).rgb], effort)
    trials: list[Trial] = []
    gone_on: list[Trial] = []
    for stage, (enough, many, rounds) in enumerate(stages):
        if stage:
            gone_on = sorted(trials, key=lambda trial: trial.error)
            palettes = [trial.rgb for trial in gone_on[:many]]
        before, trials = trials, []
        for palette in palettes:
            if effort is FULL and (tried := trials or before) and hurry():
                return settle_for(task, [min(tried, key=lambda trial: trial.error).rgb], SKETCH)
            watch("tuning the colors to the dither", (stage + len(trials) / len(palettes)) / len(stages))
            trials.append(alternate(task, samples[enough], palette, rounds, firsts[enough]))
    best = _mend(task, samples[largest], min(trials, key=lambda trial: trial.error), stages[-1][2], firsts[largest])
    others = [trial.rgb for trial in gone_on if not np.array_equal(trial.rgb, best.rgb)] if effort is FULL else []
    return settle_for(task, [best.rgb, *others[:1]], effort)
