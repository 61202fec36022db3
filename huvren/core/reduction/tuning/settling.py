"""Which colors are taken in the end: the best of those that are worse from no distance, and much worse in no part.

They are compared as the recipe really lays them out, on other blocks than those they were found by, and where that is a close thing
on the whole picture, or a million pixels of it. Where what was found may not be taken, colors on the way to it are looked at.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.optimize import linear_sum_assignment

from huvren.core.color.arrays import Bytes
from huvren.core.reduction.afar import gap_when_halved
from huvren.core.reduction.choosers.channel_depth import snap
from huvren.core.reduction.grain import Term
from huvren.core.reduction.histogram import LINEAR_OF_BYTE, oklab_of_rgb
from huvren.core.reduction.tuning.equations import WORST_SHARE, Equations, gather
from huvren.core.reduction.tuning.sample import Sample, light_to_bytes, take_sample
from huvren.core.reduction.tuning.task import Task, distinct, sample_of


@dataclass(frozen=True)
class Effort:
    """stages : pixels of the sample, how many palettes go on, and rounds of each
    looked_at : pixels, others than those, on which what was found is compared with the beginning
    is_sure : whether a close thing is decided on the whole picture
    """

    stages: tuple[tuple[int, int, int], ...]
    looked_at: int
    is_sure: bool


FULL = Effort(((20_000, 5, 3), (64_000, 2, 3), (64_000, 1, 3)), 250_000, True)
SKETCH = Effort(((6_000, 2, 1), (20_000, 1, 3)), 18_000, False)
"""To show what a setting does, and while others wait."""
OTHERS = 1_000
WAYS = (0.8, 0.6, 0.4, 0.2)
"""How far on the way to the found colors others are looked at, where these do not do."""
MOST_WORSE = 1.1
COARSEST, SURELY = 1.55, 0.99
MOST_HALVED = 1.04
"""How much worse the worst part, the pixels by themselves, an error from nearer by, and a copy of half the size may be."""
PENALTY = 2.0
"""How much of a score is added for what goes beyond that, while colors are looked for."""
MOST_LOOKED_AT = 1_000_000
CLEAR_GAIN = 0.9
"""Errors of two palettes on a sample whose ratio is nearer to one than this are compared on the whole."""


def _most(task: Task, term: Term) -> float:
    """How much worse than it began an error may be; nearer ones are measured at fewer places, and get a margin for that."""
    if term.sigma == 0:
        return COARSEST
    return SURELY if term.sigma < task.terms[0].sigma else 1.0


def _exceeds(task: Task, found: Sequence[float], first: Sequence[float]) -> float:
    """How far an error at one of the distances is beyond what is allowed, 0 where none is; as a share of it."""
    limits = [before * _most(task, term) for term, before in zip(task.terms, first, strict=True)]
    return max(error / max(limit, 1e-6) - 1 for error, limit in zip(found, limits, strict=True))


def rated(task: Task, now: Equations, first: Equations) -> float:
    """The score of a painting, and a penalty where it is one that may not be taken.

    Parameters
    ----------
    task : Task
        What is tuned: frames, recipe and the colors begun with.
    now : Equations
        Of the painting.
    first : Equations
        Of the painting with the task's own colors, on the same sample.

    Returns
    -------
    float
        ΔEOK, not ×100, and more.
    """
    beyond = max(_exceeds(task, now.errors, first.errors), now.worst / max(MOST_WORSE * first.worst, 1e-6) - 1, 0.0)
    return now.score * (1 + PENALTY * beyond)


@dataclass(frozen=True)
class Verdict:
    """How a painting looks, all in ΔEOK (not ×100).

    score : what is made small; errors : at each of the task's distances; worst : of the cell that differs most
    halved : as a viewer shows it that averages coded values when it shrinks a picture to half
    """

    score: float
    errors: tuple[float, ...]
    worst: float
    halved: float


def verdict(task: Task, samples: Sequence[tuple[Sample, float]], rgb: Bytes) -> Verdict:
    """What the recipe would really lay out with a palette, and how it looks.

    Parameters
    ----------
    task : Task
        What is tuned: frames, recipe and the colors begun with.
    samples : Sequence[tuple[Sample, float]]
        Pixels that are looked at, and how much they count.
    rgb : Bytes
        (k, 3) uint8 sRGB.

    Returns
    -------
    Verdict
        Over all samples together.
    """
    made, halves = [], []
    for sample, weight in samples:
        indices = task.paint(sample.rgba, sample.histogram, rgb, True)
        made.append((gather(sample, indices, rgb, solves=False), weight))
        halves.append(gap_when_halved(sample.rgba, indices, rgb, sample.histogram.alpha_threshold) * weight)
    total = sum(weight for _, weight in made)
    errors = tuple(sum(part.errors[at] * weight for part, weight in made) / total for at in range(len(task.terms)))
    worst = max(part.worst for part, _ in made)
    score = sum(part.error * weight for part, weight in made) / total + WORST_SHARE * worst
    return Verdict(score, errors, worst, sum(halves) / total)


def is_better(task: Task, found: Verdict, first: Verdict) -> bool:
    """Whether a painting looks nearer than the first one, and nowhere and from no distance much worse.

    Where it is tuned to one distance alone, only that and the worst part count.

    Parameters
    ----------
    task : Task
        What is tuned: frames, recipe and the colors begun with.
    found : Verdict
        Of the one painting.
    first : Verdict
        Of the other, on the same pixels.

    Returns
    -------
    bool
        True where it may be taken.
    """
    if _exceeds(task, found.errors, first.errors) > 0:
        return False
    if len(task.terms) > 1 and found.halved > MOST_HALVED * first.halved:
        return False
    return found.score < first.score and found.worst <= MOST_WORSE * first.worst


def _between(task: Task, found: Bytes, share: float) -> Bytes:
    """A palette so far on the way from the task's colors to the found ones, each to the one that it fits best."""
    first, last = (LINEAR_OF_BYTE[rgb[task.fixed :]].astype(np.float64) for rgb in (task.rgb, found))
    places = [oklab_of_rgb(rgb[task.fixed :]) for rgb in (task.rgb, found)]
    rows, columns = linear_sum_assignment(np.linalg.norm(places[0][:, None] - places[1][None], axis=-1))
    mixed = light_to_bytes(first[rows] + share * (last[columns] - first[rows]))
    if task.depth is not None:
        mixed = snap(mixed, task.depth)
    return distinct(task, np.concatenate([task.rgb[: task.fixed], mixed]))


