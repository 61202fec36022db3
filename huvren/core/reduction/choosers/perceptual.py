"""Perceptual split: variance-minimizing splits in OKLab, then weighted k-means; deterministic.

Splits follow the principal axis of each box (Orchard and Bouman 1991) at the place that lowers the squared error
most (Wu 1991), the box with the largest gain first. k-means then runs on a sample of the weighted points; its later
rounds, and the last ones on all of them, weight each point by one over its distance (Weiszfeld), since the figure an
artist reads is the mean difference and not the mean square. By that figure, too, single centers are put elsewhere.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from huvren.core.color.arrays import Bytes, Floats, Integers
from huvren.core.compiled import get_num_threads, njit, prange
from huvren.core.reduction.choosers.chooser import CHOOSERS, Brief, Chooser, oklab_to_bytes
from huvren.core.reduction.nearest import order_centers, search

SLICES = 128
PLAIN_ROUNDS, SAMPLE_ROUNDS, RELOCATIONS, RELOCATED_ROUNDS, SOFT_ROUNDS = 4, 6, 16, 3, 4
MOST_RELOCATED = 128_000
"""Points of all relocations together: fewer are tried where there are many colors, and with them many points."""
MOST_FAILED, PAYS, HOPEFUL = 4, 0.9995, 1.0
"""Moves of centers in a row that did not pay, after which no other is tried; to what share a move must bring the error to pay;
and what losing the center may cost, as a share of the error of the cluster that it goes to, for the move to be tried."""
SOFTNESS = 0.25
"""Distance below which a color pulls no harder, as a share of the mean distance."""


@njit(cache=True)
def _best_cut(points, weights, start, end, axis):
    """Principal axis of points[start:end], the cut along it, and the squared error that cut removes."""
    total = 0.0
    m0 = m1 = m2 = c00 = c01 = c02 = c11 = c12 = c22 = 0.0
    for i in range(start, end):
        w = weights[i]
        x, y, z = points[i, 0], points[i, 1], points[i, 2]
        total += w
        m0 += w * x
        m1 += w * y
        m2 += w * z
        c00 += w * x * x
        c01 += w * x * y
        c02 += w * x * z
        c11 += w * y * y
        c12 += w * y * z
        c22 += w * z * z
    m0, m1, m2 = m0 / total, m1 / total, m2 / total
    c00, c01, c02 = c00 - total * m0 * m0, c01 - total * m0 * m1, c02 - total * m0 * m2
    c11, c12, c22 = c11 - total * m1 * m1, c12 - total * m1 * m2, c22 - total * m2 * m2
    # Power iteration, begun along the widest coordinate axis.
    x, y, z = c00, c01, c02
    if c11 >= c00 and c11 >= c22:
        x, y, z = c01, c11, c12
    elif c22 >= c00:
        x, y, z = c02, c12, c22
    for _ in range(12):
        size = np.sqrt(x * x + y * y + z * z)
        if size < 1e-30:
            return 0.0, 0.0
        x, y, z = x / size, y / size, z / size
        x, y, z = c00 * x + c01 * y + c02 * z, c01 * x + c11 * y + c12 * z, c02 * x + c12 * y + c22 * z
    size = np.sqrt(x * x + y * y + z * z)
    if size < 1e-30:
        return 0.0, 0.0
    x, y, z = x / size, y / size, z / size
    axis[0], axis[1], axis[2] = x, y, z
    low, high = 1e30, -1e30
    for i in range(start, end):
        t = points[i, 0] * x + points[i, 1] * y + points[i, 2] * z
        low, high = min(low, t), max(high, t)
    if high - low < 1e-7:
        return 0.0, 0.0
    scale = SLICES / (high - low) * 0.999999
    slice_weight = np.zeros(SLICES)
    slice_sum = np.zeros(SLICES)
    for i in range(start, end):
        t = points[i, 0] * x + points[i, 1] * y + points[i, 2] * z
        place = int((t - low) * scale)
        slice_weight[place] += weights[i]
        slice_sum[place] += weights[i] * t
    whole = slice_sum.sum()
    left_weight = left_sum = 0.0
    gain, cut = 0.0, 0.0
    for place in range(SLICES - 1):
        left_weight += slice_weight[place]
        left_sum += slice_sum[place]
        right_weight = total - left_weight
        if left_weight <= 0 or right_weight <= 1e-9 * total:
            continue
        difference = left_sum / left_weight - (whole - left_sum) / right_weight
        here = left_weight * right_weight / total * difference * difference
        if here > gain:
            gain, cut = here, low + (place + 1) / scale
    return gain, cut


@njit(cache=True)
def _box_means(points, weights, starts, ends, boxes, centers):
    """The weighted mean of each box."""
    for box in range(boxes):
        total = x = y = z = 0.0
        for i in range(starts[box], ends[box]):
            total += weights[i]
            x += weights[i] * points[i, 0]
            y += weights[i] * points[i, 1]
            z += weights[i] * points[i, 2]
        centers[box, 0], centers[box, 1], centers[box, 2] = x / total, y / total, z / total


@njit(cache=True)
def _split(points, weights, counts):
    """Means of the boxes each time there are as many as the next of the rising `counts`: (len(counts), most, 3), and how many
    there were. Reorders points and weights in place."""
    most = counts[-1]
    starts = np.zeros(most, dtype=np.int64)
    ends = np.zeros(most, dtype=np.int64)
    gains = np.zeros(most)
    cuts = np.zeros(most)
    axes = np.zeros((most, 3))
    centers = np.zeros((counts.size, most, 3), dtype=np.float32)
    reached = np.zeros(counts.size, dtype=np.int64)
    ends[0] = points.shape[0]
    gains[0], cuts[0] = _best_cut(points, weights, 0, ends[0], axes[0])
    boxes, following = 1, 0
    while following < counts.size:
        if boxes == counts[following]:
            _box_means(points, weights, starts, ends, boxes, centers[following])
            reached[following] = boxes
            following += 1
            continue
        box = np.argmax(gains[:boxes])
        if gains[box] <= 0:
            break
        x, y, z = axes[box]
        left, right = starts[box], ends[box] - 1
        while left <= right:
            if points[left, 0] * x + points[left, 1] * y + points[left, 2] * z < cuts[box]:
                left += 1
                continue
            for axis in range(3):
                points[left, axis], points[right, axis] = points[right, axis], points[left, axis]
            weights[left], weights[right] = weights[right], weights[left]
            right -= 1
        if left == starts[box] or left == ends[box]:
            gains[box] = 0.0
            continue
        starts[boxes], ends[boxes] = left, ends[box]
        ends[box] = left
        gains[box], cuts[box] = _best_cut(points, weights, starts[box], ends[box], axes[box])
        gains[boxes], cuts[boxes] = _best_cut(points, weights, starts[boxes], ends[boxes], axes[boxes])
        boxes += 1
    # Fewer boxes than asked for are all there can be.
    for place in range(following, counts.size):
        _box_means(points, weights, starts, ends, boxes, centers[place])
        reached[place] = boxes
    return centers, reached


def split_tree(places: Floats, weights: Floats, counts: Sequence[int]) -> list[Floats]:
    """Box means of one split tree at several rising counts: for each an (≤ count, 3) float32 array.

    Parameters
    ----------
    places : Floats
        (n, 3) OKLab.
    weights : Floats
        (n,) float32 how much each point counts.
    counts : Sequence[int]
        Rising numbers of boxes.

    Returns
    -------
    list[Floats]
        For each count an (≤ count, 3) float32 array.
    """
    centers, reached = _split(places.copy(), weights.copy(), np.array(counts, dtype=np.int64))
    return [centers[place, :boxes] for place, boxes in enumerate(reached.tolist())]


@njit(parallel=True, cache=True)
def _round(points, weights, centers, orders, distances, labels, softening, parts):
    """One k-means round: new labels; per center the sum of places as they pull, that pull, the error Σ w·d and the weight, and the
    point with the largest w·d²."""
    count = centers.shape[0]
    sums = np.zeros((parts, count, 6))
    worst = np.zeros((parts, count, 2))
    total = points.shape[0]
    for part in prange(parts):
        for i in range(total * part // parts, total * (part + 1) // parts):
            x, y, z = points[i, 0], points[i, 1], points[i, 2]
            best, span = search(x, y, z, np.int64(labels[i]), centers, orders, distances)
            labels[i] = best
            weight = weights[i]
            sums[part, best, 4] += weight * span
            sums[part, best, 5] += weight
            error = weight * span * span
            if error > worst[part, best, 0]:
                worst[part, best, 0] = error
                worst[part, best, 1] = i
            if softening > 0:
                weight = weight / (span + softening)
            sums[part, best, 0] += weight * x
            sums[part, best, 1] += weight * y
            sums[part, best, 2] += weight * z
            sums[part, best, 3] += weight
    return sums, worst


ENOUGH, ENOUGH_EACH = 12_000, 100
"""Points, in all and for each center, that suffice to find out where the centers belong; the last rounds take all."""
SPLIT_ENOUGH = 16_000
"""Points that suffice for the first split, which only says where to begin."""
SETTLED = 2e-4
"""Centers that move less than this in OKLab, a fiftieth of ΔE 1, have arrived."""


@dataclass
class Means:
    """k-means under way: (n, 3) places with (n,) weights, (k, 3) centers of which the first `fixed` stay."""

    places: Floats
    """(n, 3) OKLab."""
    weights: Floats
    """(n,)."""
    centers: Floats
    """(k, 3) OKLab."""
    fixed: int
    """How many of the first do not move."""
    labels: Integers
    """(n,) center of each point."""
    gaps: Floats
    """(n,) distance to it."""
    weight: Floats
    """(k,) of each center."""
    error: Floats
    """(k,) of each center."""
    worst: Integers
    """(k,) the farthest point of each center."""

    def step(self, softening: float = 0.0) -> float:
        """Move every center once; returns the largest move. An idle center goes to the point with the largest error."""
        orders, self.gaps = order_centers(self.centers)
        sums, worst = _round(
            self.places, self.weights, self.centers, orders, self.gaps, self.labels, np.float32(softening), get_num_threads()
        )
        merged = sums.sum(axis=0)
        self.weight, self.error = merged[:, 5], merged[:, 4]
        part = worst[:, :, 0].argmax(axis=0)
        self.worst = worst[part, np.arange(len(part)), 1].astype(np.int64)
        moved = merged[:, 3] > 0
        moved[: self.fixed] = False
        before = self.centers.copy()
        self.centers[moved] = (merged[moved, :3] / merged[moved, 3:4]).astype(np.float32)
        idle = [center for center in range(self.fixed, len(self.centers)) if merged[center, 3] == 0]
        for center, cluster in zip(idle, np.argsort(-self.error), strict=False):
            self.centers[center] = self.places[self.worst[cluster]]
        return float(np.abs(self.centers - before).max(initial=0))

    def relocate(self, most: int, skipped: int = 0) -> bool:
        """Move centers that are cheap to lose into clusters with much error, `most` of them; whether any was moved.

        Losing a center costs about its weight times the gap to its neighbor; what splitting a cluster saves shows only when all
        have settled. skipped : so many of the cheapest, that have been tried.
        """
        if self.gaps.shape[1] < 2:
            return False
        cost = self.weight * self.gaps[:, 1]
        cost[: self.fixed] = np.inf
        givers, takers = np.argsort(cost, kind="stable"), np.argsort(-self.error, kind="stable")
        any_moved = False
        for giver, taker in zip(givers[skipped : skipped + most], takers, strict=False):
            if giver == taker or cost[giver] > HOPEFUL * self.error[taker]:
                break
            self.centers[giver] = self.places[self.worst[taker]]
            any_moved = True
        return any_moved


def refine(places: Floats, weights: Floats, centers: Floats, fixed: int) -> Floats:
    """Weighted k-means from the given (k, 3) centers; the first `fixed` of them do not move.

    On a sample: rounds of plain k-means, then such as aim at the mean distance instead of the mean square, and relocations that
    are taken back where they do not pay; then, on all points, rounds that aim at the mean distance.

    Parameters
    ----------
    places : Floats
        (n, 3) OKLab.
    weights : Floats
        (n,) float32 how much each point counts.
    centers : Floats
        (k, 3) float32 OKLab.
    fixed : int
        How many of the first colors stay as they are.

    Returns
    -------
    Floats
        (k, 3) float32.
    """
    none = np.empty(0)
    few = slice(None, None, max(1, len(places) // max(ENOUGH, ENOUGH_EACH * len(centers))))

    def begin(where: slice, start: Floats) -> Means:
        sample, share = np.ascontiguousarray(places[where]), np.ascontiguousarray(weights[where])
        labels: Integers = np.zeros(len(sample), dtype=np.int32)
        return Means(sample, share, start, fixed, labels, none, none, none, np.empty(0, dtype=np.int64))

    means = begin(few, centers.astype(np.float32))

    def settle(rounds: int, softening: float = 0.0) -> None:
        for _ in range(rounds):
            if means.step(softening) < SETTLED:
                break

    settle(PLAIN_ROUNDS)
    softening = max(SOFTNESS * float(means.error.sum()) / float(means.weights.sum()), 1e-4)
    settle(SAMPLE_ROUNDS, softening)
    best, kept, failed = float(means.error.sum()), means.centers.copy(), 0
    most = max(1, len(centers) // 10)
    for _ in range(min(RELOCATIONS, MOST_RELOCATED // len(means.places))):
        if not means.relocate(1 if failed else most, max(0, failed - 1)):
            break
        settle(RELOCATED_ROUNDS, softening)
        error = float(means.error.sum())
        if error < best * PAYS:
            best, kept, failed = error, means.centers.copy(), 0
            continue
        failed += 1
        if failed == MOST_FAILED:
            break
        means.centers = kept.copy()
        means.step(softening)
    means = begin(slice(None), kept)
    settle(SOFT_ROUNDS, softening)
    return means.centers


def _without_nearest(centers: Floats, present: Floats) -> Floats:
    """Drop, for each color that is there already, the proposed center nearest to it."""
    left = list(range(len(centers)))
    for color in present:
        if not left:
            break
        gaps = ((centers[left] - color) ** 2).sum(axis=1)
        left.pop(int(gaps.argmin()))
    return np.asarray(centers[left])


def choose(brief: Brief) -> Bytes:
    """At most `count` colors besides those present.

    Parameters
    ----------
    brief : Brief
        What is asked for: points, weights, count and what is present.

    Returns
    -------
    Bytes
        (k, 3) uint8, besides those present.
    """
    points = brief.points
    present = np.asarray(brief.present, dtype=np.float32).reshape(-1, 3)
    wanted = max(brief.count + len(present), 1)
    few = slice(None, None, max(1, len(points.places) // max(SPLIT_ENOUGH, ENOUGH_EACH * wanted)))
    seeds = split_tree(points.places[few], points.weights[few], [wanted])[0]
    seeds = _without_nearest(seeds, present)[: brief.count]
    if len(seeds) == 0:
        return np.empty((0, 3), dtype=np.uint8)
    centers = refine(points.places, points.weights, np.concatenate([present, seeds]), len(present))
    return oklab_to_bytes(centers[len(present) :])


PERCEPTUAL = CHOOSERS.register(
    Chooser(
        "perceptual", "perceptual split", "Evens out the error over the whole picture, by eye; the usual choice.", choose,
        evens_out=True, tunes="moved",
    )
)  # fmt: skip
