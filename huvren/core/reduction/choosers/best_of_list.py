"""Best K of a list: of a display's fixed colors, the few that serve this picture."""

import itertools
import math

import numpy as np

from huvren.core.color.arrays import Bytes, Floats, Integers
from huvren.core.compiled import njit
from huvren.core.errors import BadInput
from huvren.core.reduction.choosers.chooser import CHOOSERS, Brief, Chooser
from huvren.core.reduction.histogram import oklab_of_rgb

MOST_COMBINATIONS = 30_000
MOST_POINTS = 4096
MOST_STARTS, MOST_SEARCHED = 8, 1_000_000
MOST_WORK = 2_000_000_000
"""Differences that swaps may look at: a second or so for the longest list and the most colors."""


@njit(cache=True)
def _gain_of_adding(gaps, current, weights):
    """For each listed color, the error Σ w·min(gap, current) that adding it leaves."""
    left = np.empty(gaps.shape[1])
    for color in range(gaps.shape[1]):
        total = 0.0
        for point in range(gaps.shape[0]):
            total += weights[point] * min(gaps[point, color], current[point])
        left[color] = total
    return left


def _greedy(gaps: Floats, base: Floats, weights: Floats, count: int, first: int) -> list[int]:
    """`first`, then one after the other the color that lowers the error most."""
    chosen, current = [first], np.minimum(base, gaps[:, first])
    for _ in range(count - 1):
        errors = _gain_of_adding(gaps, current, weights)
        errors[chosen] = np.inf
        chosen.append(int(errors.argmin()))
        current = np.minimum(current, gaps[:, chosen[-1]])
    return chosen


def _swap(gaps: Floats, base: Floats, weights: Floats, chosen: list[int]) -> list[int]:
    """Replace one color by another as long as that lowers the error, and `MOST_WORK` allows."""
    passes = max(1, MOST_WORK // (gaps.size * len(chosen)))
    best = float((weights * np.minimum(base, gaps[:, chosen].min(axis=1))).sum())
    improved = True
    while improved and passes:
        passes -= 1
        improved = False
        for place in range(len(chosen)):
            others = chosen[:place] + chosen[place + 1 :]
            without = np.minimum(base, gaps[:, others].min(axis=1)) if others else base
            errors = _gain_of_adding(gaps, without, weights)
            errors[others] = np.inf
            if errors.min() < best - 1e-9:
                best, chosen[place], improved = float(errors.min()), int(errors.argmin()), True
    return chosen


def _search(gaps: Floats, base: Floats, weights: Floats, count: int) -> list[int]:
    """The best of greedy + swaps from several first colors, fewer of them the longer the work."""
    starts = max(1, min(MOST_STARTS, MOST_SEARCHED // gaps.size))
    firsts = np.argsort(_gain_of_adding(gaps, base, weights), kind="stable")[:starts]
    found = [_swap(gaps, base, weights, _greedy(gaps, base, weights, count, int(first))) for first in firsts]
    return min(found, key=lambda chosen: float((weights * np.minimum(base, gaps[:, chosen].min(axis=1))).sum()))


def pick(gaps: Floats, base: Floats, weights: Floats, count: int) -> list[int]:
    """The `count` columns of (p, n) `gaps` with the least Σ w·min(gap, base): exactly for few combinations, else greedy + swaps.

    Parameters
    ----------
    gaps : Floats
        (p, n) differences of points to the colors of a list.
    base : Floats
        (p,) difference of each point to the nearest color that is there already; infinite for none.
    weights : Floats
        (p,) how much each point counts.
    count : int
        How many.

    Returns
    -------
    list[int]
        Columns.
    """
    listed = gaps.shape[1]
    if math.comb(listed, count) <= MOST_COMBINATIONS:
        best = min(
            itertools.combinations(range(listed), count),
            key=lambda columns: float((weights * np.minimum(base, gaps[:, columns].min(axis=1))).sum()),
        )
        return list(best)
    return _search(gaps, base, weights, count)


def _few(places: Floats, weights: Floats) -> tuple[Floats, Floats]:
    """At most `MOST_POINTS` points: means over an ever coarser OKLab grid."""
    cell = 0.01
    while len(places) > MOST_POINTS:
        keys: Integers = np.floor(places / cell).astype(np.int64) @ np.array([1_000_000, 1_000, 1])
        _, of = np.unique(keys, return_inverse=True)
        total = np.asarray(np.bincount(of, weights=weights), dtype=np.float64)
        places = np.stack([np.bincount(of, weights=weights * places[:, axis]) / total for axis in range(3)], axis=-1)
        weights = total
        cell *= 1.5
    return np.asarray(places, dtype=np.float64), np.asarray(weights, dtype=np.float64)


def choose(brief: Brief) -> Bytes:
    """Raises `BadInput` where the list has fewer colors than are asked for.

    Parameters
    ----------
    brief : Brief
        What is asked for: points, weights, count and what is present.

    Returns
    -------
    Bytes
        (k, 3) uint8, besides those present.

    Raises
    ------
    BadInput
        Where the list has fewer colors than are asked for.
    """
    listed = np.unique(brief.listed.reshape(-1, 3), axis=0) if len(brief.listed) else brief.listed.reshape(-1, 3)
    if len(listed) < brief.count:
        raise BadInput(f"The list has {len(listed)} colors, but {brief.count} are to be picked from it. Ask for fewer.")
    places, weights = _few(brief.points.places, brief.points.weights)
    oklab = oklab_of_rgb(listed).astype(np.float64)
    gaps = np.linalg.norm(places[:, None] - oklab[None], axis=-1)
    base = np.full(len(places), 1e3)
    for color in brief.present:
        base = np.minimum(base, np.linalg.norm(places - color, axis=1))
    return np.asarray(listed[pick(gaps, base, weights, brief.count)])


CHOOSERS.register(
    Chooser(
        "best-of-list", "the best of a list", "Of the fixed colors that a display can show, those that serve this picture.", choose,
        needs="list", tunes="in-list",
    )
)  # fmt: skip