def _whole(task: Task) -> list[tuple[Sample, float]]:
    """All pixels of each frame, or of large ones enough of them, and what each counts."""
    found = []
    for frame in task.frames:
        rows = np.searchsorted(task.histogram.colors, frame.histogram.colors)
        if frame.histogram.distinct == 0:
            continue
        sample = take_sample([frame], frame.histogram, task.factors[rows], task.terms, min(frame.rgba[..., 0].size, MOST_LOOKED_AT))
        found.append((sample, float(sample.views[0].weights.sum())))
    return found


def settle_for(task: Task, found: Sequence[Bytes], effort: Effort = FULL, ways: Sequence[float] = WAYS) -> Bytes:
    """The best of what was found, or of what lies on the way to the first, unless the colors of the task are better.

    They are compared on other blocks than those they were found by.

    Parameters
    ----------
    task : Task
        What is tuned: frames, recipe and the colors begun with.
    found : Sequence[Bytes]
        (k, 3) uint8 colors each, the likeliest first.
    effort : Effort
        How closely they are compared.
    ways : Sequence[float]
        How far on the way to the first of them others are looked at; none where colors may not be mixed.

    Returns
    -------
    Bytes
        (k, 3) uint8.
    """
    samples = [(sample_of(task, effort.looked_at, OTHERS), 1.0)]
    first = verdict(task, samples, task.rgb)
    chosen = _first_better(task, samples, found, first, ways)
    if not effort.is_sure or samples[0][0].is_whole or chosen is None:
        return task.rgb if chosen is None else chosen[0]
    if chosen[1].score < CLEAR_GAIN * first.score and chosen[1].worst < CLEAR_GAIN * first.worst:
        return chosen[0]
    samples = _whole(task)
    chosen = _first_better(task, samples, [chosen[0]], verdict(task, samples, task.rgb), ways)
    return task.rgb if chosen is None else chosen[0]


def _first_better(
    task: Task, samples: Sequence[tuple[Sample, float]], found: Sequence[Bytes], first: Verdict, ways: Sequence[float]
) -> tuple[Bytes, Verdict] | None:
    """The best of some palettes that are better than the first painting; else the first on the way to the likeliest, if any."""
    others = [rgb for rgb in found if not np.array_equal(rgb, task.rgb)]
    judged = [(rgb, verdict(task, samples, rgb)) for rgb in others]
    better = [one for one in judged if is_better(task, one[1], first)]
    if better:
        return min(better, key=lambda one: one[1].score)
    for share in ways if others else ():
        between = _between(task, others[0], share)
        judgement = verdict(task, samples, between)
        if is_better(task, judgement, first):
            return between, judgement
    return None
