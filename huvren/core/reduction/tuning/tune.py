"""Tuning: lay a sample out, solve for the colors that mix best, lay it out again.

Several beginnings are tried on a small sample: the colors that the chooser found, and colors that span the picture, picked
by what they can mix, each time with another regard for grain. Those that do best go on to a larger sample; of all rounds
the best is kept. Steps are longer than the equations say, since the dither answers to a wider palette by using it.

Never worse than it began: what was found is compared with it on other blocks than those it was found by, and where that is
a close thing, on the whole.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from huvren.core.color.arrays import Bytes, Floats
from huvren.core.progress import Hurry, Watch, never, unwatched
from huvren.core.reduction.choosers.channel_depth import snap
from huvren.core.reduction.histogram import LINEAR_OF_BYTE, Histogram
from huvren.core.reduction.tuning.equations import Equations, gather, solve
from huvren.core.reduction.tuning.grid import onto_grid
from huvren.core.reduction.tuning.mixing import pick_greedily, wants_of
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


FULL = Effort(((20_000, 5, 3), (64_000, 2, 3), (64_000, 1, 3)), 64_000, True)
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
EXPECTED = 0.02
OTHERS = 1_000
CLEAR_GAIN = 0.9
"""Errors of two palettes on a sample whose ratio is nearer to one than this are compared on the whole."""


@dataclass(frozen=True)
class Task:
    """frames : what is painted; histogram : of all frames together; factors : (d,) how much each of its colors counts
    rgb : (k, 3) uint8, the colors to begin with, of which the first `fixed` stay
    paint : the way a picture is laid out; sigma : of the blur in pixels; tile : (rows, columns) of a limit, or (1, 1)
    depth : levels of each channel that free colors keep to, or None
    """

    frames: Sequence[Framed]
    histogram: Histogram
    factors: Floats
    rgb: Bytes
    fixed: int
    """How many of the first do not move."""
    paint: Paint
    sigma: float
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
    return take_sample(task.frames, task.histogram, task.factors, task.sigma, enough, task.tile, begin)


def look(task: Task, sample: Sample, rgb: Bytes, expected: float = EXPECTED, is_verdict: bool = False) -> Equations:
    """Lay the sample out and see what it is like from afar.

    Parameters
    ----------
    task : Task
        What is tuned: frames, recipe and the colors begun with.
    sample : Sample
        Pixels that are looked at.
    rgb : Bytes
        (k, 3) uint8 sRGB.
    expected : float
        The error that is expected, ΔEOK, which says what is small.
    is_verdict : bool
        Whether it is laid out as the result will be, not as suits the search.

    Returns
    -------
    Equations
        The equations of what was laid out.
    """
    return gather(sample, task.paint(sample.rgba, sample.histogram, rgb, is_verdict), rgb, expected)


def verdict(task: Task, sample: Sample, rgb: Bytes) -> Trial:
    """A palette with the error of what the recipe would really lay out.

    Parameters
    ----------
    task : Task
        What is tuned: frames, recipe and the colors begun with.
    sample : Sample
        Pixels that are looked at.
    rgb : Bytes
        (k, 3) uint8 sRGB.

    Returns
    -------
    Trial
        Palette and error.
    """
    return Trial(look(task, sample, rgb, is_verdict=True).error, rgb)


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


def alternate(task: Task, sample: Sample, rgb: Bytes, rounds: int) -> Trial:
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

    Returns
    -------
    Trial
        Palette and error.
    """
    best = Trial(float("inf"), rgb)
    expected = EXPECTED
    for count in range(rounds + 1):
        equations = look(task, sample, rgb, expected)
        expected = equations.error
        if equations.error < best.error:
            best = Trial(equations.error, rgb)
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


def whole_error(task: Task, rgb: Bytes) -> float:
    """The error over all pixels of all frames.

    Parameters
    ----------
    task : Task
        What is tuned: frames, recipe and the colors begun with.
    rgb : Bytes
        (k, 3) uint8 sRGB.

    Returns
    -------
    float
        ΔEOK, not ×100.
    """
    total = weight = 0.0
    for frame in task.frames:
        rows = np.searchsorted(task.histogram.colors, frame.histogram.colors)
        if frame.histogram.distinct == 0:
            continue
        sample = take_sample([frame], frame.histogram, task.factors[rows], task.sigma, frame.rgba[..., 0].size)
        total += verdict(task, sample, rgb).error * float(sample.weights.sum())
        weight += float(sample.weights.sum())
    return total / weight


def settle_for(task: Task, found: Bytes, effort: Effort = FULL) -> Bytes:
    """The colors that were found, unless those of the task are better: on a sample that was not looked at before.

    Parameters
    ----------
    task : Task
        What is tuned: frames, recipe and the colors begun with.
    found : Bytes
        (k, 3) uint8 colors.
    effort : Effort
        How closely the two are compared.

    Returns
    -------
    Bytes
        (k, 3) uint8.
    """
    sample = sample_of(task, effort.looked_at, OTHERS)
    first, last = verdict(task, sample, task.rgb).error, verdict(task, sample, found).error
    if effort.is_sure and not sample.is_whole and CLEAR_GAIN * first <= last < first / CLEAR_GAIN:
        first, last = whole_error(task, task.rgb), whole_error(task, found)
    return found if last < first else task.rgb


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
    sample = samples[stages[-1][0]]
    # What is needed is read off the largest sample, what works is tried on the smallest.
    palettes = [task.rgb, *spanning(task, sample, GRAINS[: stages[0][1] - 1])]
    if len(palettes) == 1:
        return settle_for(task, alternate(task, sample, task.rgb, ALONE).rgb, effort)
    trials: list[Trial] = []
    for stage, (enough, many, rounds) in enumerate(stages):
        if stage:
            palettes = [trial.rgb for trial in sorted(trials, key=lambda trial: trial.error)[:many]]
        before, trials = trials, []
        for palette in palettes:
            if effort is FULL and (tried := trials or before) and hurry():
                return settle_for(task, min(tried, key=lambda trial: trial.error).rgb, SKETCH)
            watch("tuning the colors to the dither", (stage + len(trials) / len(palettes)) / len(stages))
            trials.append(alternate(task, samples[enough], palette, rounds))
    return settle_for(task, min(trials, key=lambda trial: trial.error).rgb, effort)
