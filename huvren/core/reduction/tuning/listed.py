"""The best K of a list for a dither: those that mix best, not those that are nearest.

Every choice is laid out where they are few. Where they are many, some are picked by the model of `mixing.py`, laid out, and
the best of them is bettered one color at a time.
"""

import itertools
import math
from collections.abc import Sequence

import numpy as np

from huvren.core.color.arrays import Bytes
from huvren.core.progress import Watch, unwatched
from huvren.core.reduction.histogram import LINEAR_OF_BYTE
from huvren.core.reduction.tuning.mixing import pick_greedily, swap_by_model, wants_of
from huvren.core.reduction.tuning.sample import Sample
from huvren.core.reduction.tuning.settling import rated, settle_for
from huvren.core.reduction.tuning.task import Task, Trial, look, sample_of
from huvren.core.reduction.tuning.tune import GRAINS, PLACES

MOST_LAID_OUT = 120
"""Choices up to which every one is laid out."""
MOST_SWAPS, MOST_LONGER = 48, 600
MOST_SWAPPED = 48
"""Free colors beyond which none are swapped: by then a list's choice hardly matters, and each swap takes long."""
SMALL, LARGE = 20_000, 64_000
GO_ON = 3


def _trials(task: Task, sample: Sample, choices: Sequence[Bytes], watch: Watch, start: float, end: float) -> list[Trial]:
    found, first = [], look(task, sample, task.rgb)
    for place, rgb in enumerate(choices):
        watch("trying colors of the list", start + (end - start) * place / len(choices))
        found.append(Trial(rated(task, look(task, sample, rgb), first), rgb))
    return sorted(found, key=lambda trial: trial.error)


def _picked(task: Task, sample: Sample, listed: Bytes, free: int) -> list[Bytes]:
    """Choices by the model, one for each grain, and the first of them bettered by swaps."""
    wants = wants_of(sample, PLACES)
    kept = task.rgb[: task.fixed]
    candidates = LINEAR_OF_BYTE[np.concatenate([kept, listed])].astype(np.float64)
    few = free <= MOST_SWAPPED
    rows = [pick_greedily(wants, candidates, task.fixed, free, grain) for grain in (GRAINS if few else GRAINS[:1])]
    if few:
        rows.append(swap_by_model(wants, candidates, rows[0], task.fixed))
    return [np.concatenate([kept, listed[np.array(each[task.fixed :]) - task.fixed]]) for each in rows]


def _swapped(task: Task, sample: Sample, best: Trial, listed: Bytes, most: int, watch: Watch) -> Trial:
    """One color after the other replaced by that which the model names for its place, where the painting agrees."""
    wants = wants_of(sample, PLACES)
    first = look(task, sample, task.rgb)
    tried = 0
    improved = True
    while improved and tried < most:
        improved = False
        for place in range(task.fixed, len(best.rgb)):
            rest = np.delete(best.rgb, place, axis=0)
            others = np.array([row for row in listed if not (row == best.rgb).all(axis=1).any()], dtype=np.uint8).reshape(-1, 3)
            if len(others) == 0 or tried >= most:
                break
            colors = LINEAR_OF_BYTE[np.concatenate([rest, others])].astype(np.float64)
            into = pick_greedily(wants, colors, len(rest), 1)[-1] - len(rest)
            rgb = best.rgb.copy()
            rgb[place] = others[into]
            watch("trying colors of the list", 0.6 + 0.3 * tried / most)
            tried += 1
            error = rated(task, look(task, sample, rgb), first)
            if error < best.error:
                best, improved = Trial(error, rgb), True
    return best


def tune_of_list(task: Task, listed: Bytes, longer: bool = False, watch: Watch = unwatched) -> Bytes:
    """(k, 3) uint8: the first `fixed` of the task's colors, the others from (n, 3) `listed`; never worse than the task's own.

    Raises whatever the watch raises.

    Parameters
    ----------
    task : Task
        What is tuned: frames, recipe and the colors begun with.
    listed : Bytes
        (n, 3) uint8 sRGB that may be taken.
    longer : bool
        Look on a larger sample, and for longer.
    watch : Watch
        Told of every step; what it raises is passed on.

    Returns
    -------
    Bytes
        (k, 3) uint8.
    """
    free = len(task.rgb) - task.fixed
    taken = {tuple(row) for row in task.rgb[: task.fixed].tolist()}
    listed = np.array([row for row in np.unique(listed, axis=0).tolist() if tuple(row) not in taken], dtype=np.uint8).reshape(-1, 3)
    if free == 0 or len(listed) <= free:
        return task.rgb
    small, large = (sample_of(task, enough) for enough in ((LARGE, 4 * LARGE) if longer else (SMALL, LARGE)))
    if math.comb(len(listed), free) <= MOST_LAID_OUT:
        kept = task.rgb[: task.fixed]
        choices = [np.concatenate([kept, listed[list(rows)]]) for rows in itertools.combinations(range(len(listed)), free)]
        best = _trials(task, small, choices, watch, 0.0, 0.9)[:GO_ON]
    else:
        found = _trials(task, small, [task.rgb, *_picked(task, small, listed, free)], watch, 0.2, 0.6)
        best = found[:GO_ON]
        if free <= MOST_SWAPPED:
            best = [_swapped(task, small, found[0], listed, MOST_LONGER if longer else MOST_SWAPS, watch), *found[: GO_ON - 1]]
    final = _trials(task, large, [trial.rgb for trial in best], watch, 0.9, 1.0)
    return settle_for(task, [trial.rgb for trial in final], ways=())
