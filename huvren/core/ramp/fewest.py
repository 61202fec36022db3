"""The fewest places of a sampled line between which straight lines stay close to it, with values of the samples or free ones."""

from dataclasses import dataclass

import numpy as np

from huvren.core.color.arrays import Floats


def _gaps(rows: Floats, places: Floats, begin: int, end: int) -> Floats:
    """(end − begin + 1,) how far the samples from `begin` to `end` lie from the straight line between those two."""
    share = (places[begin : end + 1] - places[begin]) / (places[end] - places[begin])
    line = rows[begin] + share[:, None] * (rows[end] - rows[begin])
    gaps = np.linalg.norm(rows[begin : end + 1] - line, axis=1)
    gaps[[0, -1]] = 0
    return np.asarray(gaps)


def by_splitting(rows: Floats, places: Floats, tolerance: float, most: int, begin_with: tuple[int, ...] = ()) -> list[int]:
    """Indices of samples, both ends among them: always the worst sample becomes the next one, until all lie within `tolerance` or
    there are `most`.

    Quick; not always the fewest.

    Parameters
    ----------
    rows : Floats
        (n, c) samples.
    places : Floats
        (n,) rising.
    tolerance : float
        In the units of `rows`.
    most : int
        Indices at the most.
    begin_with : tuple[int, ...]
        Indices that are taken in any case.

    Returns
    -------
    list[int]
        Indices, rising.
    """
    kept = sorted({0, *begin_with, len(rows) - 1})
    worst = {(a, b): (int(np.argmax(gap)) + a, float(gap.max())) for a, b in zip(kept[:-1], kept[1:], strict=True)
             for gap in (_gaps(rows, places, a, b),)}  # fmt: skip
    while len(kept) < most:
        (begin, end), (place, gap) = max(worst.items(), key=lambda entry: entry[1][1])
        if gap <= tolerance:
            break
        del worst[begin, end]
        for a, b in ((begin, place), (place, end)):
            gaps = _gaps(rows, places, a, b)
            worst[a, b] = (int(np.argmax(gaps)) + a, float(gaps.max()))
        kept = sorted({*kept, place})
    return kept


ROUNDS = 60
"""Of the search for the values that come nearest at the worst sample; it ends when they are near enough."""
SLACK = 1 + 1e-9


def _hats(knots: list[int], places: Floats) -> Floats:
    """(n, k) how much of the value at each knot every sample has, on straight lines between knots."""
    at = places[knots]
    after = np.clip(np.searchsorted(at, places, side="right"), 1, len(knots) - 1)
    share = np.clip((places - at[after - 1]) / (at[after] - at[after - 1]), 0, 1)
    hats = np.zeros((len(places), len(knots)))
    every = np.arange(len(places))
    hats[every, after - 1] = 1 - share
    hats[every, after] += share
    return hats


@dataclass(frozen=True)
class _Lines:
    """knots : indices of samples; values : (k, c) there; errors : (n,) how far the samples lie from the lines between them;
    least : how far the worst sample lies at least, whatever the values."""

    knots: list[int]
    values: Floats
    errors: Floats
    least: float

    @property
    def worst(self) -> float:
        return float(self.errors.max())


def _lines(knots: list[int], rows: Floats, places: Floats, tolerance: float) -> _Lines:
    """Through the values that come nearest at the worst sample, or within tolerance; none better are looked for where none can be.

    Lawson 1961: least squares again and again, with more weight where the error is large. The weighted mean error of each round is
    no more than the worst error that any values have.
    """
    hats = _hats(knots, places)
    weights = np.full(len(rows), 1 / len(rows))
    best: tuple[float, Floats, Floats] | None = None
    least = 0.0
    for _ in range(ROUNDS):
        weighed = hats * weights[:, None]
        # A knot that no weight reaches any more keeps the value that it would have by all samples alike.
        system = hats.T @ weighed + 1e-12 * hats.T @ hats
        values = np.linalg.solve(system, weighed.T @ rows + 1e-12 * hats.T @ rows)
        errors = np.linalg.norm(hats @ values - rows, axis=1)
        worst = float(errors.max())
        if best is None or worst < best[0]:
            best = worst, values, errors
        least = max(least, float(np.sqrt(weights @ errors**2)))
        if worst <= tolerance or least > tolerance * SLACK:
            break
        weights = weights * errors
        weights /= weights.sum()
    assert best is not None
    return _Lines(knots, best[1], best[2], least)


