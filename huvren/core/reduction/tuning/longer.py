"""Searching longer for colors tuned to a dither: more beginnings, more rounds, and single colors put elsewhere.

It begins with what the usual search found and ends with that, or with something better.
"""

from dataclasses import replace

import numpy as np

from huvren.core.color.arrays import Bytes, Floats
from huvren.core.progress import Watch, part_of, unwatched
from huvren.core.reduction.choosers.channel_depth import snap
from huvren.core.reduction.histogram import LINEAR_OF_BYTE
from huvren.core.reduction.tuning.mixing import Wants, pick_greedily, wants_of
from huvren.core.reduction.tuning.sample import Sample, light_to_bytes
from huvren.core.reduction.tuning.settling import rated, settle_for
from huvren.core.reduction.tuning.task import Task, Trial, distinct, look, sample_of
from huvren.core.reduction.tuning.tune import alternate, spanning, tune

GRAINS = (0.02, 0.03, 0.05, 0.07, 0.1, 0.18, 0.25)
SMALL, LARGE = 64_000, 250_000
BEGUN, GO_ON = 4, 3
SETTLING, MOVED, LAST = 10, 3, 16
PLACES = 500
MOST_MOVES, MOST_MOVED = 96, 3_000
"""Moves at most, fewer of them the more colors are laid out each time."""
STEPS, MOST_STEPS, MOST_STEPPED = (24, 12, 6, 3, 1), 600, 1_000_000
"""Of a byte; how many are tried before the last turn, and fewer the more pixels are laid out each time."""


def _elsewhere(task: Task, wants: Wants, rgb: Bytes, place: int, grain: float) -> Bytes:
    """One color of `rgb` where the model needs one most, once it is taken away."""
    rest: Floats = LINEAR_OF_BYTE[np.delete(rgb, place, axis=0)].astype(np.float64)
    candidates = np.concatenate([rest, wants.light])
    into = pick_greedily(wants, candidates, len(rest), 1, grain)[-1]
    moved = rgb.copy()
    moved[place] = light_to_bytes(candidates[into])
    if task.depth is not None:
        moved[place] = snap(moved[place : place + 1], task.depth)[0]
    return distinct(task, moved)


def _with_moves(task: Task, sample: Sample, best: Trial, watch: Watch) -> Trial:
    """Each color in turn put elsewhere, and all settled anew, until a whole turn brings nothing."""
    wants = wants_of(sample, PLACES)
    idle, tried, free = 0, 0, len(best.rgb) - task.fixed
    most = min(MOST_MOVES, MOST_MOVED // len(best.rgb))
    while idle < free and tried < most:
        watch("putting single colors elsewhere", tried / most)
        place = task.fixed + tried % free
        moved = _elsewhere(task, wants, best.rgb, place, GRAINS[tried % len(GRAINS)])
        trial = alternate(task, sample, moved, MOVED)
        tried, idle = tried + 1, idle + 1
        if trial.error < 0.998 * best.error:
            best, idle = trial, 0
    return best


def _step_by_step(task: Task, sample: Sample, best: Trial, watch: Watch) -> Trial:
    """Each color in turn a little lighter or darker, alone or in one channel, as long as that looks nearer.

    Only where the sample is the whole picture: elsewhere so small a gain would be the sample's own.
    """
    first = look(task, sample, task.rgb)
    ways = np.concatenate([np.ones((1, 3), dtype=np.int64), np.eye(3, dtype=np.int64)])
    tried, most = 0, min(MOST_STEPS, MOST_STEPPED // sample.rgba[..., 0].size)
    for step in STEPS:
        before = None
        while before is not best and tried < most:
            before = best
            for place in range(task.fixed, len(best.rgb)):
                watch("moving single colors step by step", min(tried / max(most, 1), 1.0))
                for way in (*ways, *-ways):
                    rgb = best.rgb.copy()
                    rgb[place] = np.clip(rgb[place] + step * way, 0, 255)
                    if task.depth is not None:
                        rgb[place] = snap(rgb[place : place + 1], task.depth)[0]
                    if len(np.unique(rgb, axis=0)) < len(rgb) or np.array_equal(rgb, best.rgb):
                        continue
                    tried += 1
                    error = rated(task, look(task, sample, rgb), first)
                    if error < best.error:
                        best = Trial(error, rgb)
    return best


def tune_longer(task: Task, watch: Watch = unwatched) -> Bytes:
    """(k, 3) uint8 colors, never worse than those of `tune`.

    Raises whatever the watch raises.

    Parameters
    ----------
    task : Task
        What is tuned: frames, recipe and the colors begun with.
    watch : Watch
        Told of every step; what it raises is passed on.

    Returns
    -------
    Bytes
        (k, 3) uint8.
    """
    usual = tune(task, part_of(watch, 0.0, 0.05))
    if usual is task.rgb and (len(task.rgb) == task.fixed or task.histogram.distinct <= len(task.rgb)):
        return usual
    sample, large = sample_of(task, SMALL), sample_of(task, LARGE)
    palettes = [usual, task.rgb, *spanning(task, sample, GRAINS)]
    trials: list[Trial] = []
    for palette in palettes:
        watch("trying other beginnings", 0.05 + 0.25 * len(trials) / len(palettes))
        trials.append(alternate(task, sample, palette, BEGUN))
    trials = sorted(trials, key=lambda trial: trial.error)[:GO_ON]
    for place, trial in enumerate(trials):
        watch("settling the best of them", 0.3 + 0.1 * place / GO_ON)
        trials[place] = alternate(task, sample, trial.rgb, SETTLING)
    best = _with_moves(task, sample, min(trials, key=lambda trial: trial.error), part_of(watch, 0.4, 0.85))
    watch("settling on a larger part", 0.85)
    final = alternate(task, large, best.rgb, LAST)
    if large.is_whole:
        begun = (final, *trials)
        for place, trial in enumerate(begun):
            stepped = _step_by_step(task, large, trial, part_of(watch, *(0.88 + 0.07 * (place + on) / len(begun) for on in (0, 1))))
            final = min(final, stepped, key=lambda trial: trial.error)
    watch("comparing with the usual search", 0.95)
    return settle_for(replace(task, rgb=usual), [final.rgb])
