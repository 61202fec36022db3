"""The nearest of k centers for many points, exactly, by the triangle inequality (Phillips 2002, “compare-means”).

From a guessed center c, a center c' can only be nearer if it lies within d(x, c) + d(best) of c; so the other
centers are tried in order of their distance from the guess, and the search stops at the first beyond.
"""

import numpy as np

from huvren.core.color.arrays import Floats, Integers
from huvren.core.compiled import get_num_threads, njit, prange

CLOSE = 32


@njit(parallel=True, cache=True)
def _order(centers, orders, distances):
    """The closest centers of each, nearest first, by insertion into a short list."""
    count, kept = centers.shape[0], orders.shape[1]
    for row in prange(count):
        held = 0
        for other in range(count):
            x = centers[row, 0] - centers[other, 0]
            y = centers[row, 1] - centers[other, 1]
            z = centers[row, 2] - centers[other, 2]
            span = x * x + y * y + z * z
            if held == kept and span >= distances[row, kept - 1]:
                continue
            place = min(held, kept - 1)
            while place > 0 and distances[row, place - 1] > span:
                distances[row, place] = distances[row, place - 1]
                orders[row, place] = orders[row, place - 1]
                place -= 1
            distances[row, place] = span
            orders[row, place] = other
            held = min(held + 1, kept)
        for place in range(kept):
            distances[row, place] = np.sqrt(distances[row, place])


@njit(cache=True)
def search(x, y, z, guess, centers, orders, distances):
    """Index and distance of the center nearest to (x, y, z); ties go to the lower index.

    Where the short list of the guess ends before the search is proved, it goes on from the best center found; where
    that is the guess itself, all centers are looked at.
    """
    kept = orders.shape[1]
    dx, dy, dz = x - centers[guess, 0], y - centers[guess, 1], z - centers[guess, 2]
    squared = dx * dx + dy * dy + dz * dz
    best = guess
    while True:
        start = np.sqrt(squared)
        reach = start + start + np.float32(1e-6)
        place = 0
        while place < kept and distances[guess, place] <= reach:
            other = orders[guess, place]
            dx, dy, dz = x - centers[other, 0], y - centers[other, 1], z - centers[other, 2]
            span = dx * dx + dy * dy + dz * dz
            if span < squared or (span == squared and other < best):
                squared = span
                best = np.int64(other)
                reach = start + np.sqrt(span) + np.float32(1e-6)
            place += 1
        if place < kept or kept == centers.shape[0]:
            break
        if best != guess:
            guess = best
            continue
        for other in range(centers.shape[0]):
            dx, dy, dz = x - centers[other, 0], y - centers[other, 1], z - centers[other, 2]
            span = dx * dx + dy * dy + dz * dz
            if span < squared or (span == squared and other < best):
                squared = span
                best = np.int64(other)
        break
    return best, np.sqrt(squared)


@njit(cache=True)
def descend(x, y, z, guess, centers, orders):
    """Walk from the guess to ever nearer neighbors; the nearest center or, far outside all of them, one nearly so.

    Exact where the lists hold all centers.
    """
    best = guess
    nearest = np.float32(1e30)
    while True:
        here = best
        for place in range(orders.shape[1]):
            other = orders[here, place]
            dx, dy, dz = x - centers[other, 0], y - centers[other, 1], z - centers[other, 2]
            span = dx * dx + dy * dy + dz * dz
            if span < nearest:
                nearest = span
                best = np.int64(other)
        if best == here:
            return best


@njit(parallel=True, cache=True)
def _assign(points, centers, orders, distances, labels, spans, parts):
    rows = points.shape[0]
    for part in prange(parts):
        last = np.int64(0)
        for row in range(rows * part // parts, rows * (part + 1) // parts):
            last, spans[row] = search(points[row, 0], points[row, 1], points[row, 2], last, centers, orders, distances)
            labels[row] = last


def order_centers(centers: Floats) -> tuple[Integers, Floats]:
    """For each of (k, 3) centers the closest, itself first, and their distances: (k, ≤ CLOSE) int32 and float32.

    Parameters
    ----------
    centers : Floats
        (k, 3) float32 OKLab.

    Returns
    -------
    tuple[Integers, Floats]
        (k, ≤ CLOSE) int32 and float32.
    """
    shape = (len(centers), min(len(centers), CLOSE))
    orders = np.empty(shape, dtype=np.int32)
    distances = np.empty(shape, dtype=np.float32)
    _order(centers, orders, distances)
    return orders, distances


def nearest_centers(points: Floats, centers: Floats) -> tuple[Integers, Floats]:
    """Nearest center of each point, exactly.

    Points that follow each other closely (as the colors of a histogram do) make it fast: each guess is the last answer.

    Parameters
    ----------
    points : Floats
        (n, 3) float32.
    centers : Floats
        (k, 3) float32 OKLab.

    Returns
    -------
    tuple[Integers, Floats]
        (n,) int32 labels and (n,) float32 distances.
    """
    points = np.ascontiguousarray(points, dtype=np.float32)
    centers = np.ascontiguousarray(centers, dtype=np.float32)
    labels = np.empty(len(points), dtype=np.int32)
    spans = np.empty(len(points), dtype=np.float32)
    orders, distances = order_centers(centers)
    _assign(points, centers, orders, distances, labels, spans, get_num_threads())
    return labels, spans
