"""A short path through points: the order in which neighbors differ least.

Of up to 12 points the shortest there is. Of more, nearest-neighbor tours from several starts, each improved by turning pieces round
(2-opt, Croes 1958) and by moving short pieces elsewhere (Or 1976) until neither shortens it; the best of them is searched on from by
exchanging pieces.
"""

import numpy as np

from huvren.core.color.arrays import Floats, Integers
from huvren.core.errors import BadInput

MOST_POINTS = 4096
STARTS = 12
FEW = 12
"""Points up to which the shortest path is found exactly: its memory and time double with each."""
MANY = 512
"""Points above which one tour is improved and not each, and none is searched on from."""
ROUNDS = 1600
"""Exchanges that are tried."""


def shortest_path(points: Floats, first: int | None = None, last: int | None = None) -> list[int]:
    """An order of (n, 3) points along a short open path, with its ends fixed where they are given.

    Parameters
    ----------
    points : Floats
        (n, 3).
    first : int | None
        The point to begin with, or None.
    last : int | None
        The point to end with, or None.

    Returns
    -------
    list[int]
        An order of 0..n−1.

    Raises
    ------
    BadInput
        Above 4,096 points, for which the search would take too long.
    """
    count = len(points)
    if count > MOST_POINTS:
        raise BadInput(f"A smooth path is looked for among at most {MOST_POINTS:,} swatches; select fewer than {count:,}.")
    if count < 2:
        return list(range(count))
    from huvren.core.palette.path_kernels import greedy, improve, path_length, search, shortest_of_all

    gaps = np.linalg.norm(points[:, None] - points[None], axis=-1)
    if count <= FEW and (first is None or first != last):
        order = shortest_of_all(gaps, -1 if first is None else first, -1 if last is None else last)
        return _darker_first(points, order, first, last)
    lightness = np.argsort(points[:, 0], kind="stable")
    ends = [int(lightness[place]) for place in np.linspace(0, count - 1, min(STARTS, count)).round().astype(int)]
    starts = [first] if first is not None else [start for start in dict.fromkeys(ends) if start != last]
    tours = [greedy(gaps, start, -1 if last is None else last) for start in starts]
    low, high = int(first is not None), count - int(last is not None)
    if count > MANY:
        tours = [min(tours, key=lambda tour: float(path_length(gaps, tour)))]
    for tour in tours:
        improve(gaps, tour, low, high)
    order = min(tours, key=lambda tour: float(path_length(gaps, tour)))
    if high - low > 3 and count <= MANY:
        search(gaps, order, low, high, ROUNDS)
    return _darker_first(points, order, first, last)


def _darker_first(points: Floats, order: Integers, first: int | None, last: int | None) -> list[int]:
    """The end that is darker comes first where neither is given."""
    if first is None and last is None and points[order[0], 0] > points[order[-1], 0]:
        order = order[::-1]
    return [int(place) for place in order]
