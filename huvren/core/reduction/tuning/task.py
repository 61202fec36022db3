"""What is tuned, and how it is looked at: frames, the way they are laid out, and the colors begun with."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from huvren.core.color.arrays import Bytes, Floats
from huvren.core.reduction.grain import Term
from huvren.core.reduction.histogram import Histogram
from huvren.core.reduction.tuning.equations import Equations, gather
from huvren.core.reduction.tuning.sample import Framed, Sample, take_sample

Paint = Callable[[Bytes, Histogram, Bytes, bool], Bytes]
"""(h, w, 4) uint8, its histogram, (k, 3) uint8 colors → (h, w) uint8 indices, laid out as the recipe says, for a verdict; else
it may be so almost, and quickly."""


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
