"""The compiled part of `paths.py`; imported where it is used, so that nothing else waits for the compiler."""

import numpy as np

from huvren.core.compiled import njit

LONGEST_PIECE = 3


@njit(cache=True)
def greedy(gaps, first, last):
    """The nearest-neighbor tour from `first`; `last`, where it is not −1, comes at the end."""
    count = gaps.shape[0]
    order = np.empty(count, dtype=np.int64)
    seen = np.zeros(count, dtype=np.bool_)
    order[0] = first
    seen[first] = True
    room = count
    if last >= 0:
        seen[last] = True
        order[count - 1] = last
        room = count - 1
    for place in range(1, room):
        here = order[place - 1]
        best = -1
        for other in range(count):
            if not seen[other] and (best < 0 or gaps[here, other] < gaps[here, best]):
                best = other
        order[place] = best
        seen[best] = True
    return order


@njit(cache=True)
def path_length(gaps, order):
    """Σ gaps between neighbors."""
    total = 0.0
    for place in range(order.size - 1):
        total += gaps[order[place], order[place + 1]]
    return total


@njit(cache=True)
def _gap(gaps, order, left, right):
    """The gap between two places; none beyond the ends, which are open."""
    if left < 0 or right >= order.size:
        return 0.0
    return gaps[order[left], order[right]]


@njit(cache=True)
def improve(gaps, order, low, high):  # noqa: C901  (a kernel: a call for each step would cost more than the step)
    """Shorten a path in place by turning and moving pieces between the places `low` and `high` − 1."""
    better = True
    while better:
        better = False
        for start in range(low, high - 1):
            for end in range(start + 1, high):
                before = _gap(gaps, order, start - 1, start) + _gap(gaps, order, end, end + 1)
                after = 0.0
                if start > 0:
                    after += gaps[order[start - 1], order[end]]
                if end + 1 < order.size:
                    after += gaps[order[start], order[end + 1]]
                if after < before - 1e-9:
                    order[start : end + 1] = order[start : end + 1][::-1].copy()
                    better = True
        for size in range(1, LONGEST_PIECE + 1):
            for start in range(low, high - size + 1):
                end = start + size - 1
                out = _gap(gaps, order, start - 1, start) + _gap(gaps, order, end, end + 1)
                if start > 0 and end + 1 < order.size:
                    out -= gaps[order[start - 1], order[end + 1]]
                for target in range(low, high + 1):
                    # Between the places target − 1 and target.
                    if start <= target <= end + 1:
                        continue
                    into = -_gap(gaps, order, target - 1, target)
                    if target > 0:
                        into += gaps[order[target - 1], order[start]]
                    if target < order.size:
                        into += gaps[order[end], order[target]]
                    if into < out - 1e-9:
                        piece = order[start : end + 1].copy()
                        if target > end:
                            order[start : target - size] = order[end + 1 : target].copy()
                            order[target - size : target] = piece
                        else:
                            order[target + size : end + 1] = order[target:start].copy()
                            order[target : target + size] = piece
                        better = True
                        break
