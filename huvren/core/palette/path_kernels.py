"""The compiled part of `paths.py`; imported where it is used, so that nothing else waits for the compiler."""

import numpy as np

from huvren.core.compiled import njit

LONGEST_PIECE = 3
NEAR, AROUND, FAR = 30, 10, 6
"""Places within which pieces are exchanged by chance, and beside them those improved then; turns until they may lie farther."""


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


@njit(cache=True)
def shortest_of_all(gaps, first, last):
    """The shortest path through all points, its ends where they are not −1: by the shortest ways through each set of points that
    end in each of them (Held and Karp 1962)."""
    count = gaps.shape[0]
    every = (1 << count) - 1
    best = np.full((1 << count, count), np.inf)
    before = np.full((1 << count, count), -1, dtype=np.int64)
    for start in range(count):
        if first < 0 or start == first:
            best[1 << start, start] = 0.0
    for passed in range(1, every + 1):
        for here in range(count):
            length = best[passed, here]
            if length == np.inf:
                continue
            for other in range(count):
                if passed >> other & 1:
                    continue
                longer = passed | 1 << other
                if length + gaps[here, other] < best[longer, other]:
                    best[longer, other] = length + gaps[here, other]
                    before[longer, other] = here
    here = last
    if here < 0:
        here = 0
        for other in range(count):
            if best[every, other] < best[every, here]:
                here = other
    order = np.empty(count, dtype=np.int64)
    passed = every
    for place in range(count - 1, -1, -1):
        order[place] = here
        here, passed = before[passed, here], passed & ~(1 << here)
    return order


@njit(cache=True)
def search(gaps, order, low, high, rounds):
    """Shorten a path in place beyond what `improve` finds: two neighboring pieces change places by chance, what that makes is
    improved, and it is kept where it is no longer (iterated local search; Martin, Otto and Felten 1991). The same each time."""
    length = path_length(gaps, order)
    chance = np.uint64(88172645463325252)
    room = high - low
    for turn in range(rounds):
        cuts = np.empty(3, dtype=np.int64)
        for cut in range(3):
            chance ^= chance << np.uint64(13)
            chance ^= chance >> np.uint64(7)
            chance ^= chance << np.uint64(17)
            cuts[cut] = np.int64(chance >> np.uint64(33))
        # Pieces near each other, as a rule: far ones are rarely put right again.
        reach = min(room, NEAR if turn % FAR else 3 * NEAR)
        begin = low + cuts[0] % (room - reach + 1)
        one, two, three = np.sort(
            np.array([begin + cuts[1] % (reach + 1), begin + cuts[2] % (reach + 1), begin + cuts[0] // 7 % (reach + 1)])
        )
        if one == two or two == three:
            continue
        other = order.copy()
        other[one : one + three - two] = order[two:three]
        other[one + three - two : three] = order[one:two]
        improve(gaps, other, max(low, one - AROUND), min(high, three + AROUND))
        now = path_length(gaps, other)
        if now <= length + 1e-12:
            length = now
            order[:] = other
    improve(gaps, order, low, high)
