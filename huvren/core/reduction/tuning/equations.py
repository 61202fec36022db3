"""The colors that make a finished painting, blurred, equal the blurred picture: weighted least squares.

A place of the blurred painting is a mixture of the palette's colors; its shares are read off the index map. With the
shares held, the colors that mix best are the solution of linear equations: in linear light, each place weighed by what a
small step there means in OKLab, and by one over its present error, so that the mean error is made small and not its square
(iteratively reweighted least squares, after Weiszfeld 1937).
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import scipy.linalg

from huvren.core.color.arrays import Bytes, Floats
from huvren.core.color.kernels import linear_to_oklab32
from huvren.core.compiled import njit, prange
from huvren.core.reduction.histogram import LINEAR_OF_BYTE, as_words
from huvren.core.reduction.tuning.sample import Sample

PARTS, FEW_PARTS, MANY_COLORS = 8, 2, 64
"""Parts that are summed up apart, whatever the number of threads, so that every machine adds in the same order; few of them
where there are many colors, since each part holds a matrix."""
SOFT = 1.0
"""Errors below this share of the mean weigh no more than there."""
WORST_SHARE = 0.05
"""How much the worst cell counts beside the mean: a small part of a picture can be dear."""
EXPECTED = 0.02
"""ΔEOK that a painting is expected to differ by, before one was seen."""
DAMPING = 1e-4
"""Weight, relative to the mean of all, of staying where a color is: for colors that the painting hardly uses."""
PLACES = np.array([[0, 1, 2], [1, 3, 4], [2, 4, 5]])


@dataclass(frozen=True)
class Equations:
    """Normal equations of one painting: Σ matrix[j, k] · color[k] = right[j].

    matrix : (k, 3, k, 3) float64; right : (k, 3); errors : the painting's own at each distance, weighted means ΔEOK (not ×100)
    error : all of them together; cells : (c,) mean ΔEOK of each cell of the sample from the recipe's own distance;
    gaps : (n,) that of each place
    """

    matrix: Floats
    right: Floats
    errors: tuple[float, ...]
    error: float
    cells: Floats
    gaps: Floats

    @property
    def worst(self) -> float:
        """ΔEOK of the cell that differs most."""
        return float(self.cells.max(initial=0.0))

    @property
    def score(self) -> float:
        """What is made small: the mean, and a share of the worst."""
        return self.error + WORST_SHARE * self.worst


@njit(parallel=True, cache=True)
def _gather(pixels, threshold, indices, ys, xs, taps, light, oklab, metric, weights, palette, soft, has_clear, parts, gaps, sums_up):
    """Sums of each part: matrix, right side, weighted error and weight; and the error of each place in `gaps`.

    Where nothing is to be solved, `sums_up` is False, and matrix and right side are not summed up.
    """
    height, width = indices.shape
    count = palette.shape[0]
    reach = taps.size // 2
    matrix = np.zeros((parts, count, count, 6))
    right = np.zeros((parts, count, 3))
    sums = np.zeros((parts, 16))
    for part in prange(parts):
        shares = np.zeros(256, dtype=np.float32)
        met = np.empty(count, dtype=np.int64)
        for place in range(ys.size * part // parts, ys.size * (part + 1) // parts):
            many = 0
            total = np.float32(0)
            left, right_end = max(xs[place] - reach, 0), min(xs[place] + reach + 1, width)
            for y in range(max(ys[place] - reach, 0), min(ys[place] + reach + 1, height)):
                down = taps[y - ys[place] + reach]
                for x in range(left, right_end):
                    if has_clear and pixels[y * width + x] >> np.uint32(24) < threshold:
                        continue
                    share = down * taps[x - xs[place] + reach]
                    index = np.uint64(indices[y, x])
                    if shares[index] == 0:
                        met[many] = index
                        many += 1
                    shares[index] += share
                    total += share
            red = green = blue = 0.0
            for at in range(many):
                index = met[at]
                shares[index] /= total
                red += shares[index] * palette[index, 0]
                green += shares[index] * palette[index, 1]
                blue += shares[index] * palette[index, 2]
            lightness, a, b = linear_to_oklab32(np.float32(red), np.float32(green), np.float32(blue))
            error = np.sqrt((lightness - oklab[place, 0]) ** 2 + (a - oklab[place, 1]) ** 2 + (b - oklab[place, 2]) ** 2)
            gaps[place] = error
            weight = np.float64(weights[place])
            sums[part, 0] += weight * error
            sums[part, 1] += weight
            if not sums_up:
                for at in range(many):
                    shares[met[at]] = 0
                continue
            weight /= error + soft
            m0, m1, m2 = metric[place, 0] * weight, metric[place, 1] * weight, metric[place, 2] * weight
            m3, m4, m5 = metric[place, 3] * weight, metric[place, 4] * weight, metric[place, 5] * weight
            t0, t1, t2 = light[place, 0], light[place, 1], light[place, 2]
            r0, r1, r2 = m0 * t0 + m1 * t1 + m2 * t2, m1 * t0 + m3 * t1 + m4 * t2, m2 * t0 + m4 * t1 + m5 * t2
            for at in range(many):
                row = met[at]
                share = shares[row]
                right[part, row, 0] += share * r0
                right[part, row, 1] += share * r1
                right[part, row, 2] += share * r2
                for other in range(at + 1):
                    column = met[other]
                    both = share * shares[column]
                    into = matrix[part, max(row, column), min(row, column)]
                    into[0] += both * m0
                    into[1] += both * m1
                    into[2] += both * m2
                    into[3] += both * m3
                    into[4] += both * m4
                    into[5] += both * m5
            for at in range(many):
                shares[met[at]] = 0
    return matrix, right, sums


def gather(sample: Sample, indices: Bytes, rgb: Bytes, expected: Sequence[float] = (), solves: bool = True) -> Equations:
    """The equations of a sample painted with (k, 3) uint8 colors.

    Parameters
    ----------
    sample : Sample
        Pixels that are looked at.
    indices : Bytes
        (h, w) uint8 index map.
    rgb : Bytes
        (k, 3) uint8 sRGB.
    expected : Sequence[float]
        The error that is expected at each distance, ΔEOK, which says what is small.
    solves : bool
        Whether they are to be solved; only the errors are right otherwise.

    Returns
    -------
    Equations
        One for each channel of each color.
    """
    count = len(rgb)
    lower, right = np.zeros((count, count, 6)), np.zeros((count, 3))
    errors, cells, own = [], np.empty(0), np.empty(0)
    for place, view in enumerate(sample.views):
        gaps = np.empty(len(view.ys))
        matrices, rights, sums = _gather(
            as_words(sample.rgba), np.uint32(sample.histogram.alpha_threshold), indices, view.ys, view.xs, view.taps,
            view.light, view.oklab, view.metric, view.weights, LINEAR_OF_BYTE[rgb].astype(np.float64),
            max(SOFT * (expected[place] if expected else EXPECTED), 1e-5), sample.histogram.transparent > 0,
            PARTS if count <= MANY_COLORS else FEW_PARTS, gaps, solves,
        )  # fmt: skip
        total = sums.sum(axis=0)
        errors.append(float(total[0] / total[1]))
        lower += matrices.sum(axis=0) * (view.share / total[1])
        right += rights.sum(axis=0) * (view.share / total[1])
        if place == 0:
            own = gaps
            cells = np.bincount(sample.cells, gaps, sample.counts.size) / np.maximum(sample.counts, 1)
    mirrored = np.tril(np.ones((count, count), dtype=bool), -1).T
    lower[mirrored] = lower.transpose(1, 0, 2)[mirrored]
    whole = lower[:, :, PLACES].transpose(0, 2, 1, 3)
    together = sum(view.share * error for view, error in zip(sample.views, errors, strict=True))
    return Equations(whole, right, tuple(errors), together, cells, own)


BOUND_ROUNDS = 3


def solve(equations: Equations, rgb: Bytes, fixed: int) -> Floats:
    """(k, 3) linear light of the colors that mix best, the first `fixed` as they are.

    A channel that would leave 0..1 is held at its bound, and the others are solved anew with it.

    Parameters
    ----------
    equations : Equations
        As `gather` makes them.
    rgb : Bytes
        (k, 3) uint8 sRGB.
    fixed : int
        How many of the first colors stay as they are.

    Returns
    -------
    Floats
        (k, 3) linear light 0..1.
    """
    now = LINEAR_OF_BYTE[rgb].astype(np.float64).reshape(-1)
    matrix, right = equations.matrix.reshape(len(now), len(now)), equations.right.reshape(-1)
    free = np.arange(3 * fixed, len(now))
    result = now.copy()
    for _ in range(BOUND_ROUNDS):
        inner = matrix[np.ix_(free, free)]
        held = np.ones(len(now), dtype=bool)
        held[free] = False
        rest = right[free] - matrix[np.ix_(free, np.flatnonzero(held))] @ result[held]
        damping = DAMPING * max(float(np.trace(inner)) / len(free), 1e-12)
        inner[np.diag_indices(len(free))] += damping
        result[free] = scipy.linalg.solve(inner, rest + damping * now[free], assume_a="pos", check_finite=False)
        out = (result[free] < 0) | (result[free] > 1)
        result = np.clip(result, 0, 1)
        free = free[~out]
        if not out.any() or len(free) == 0:
            break
    return result.reshape(-1, 3)
