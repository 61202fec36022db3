"""The compiled part of `clusters.py`; imported where it is used, so that nothing else waits for the compiler."""

import numpy as np

from huvren.core.compiled import njit


@njit(cache=True)
def _nearest_after(gaps, alive, row):
    """The nearest living cluster behind `row`, and how far it is."""
    best = np.float32(np.inf)
    place = -1
    for other in range(row + 1, gaps.shape[0]):
        if alive[other] and gaps[row, other] < best:
            best = gaps[row, other]
            place = other
    return place, best


@njit(cache=True)
def link(gaps, pairs, heights):
    """Join until nothing finite is left; returns the number of joins. `gaps` is used up."""
    count = gaps.shape[0]
    alive = np.ones(count, dtype=np.bool_)
    near = np.empty(count, dtype=np.int64)
    far = np.empty(count, dtype=np.float32)
    for row in range(count):
        near[row], far[row] = _nearest_after(gaps, alive, row)
    joins = 0
    while True:
        left = -1
        for row in range(count):
            if alive[row] and near[row] >= 0 and (left < 0 or far[row] < far[left]):
                left = row
        if left < 0:
            return joins
        right = near[left]
        pairs[joins, 0], pairs[joins, 1] = left, right
        heights[joins] = far[left]
        joins += 1
        alive[right] = False
        for other in range(count):
            if alive[other] and other != left:
                farther = max(gaps[left, other], gaps[right, other])
                gaps[left, other] = farther
                gaps[other, left] = farther
        for row in range(left + 1):
            if alive[row] and (row == left or near[row] == left or near[row] == right):
                near[row], far[row] = _nearest_after(gaps, alive, row)
        for row in range(left + 1, right):
            if alive[row] and near[row] == right:
                near[row], far[row] = _nearest_after(gaps, alive, row)
