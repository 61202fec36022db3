"""Tuning: lay a sample out, solve for the colors that mix best, lay it out again.

Several beginnings are tried on a small sample: the colors that the chooser found, and colors that span the picture, picked
by what they can mix, each time with another regard for grain. Those that do best go on to a larger sample; of all rounds
the best is kept. Steps are longer than the equations say, since the dither answers to a wider palette by using it.

Never worse than it began: what was found is compared with it on other blocks than those it was found by, and where that is
a close thing, on the whole.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from scipy.optimize import linear_sum_assignment

from huvren.core.color.arrays import Bytes, Floats
from huvren.core.progress import Hurry, Watch, never, unwatched
from huvren.core.reduction.afar import gap_when_halved
from huvren.core.reduction.choosers.channel_depth import snap
from huvren.core.reduction.grain import Term
from huvren.core.reduction.histogram import LINEAR_OF_BYTE, Histogram, oklab_of_rgb
from huvren.core.reduction.tuning.equations import WORST_SHARE, Equations, gather, solve
from huvren.core.reduction.tuning.grid import onto_grid
from huvren.core.reduction.tuning.mixing import mixing_error, pick_greedily, wants_of
from huvren.core.reduction.tuning.sample import Framed, Sample, light_to_bytes, take_sample

Paint = Callable[[Bytes, Histogram, Bytes, bool], Bytes]
"""(h, w, 4) uint8, its histogram, (k, 3) uint8 colors → (h, w) uint8 indices, laid out as the recipe says, for a verdict; else
it may be so almost, and quickly."""


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
ALONE = 5
"""Rounds where there is one beginning only."""
GRAINS = (0.03, 0.06, 0.1, 0.18)
PLACES = 300
MOST_PICKED = 48
"""Free colors beyond which the chooser's own are the only beginning."""
STRIDE = 2.0
"""How much longer than the equations say a step is."""
OTHERS = 1_000
MOST_MENDED = 3
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


@dataclass(frozen=True)
class Task:
    """frames : what is painted; histogram : of all frames together; factors : (d,) how much each of its colors counts
    rgb : (k, 3) uint8, the colors to begin with, of which the first `fixed` stay
    paint : the way a picture is laid out; terms : the distances it is seen from; tile : (rows, columns) of a limit, or (1, 1)
    depth : levels of each channel that free colors keep to, or None
    """

    frames: Sequence[Framed]
    histogram: Histogram
    factors: Floats
    rgb: Bytes
    fixed: int
    """How many of the first do not move."""
    paint: Paint
    terms: Sequence[Term]
    """The recipe's own first."""
    tile: tuple[int, int] = (1, 1)
    depth: tuple[int, int, int] | None = None


@dataclass(frozen=True)
class Trial:
    """A palette and its error on a sample, a mean ΔEOK (not ×100)."""

    error: float
    """ΔEOK from afar."""
    rgb: Bytes
    """(k, 3) uint8."""


def sample_of(task: Task, enough: int, begin: int = 0) -> Sample:
    """About `enough` pixels of the task's frames; with another `begin`, others."""
    return take_sample(task.frames, task.histogram, task.factors, task.terms, enough, task.tile, begin)


def look(task: Task, sample: Sample, rgb: Bytes, expected: Sequence[float] = (), solves: bool = False) -> Equations:
    """Lay the sample out, as suits the search, and see what it is like from afar.

    Parameters
    ----------
    task : Task
        What is tuned: frames, recipe and the colors begun with.
    sample : Sample
        Pixels that are looked at.
    rgb : Bytes
        (k, 3) uint8 sRGB.
    expected : Sequence[float]
        The error that is expected at each distance, ΔEOK, which says what is small.
    solves : bool
        Whether the equations are to be solved.

    Returns
    -------
    Equations
        The equations of what was laid out.
    """
    return gather(sample, task.paint(sample.rgba, sample.histogram, rgb, False), rgb, expected, solves)


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


def distinct(task: Task, rgb: Bytes) -> Bytes:
    """(k, 3) colors in which none stands twice: a free one that is there already gives way to one of those begun with that is not.

    There is always one, as those are all different.

    Parameters
    ----------
    task : Task
        What is tuned: frames, recipe and the colors begun with.
    rgb : Bytes
        (k, 3) uint8 sRGB.

    Returns
    -------
    Bytes
        (k, 3) uint8.
    """
    rows = [tuple(row) for row in rgb.tolist()]
    seen = set(rows)
    if len(seen) == len(rows):
        return rgb
    unused = iter([row for row in map(tuple, task.rgb[task.fixed :].tolist()) if row not in seen])
    seen = set(rows[: task.fixed])
    for place in range(task.fixed, len(rows)):
        if rows[place] in seen:
            rows[place] = next(unused)
        seen.add(rows[place])
    return np.array(rows, dtype=np.uint8)


def _next(task: Task, equations: Equations, rgb: Bytes, stride: float) -> Bytes:
    solved = solve(equations, rgb, task.fixed)
    if task.depth is not None:
        return distinct(task, onto_grid(equations, solved, rgb, task.fixed, task.depth))
    now = LINEAR_OF_BYTE[rgb]
    moved = light_to_bytes(now + stride * (solved - now))
    moved[: task.fixed] = rgb[: task.fixed]
    return distinct(task, moved)


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


def _between(task: Task, found: Bytes, share: float) -> Bytes:
    """A palette so far on the way from the task's colors to the found ones, each to the one that it fits best."""
    first, last = (LINEAR_OF_BYTE[rgb[task.fixed :]].astype(np.float64) for rgb in (task.rgb, found))
    places = [oklab_of_rgb(rgb[task.fixed :]) for rgb in (task.rgb, found)]
    rows, columns = linear_sum_assignment(np.linalg.norm(places[0][:, None] - places[1][None], axis=-1))
    mixed = light_to_bytes(first[rows] + share * (last[columns] - first[rows]))
    if task.depth is not None:
        mixed = snap(mixed, task.depth)
    return distinct(task, np.concatenate([task.rgb[: task.fixed], mixed]))


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
