"""Which swatches lie next to each other in a picture: pixels of an index map that meet along an edge."""

from collections.abc import Mapping, Sequence

import numpy as np

from huvren.core.color.arrays import Bytes, Integers

INDICES = 256


def touching(indices: Bytes) -> Integers:
    """(h, w) uint8 → (256, 256) symmetric counts of edges between a pixel of one index and a pixel of another, 0 on the diagonal.

    Each pixel has the neighbor at its right and the one below.

    Parameters
    ----------
    indices : Bytes
        (h, w) uint8 index map.

    Returns
    -------
    Integers
        (256, 256), 0 on the diagonal.
    """
    counts = np.zeros(INDICES * INDICES, dtype=np.int64)
    for first, second in ((indices[:, :-1], indices[:, 1:]), (indices[:-1], indices[1:])):
        apart = first != second
        pairs = first[apart].astype(np.uint16) * np.uint16(INDICES) + second[apart]
        counts += np.bincount(pairs, minlength=INDICES * INDICES)
    table = counts.reshape(INDICES, INDICES)
    both = table + table.T
    return np.asarray(both)


def by_swatch(counts: Integers, table: Sequence[str | None]) -> Mapping[tuple[str, str], int]:
    """Counts of indices as counts of swatch ids: indices that stand for the same swatch do not border on each other.

    Parameters
    ----------
    counts : Integers
        (256, 256) as `touching` gives them.
    table : Sequence[str | None]
        Swatch id of each index, None for a clear one.

    Returns
    -------
    Mapping[tuple[str, str], int]
        Counts by pairs of ids, the lower first.
    """
    found: dict[tuple[str, str], int] = {}
    size = min(len(table), INDICES)
    for first, second in zip(*np.nonzero(np.triu(counts[:size, :size], k=1)), strict=True):
        one, other = table[int(first)], table[int(second)]
        if one is None or other is None or one == other:
            continue
        pair = (one, other) if one < other else (other, one)
        found[pair] = found.get(pair, 0) + int(counts[first, second])
    return found