def _reach(rows: Floats, places: Floats, begin: int, tolerance: float, way: int) -> tuple[int, bool]:
    """The farthest sample, forward or backward, up to which one straight line stays within tolerance; and whether that is known."""
    end_of_all = len(rows) - 1 if way > 0 else 0
    is_known = True

    def can(end: int) -> bool:
        nonlocal is_known
        low, high = min(begin, end), max(begin, end)
        if high - low < 2:
            return True
        line = _lines([0, high - low], rows[low : high + 1], places[low : high + 1], tolerance)
        is_within = line.worst <= tolerance * SLACK
        is_known &= is_within or line.least > tolerance
        return is_within

    near, step = begin + way, 1
    while near != end_of_all and can(tried := max(min(near + way * step, len(rows) - 1), 0)):
        near, step = tried, step * 2
    far = max(min(near + way * step, len(rows) - 1), 0)
    while abs(far - near) > 1:
        middle = (near + far) // 2
        near, far = (middle, far) if can(middle) else (near, middle)
    return near, is_known


def _pieces(rows: Floats, places: Floats, tolerance: float, way: int) -> tuple[list[int], bool]:
    """Knots of the fewest pieces that need not meet, each as far as it goes; backward, the knots lie as early as can be."""
    knots, is_known = [0 if way > 0 else len(rows) - 1], True
    while knots[-1] != (len(rows) - 1 if way > 0 else 0):
        knot, is_sure = _reach(rows, places, knots[-1], tolerance, way)
        knots.append(knot)
        is_known &= is_sure
    return (knots if way > 0 else knots[::-1]), is_known


def freely(rows: Floats, places: Floats, tolerance: float, most: int) -> tuple[list[int], Floats, bool]:
    """Few places, both ends among them, with values of their own, between which straight lines stay within tolerance of every sample.

    How many there must be at least is found by pieces that need not meet: each goes as far as one straight line can, and of all
    partitions into intervals the greedy one has the fewest. Their ends are then made to meet, between the latest and the earliest
    places where they may lie; where that fails, a place is added at the worst sample, until there are `most`.

    Parameters
    ----------
    rows : Floats
        (n, c) samples, n > 1.
    places : Floats
        (n,) rising.
    tolerance : float
        In the units of `rows`.
    most : int
        Places at the most.

    Returns
    -------
    tuple[list[int], Floats, bool]
        Indices, (k, c) values, and whether it is known that no fewer would do.
    """
    latest, is_known = _pieces(rows, places, tolerance, 1)
    if len(latest) > most:
        found = _lines(by_splitting(rows, places, tolerance, most), rows, places, tolerance)
        return found.knots, found.values, False
    earliest, _ = _pieces(rows, places, tolerance, -1)
    tried = [latest]
    if len(earliest) == len(latest):
        tried += [earliest, [(a + b) // 2 for a, b in zip(latest, earliest, strict=True)]]
    found = min(
        (_lines(knots, rows, places, tolerance) for knots in tried if len(set(knots)) == len(knots)), key=lambda each: each.worst
    )
    while found.worst > tolerance * SLACK and len(found.knots) < most:
        found = _moved(found, rows, places, tolerance)
        if found.worst <= tolerance * SLACK:
            break
        is_knot = np.isin(np.arange(len(rows)), found.knots)
        worst = int(np.argmax(np.where(is_knot, -1, found.errors)))
        if is_knot[worst]:
            break
        found = _lines(sorted({*found.knots, worst}), rows, places, tolerance)
    is_fewest = is_known and len(found.knots) == len(latest) and found.worst <= tolerance * SLACK
    return found.knots, found.values, is_fewest


def _moved(found: _Lines, rows: Floats, places: Floats, tolerance: float) -> _Lines:
    """The same with inner knots moved, one after the other, as long as that makes the worst error less."""
    for step in (8, 3, 1):
        for place in range(1, len(found.knots) - 1):
            for move in (-step, step):
                moved = found.knots[place] + move
                if not found.knots[place - 1] < moved < found.knots[place + 1]:
                    continue
                other = _lines([*found.knots[:place], moved, *found.knots[place + 1 :]], rows, places, tolerance)
                if other.worst < found.worst:
                    found = other
                if found.worst <= tolerance * SLACK:
                    return found
    return found
