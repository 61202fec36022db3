"""The fewest places of a sampled line between which a straight line stays close to it."""

import numpy as np

from huvren.core.color.arrays import Floats, Integers

MOST_SAMPLES = 257


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


def fewest(rows: Floats, places: Floats, tolerance: float) -> list[int]:
    """The fewest indices of samples, both ends among them, between which straight lines stay within `tolerance` of every sample.

    Exact, by dynamic programming over all pairs of samples: O(n³) for n ≤ 257 samples, which it is bound to; of equally few,
    those that end with the longest reach.

    Parameters
    ----------
    rows : Floats
        (n, c) samples.
    places : Floats
        (n,) rising.
    tolerance : float
        In the units of `rows`.

    Returns
    -------
    list[int]
        Indices, rising.

    Raises
    ------
    ValueError
        For more than 257 samples.
    """
    count = len(rows)
    if count > MOST_SAMPLES:
        raise ValueError(f"{count} samples are too many; {MOST_SAMPLES} is the most.")
    needed: Integers = np.full(count, count, dtype=np.int64)
    before: Integers = np.zeros(count, dtype=np.int64)
    needed[0] = 0
    for begin in range(count - 1):
        ahead = rows[begin + 1 :] - rows[begin]
        reach = places[begin + 1 :] - places[begin]
        # (end, sample): how far each sample lies from the line to each end; samples behind the end do not count.
        share = np.minimum(reach[None, :] / reach[:, None], 1.0)
        off = ahead[None] - share[..., None] * ahead[:, None]
        gaps = np.einsum("esc,esc->es", off, off)
        gaps[np.triu_indices(len(reach), k=1)] = 0
        can = gaps.max(axis=1) <= tolerance**2 * (1 + 1e-12)
        ends = np.flatnonzero(can & (needed[begin] + 1 < needed[begin + 1 :])) + begin + 1
        needed[ends], before[ends] = needed[begin] + 1, begin
    kept = [count - 1]
    while kept[-1]:
        kept.append(int(before[kept[-1]]))
    return kept[::-1]
