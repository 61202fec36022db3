"""Orders in which neighbors differ as much as may be: the least step is as large as possible, and of those the sum is."""

import numpy as np

from huvren.core.color.arrays import Floats

EXACT_UP_TO = 10
ROUNDS = 60


def worth(gaps: Floats, order: list[int]) -> tuple[float, float]:
    """The least step of an order and the sum of its steps: the greater, the better.

    Parameters
    ----------
    gaps : Floats
        (n, n) differences.
    order : list[int]
        Of 0..n−1.

    Returns
    -------
    tuple[float, float]
        The least step and the sum.
    """
    steps = gaps[order[:-1], order[1:]]
    return (float(steps.min()), float(steps.sum())) if len(steps) else (0.0, 0.0)


def farthest_order(gaps: Floats) -> tuple[list[int], bool]:
    """(n, n) differences → an order of 0..n−1, and whether it is the best there is: exact up to 10, then the best found.

    Exact by dynamic programming over sets (Held and Karp 1962): first the largest possible least step, then the largest sum among
    the orders that keep it.

    Parameters
    ----------
    gaps : Floats
        (n, n) differences.

    Returns
    -------
    tuple[list[int], bool]
        The order, and whether it is the best there is.
    """
    count = len(gaps)
    if count < 3:
        return list(range(count)), True
    if count <= EXACT_UP_TO:
        return _exact(gaps), True
    return _found(gaps), False


def _exact(gaps: Floats) -> list[int]:
    count = len(gaps)
    levels = np.unique(gaps[np.triu_indices(count, k=1)])
    low, high = 0, len(levels) - 1
    best = _longest(gaps, float(levels[0]))
    while low <= high:
        middle = (low + high) // 2
        found = _longest(gaps, float(levels[middle]))
        if found is None:
            high = middle - 1
        else:
            best, low = found, middle + 1
    return best or list(range(count))


def _longest(gaps: Floats, least: float) -> list[int] | None:
    """The path through all whose sum is largest with no step below `least`; None where there is none."""
    count = len(gaps)
    allowed = np.where(gaps >= least - 1e-12, gaps, -np.inf)
    np.fill_diagonal(allowed, -np.inf)
    full = 1 << count
    sums = np.full((full, count), -np.inf)
    before = np.full((full, count), -1, dtype=np.int16)
    for place in range(count):
        sums[1 << place, place] = 0.0
    for held in range(1, full):
        ends = sums[held]
        if not np.isfinite(ends).any():
            continue
        reached = ends[:, None] + allowed
        best, by = reached.max(axis=0), reached.argmax(axis=0)
        for place in range(count):
            if held >> place & 1 or best[place] == -np.inf:
                continue
            grown = held | 1 << place
            if best[place] > sums[grown, place]:
                sums[grown, place], before[grown, place] = best[place], by[place]
    end = int(sums[full - 1].argmax())
    if sums[full - 1, end] == -np.inf:
        return None
    order, held = [end], full - 1
    while before[held, order[-1]] >= 0:
        last = order[-1]
        order.append(int(before[held, last]))
        held ^= 1 << last
    return order[::-1]


def _found(gaps: Floats) -> list[int]:
    """Begun with the two farthest, grown by the farthest from the end, then improved by swaps while that pays."""
    count = len(gaps)
    first, second = np.unravel_index(int(np.argmax(gaps)), gaps.shape)
    order, left = [int(first), int(second)], set(range(count)) - {int(first), int(second)}
    while left:
        following = max(sorted(left), key=lambda place: gaps[order[-1], place])
        order.append(following)
        left.remove(following)
    best = worth(gaps, order)
    for _ in range(ROUNDS):
        steps = gaps[order[:-1], order[1:]]
        at = int(steps.argmin())
        tried = []
        for place in (at, at + 1):
            for other in range(count):
                if other != place:
                    swapped = order.copy()
                    swapped[place], swapped[other] = swapped[other], swapped[place]
                    tried.append(swapped)
        better = max(tried, key=lambda path: worth(gaps, path))
        if worth(gaps, better) <= best:
            break
        order, best = better, worth(gaps, better)
    return order
