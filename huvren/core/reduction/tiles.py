"""The per-tile limit: at most m colors in each tile of a picture, as old displays and some print plates demand."""

from dataclasses import dataclass

import numpy as np

from huvren.core.color.arrays import Bytes, Floats
from huvren.core.color.difference import DELTA_SCALE
from huvren.core.compiled import njit, prange

MOST_COMBINATIONS = 400
"""Up to so many ways to choose, a tile's colors are chosen exactly; beyond, greedily with swaps."""


@dataclass(frozen=True)
class Tiled:
    """indices : (h, w) uint8 that obey the limit. losses : (rows, columns) mean ΔEOK×100 that the limit cost each tile."""

    indices: Bytes
    losses: Floats


@njit(cache=True)
def _error(gaps, counts, present, kept):
    """Σ pixels · gap to the nearest kept color."""
    total = 0.0
    for row in range(present.size):
        nearest = 1e30
        for column in range(kept.size):
            nearest = min(nearest, gaps[present[row], present[kept[column]]])
        total += counts[present[row]] * nearest
    return total


@njit(cache=True)
def _exact(gaps, counts, present, most):
    """The best `most` places among `present`, by trying every combination in order."""
    count = present.size
    kept = np.arange(most)
    best = kept.copy()
    least = _error(gaps, counts, present, kept)
    while True:
        place = most - 1
        while place >= 0 and kept[place] == count - most + place:
            place -= 1
        if place < 0:
            return best
        kept[place] += 1
        for following in range(place + 1, most):
            kept[following] = kept[following - 1] + 1
        error = _error(gaps, counts, present, kept)
        if error < least - 1e-12:
            least = error
            best[:] = kept


@njit(cache=True)
def _greedy(gaps, counts, present, most):
    """`most` places, each the one that helps most, then swapped one for one as long as that helps."""
    count = present.size
    nearest = np.full(count, 1e30)
    kept = np.empty(most, dtype=np.int64)
    for step in range(most):
        best, least = 0, 1e300
        for candidate in range(count):
            error = 0.0
            for row in range(count):
                error += counts[present[row]] * min(nearest[row], gaps[present[row], present[candidate]])
            if error < least:
                least, best = error, candidate
        kept[step] = best
        for row in range(count):
            nearest[row] = min(nearest[row], gaps[present[row], present[best]])
    least = _error(gaps, counts, present, kept)
    improved = True
    while improved:
        improved = False
        for place in range(most):
            for candidate in range(count):
                before = kept[place]
                kept[place] = candidate
                error = _error(gaps, counts, present, kept)
                if error < least - 1e-9:
                    least = error
                    improved = True
                else:
                    kept[place] = before
    return kept


@njit(cache=True)
def _ways(count, most):
    ways = 1
    for step in range(most):
        ways = ways * (count - step) // (step + 1)
        if ways > MOST_COMBINATIONS:
            return MOST_COMBINATIONS + 1
    return ways


@njit(parallel=True, cache=True)
def _limit(indices, gaps, transparent, width, height, most, losses):
    rows, columns = losses.shape
    for tile in prange(rows * columns):
        row, column = tile // columns, tile % columns
        top, left = row * height, column * width
        bottom, right = min(top + height, indices.shape[0]), min(left + width, indices.shape[1])
        counts = np.zeros(256, dtype=np.int64)
        for y in range(top, bottom):
            for x in range(left, right):
                if indices[y, x] != transparent:
                    counts[indices[y, x]] += 1
        present = np.flatnonzero(counts)
        if present.size <= most:
            continue
        if _ways(present.size, most) <= MOST_COMBINATIONS:
            kept = _exact(gaps, counts, present, most)
        else:
            kept = _greedy(gaps, counts, present, most)
        heir = np.zeros(256, dtype=np.uint8)
        lost, pixels = 0.0, 0
        for place in range(present.size):
            own = present[place]
            best, nearest = own, 1e30
            for chosen in range(kept.size):
                other = present[kept[chosen]]
                if gaps[own, other] < nearest or (gaps[own, other] == nearest and other < best):
                    best, nearest = other, gaps[own, other]
            heir[own] = best
            lost += counts[own] * nearest
            pixels += counts[own]
        for y in range(top, bottom):
            for x in range(left, right):
                if indices[y, x] != transparent:
                    indices[y, x] = heir[indices[y, x]]
        losses[row, column] = lost / pixels * DELTA_SCALE


def limit_tiles(indices: Bytes, oklab: Floats, transparent: int, width: int, height: int, most: int) -> Tiled:
    """Keep in each tile of width × height pixels the `most` indices that serve it best; the others give way to the nearest kept.

    Clear pixels stay clear and do not count. Tiles at the right and lower edge may be smaller. Exact for few combinations a tile,
    else greedy with swaps.

    Parameters
    ----------
    indices : Bytes
        (h, w) uint8 index map.
    oklab : Floats
        (k, 3) OKLab of the opaque palette.
    transparent : int
        The index of clear pixels, or −1.
    width : int
        Of a tile in pixels.
    height : int
        Of a tile in pixels.
    most : int
        Indices that a tile may have.

    Returns
    -------
    Tiled
        The index map and what the limit cost each tile.
    """
    result = np.ascontiguousarray(indices).copy()
    losses = np.zeros((-(-indices.shape[0] // height), -(-indices.shape[1] // width)))
    gaps = np.linalg.norm(oklab[:, None].astype(np.float64) - oklab[None], axis=-1)
    _limit(result, gaps, transparent, width, height, most, losses)
    return Tiled(result, losses)
