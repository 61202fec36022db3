"""What a few colors can mix: a model of every dither, to choose by before any is laid out.

A place whose light is x is shown as a mixture Σ α·p of the colors p. It costs the distance of the mixture from x, as the
eye sees it from afar, and a share of how far the colors lie from x, since coarse grain is not mixed wholly:
√(|x − Σ α·p|² + GRAIN²·Σ α·|p − x|²), each distance weighed by what a small step of linear light at x means in OKLab. The
best mixture is found by steps toward one color at a time (Frank and Wolfe 1956), each as long as pays.
"""

from dataclasses import dataclass

import numpy as np

from huvren.core.color.arrays import Floats, Integers
from huvren.core.compiled import njit, prange
from huvren.core.reduction.tuning.sample import Sample, metric_of

GRAIN = 0.06
STEPS = 6
SETTLING = 4
"""Steps of a mixture that is there already, after a color was added."""
CELL = 0.02
PARTS = 4


@dataclass(frozen=True)
class Wants:
    """light : (n, 3) linear light that is to be mixed; metric : (n, 6), see `Sample`; weights : (n,), their sum is 1."""

    light: Floats
    metric: Floats
    weights: Floats


def wants_of(sample: Sample, most: int) -> Wants:
    """At most about `most` means of the sample's blurred light, over an ever coarser OKLab grid."""
    view = sample.views[0]
    cell, heavy = CELL, view.weights > 0
    places, light, weights = view.oklab[heavy], view.light[heavy], view.weights[heavy].astype(np.float64)
    while True:
        keys: Integers = np.floor(places / cell).astype(np.int64) @ np.array([1_000_000, 1_000, 1])
        cells, of = np.unique(keys, return_inverse=True)
        if len(cells) <= most:
            break
        cell *= 1.15
    total = np.bincount(of, weights=weights)
    means = np.stack([np.bincount(of, weights=weights * light[:, axis]) / total for axis in range(3)], axis=-1)
    return Wants(means, metric_of(means.astype(np.float32))[1].astype(np.float64), total / total.sum())


@njit(inline="always")
def _product(metric, at, a0, a1, a2, b0, b1, b2):
    """a · M · b with the symmetric matrix of one place."""
    return (
        a0 * (metric[at, 0] * b0 + metric[at, 1] * b1 + metric[at, 2] * b2)
        + a1 * (metric[at, 1] * b0 + metric[at, 3] * b1 + metric[at, 4] * b2)
        + a2 * (metric[at, 2] * b0 + metric[at, 4] * b1 + metric[at, 5] * b2)
    )


@njit(cache=True)
def _settle(light, metric, grain, colors, spans, chosen, count, at, mixture, steps):
    """Steps of one place's mixture (three channels, spread, cost) toward its best of the chosen colors.

    With r the way from the mixture to x and u that from x to a color, both slope and length of the way to the color
    follow from u·M·r, since |u|² is known.
    """
    for _ in range(steps):
        r0, r1, r2 = light[at, 0] - mixture[0], light[at, 1] - mixture[1], light[at, 2] - mixture[2]
        v0 = metric[at, 0] * r0 + metric[at, 1] * r1 + metric[at, 2] * r2
        v1 = metric[at, 1] * r0 + metric[at, 3] * r1 + metric[at, 4] * r2
        v2 = metric[at, 2] * r0 + metric[at, 4] * r1 + metric[at, 5] * r2
        own = r0 * v0 + r1 * v1 + r2 * v2
        base = light[at, 0] * v0 + light[at, 1] * v1 + light[at, 2] * v2
        gain, into, length = 1e-10, -1, 0.0
        for place in range(count):
            color = chosen[place]
            along = colors[color, 0] * v0 + colors[color, 1] * v1 + colors[color, 2] * v2 - base
            slope = along + own - grain * (spans[at, color] - mixture[3]) / 2
            size = spans[at, color] + 2 * along + own
            if slope <= 0 or size < 1e-14:
                continue
            step = min(1.0, slope / size)
            here = 2 * step * slope - step * step * size
            if here > gain:
                gain, into, length = here, color, step
        if into < 0:
            return
        for channel in range(3):
            mixture[channel] += length * (colors[into, channel] - mixture[channel])
        mixture[3] += length * (spans[at, into] - mixture[3])
        mixture[4] = max(mixture[4] - gain, 0.0)


@njit(parallel=True, cache=True)
def _spans(light, metric, colors):
    """(n, m) squared distances."""
    spans = np.empty((light.shape[0], colors.shape[0]))
    for at in prange(light.shape[0]):
        for color in range(colors.shape[0]):
            d0, d1, d2 = colors[color, 0] - light[at, 0], colors[color, 1] - light[at, 1], colors[color, 2] - light[at, 2]
            spans[at, color] = _product(metric, at, d0, d1, d2, d0, d1, d2)
    return spans


@njit(inline="always")
def _begin(colors, spans, grain, chosen, count, at, mixture):
    """The nearest chosen color alone."""
    best = chosen[0]
    for place in range(1, count):
        if spans[at, chosen[place]] < spans[at, best]:
            best = chosen[place]
    for channel in range(3):
        mixture[channel] = colors[best, channel]
    mixture[3] = spans[at, best]
    mixture[4] = spans[at, best] * (1 + grain)


@njit(cache=True)
def _cost(light, metric, weights, grain, colors, spans, chosen, count, steps):
    """Σ weight · √cost of the chosen colors."""
    mixture = np.empty(5)
    total = 0.0
    for at in range(light.shape[0]):
        _begin(colors, spans, grain, chosen, count, at, mixture)
        _settle(light, metric, grain, colors, spans, chosen, count, at, mixture, steps)
        total += weights[at] * np.sqrt(mixture[4])
    return total


@njit(parallel=True, cache=True, fastmath=True)
def _gains(light, metric, weights, grain, channels, spans, mixtures, has_any, parts):
    """For each color, given as (3, m) channels, Σ weight · √cost after one step toward it."""
    many = channels.shape[1]
    costs = np.zeros(many)
    for part in prange(parts):
        first, end = many * part // parts, many * (part + 1) // parts
        red, green, blue = channels[0, first:end], channels[1, first:end], channels[2, first:end]
        into = costs[first:end]
        for at in range(light.shape[0]):
            span, weight = spans[at, first:end], weights[at]
            if not has_any:
                for color in range(end - first):
                    into[color] += weight * np.sqrt(span[color] * (1 + grain))
                continue
            r0, r1, r2 = light[at, 0] - mixtures[at, 0], light[at, 1] - mixtures[at, 1], light[at, 2] - mixtures[at, 2]
            v0 = metric[at, 0] * r0 + metric[at, 1] * r1 + metric[at, 2] * r2
            v1 = metric[at, 1] * r0 + metric[at, 3] * r1 + metric[at, 4] * r2
            v2 = metric[at, 2] * r0 + metric[at, 4] * r1 + metric[at, 5] * r2
            own = r0 * v0 + r1 * v1 + r2 * v2
            base = light[at, 0] * v0 + light[at, 1] * v1 + light[at, 2] * v2
            spread, cost = mixtures[at, 3], mixtures[at, 4]
            for color in range(end - first):
                along = red[color] * v0 + green[color] * v1 + blue[color] * v2 - base
                slope = max(along + own - grain * (span[color] - spread) / 2, 0.0)
                size = max(span[color] + 2 * along + own, 1e-14)
                step = min(1.0, slope / size)
                into[color] += weight * np.sqrt(max(cost - 2 * step * slope + step * step * size, 0.0))
    return costs


@njit(parallel=True, cache=True)
def _settle_all(light, metric, grain, colors, spans, chosen, count, mixtures, begins, steps):
    for at in prange(light.shape[0]):
        if begins:
            _begin(colors, spans, grain, chosen, count, at, mixtures[at])
        _settle(light, metric, grain, colors, spans, chosen, count, at, mixtures[at], steps)


def pick_greedily(wants: Wants, colors: Floats, present: int, count: int, grain: float = GRAIN) -> list[int]:
    """Rows of (m, 3) linear-light `colors`: the first `present`, then one after the other that which helps most.

    Parameters
    ----------
    wants : Wants
        The light that is to be mixed.
    colors : Floats
        (m, 3) linear light.
    present : int
        How many of the first rows are there already.
    count : int
        How many.
    grain : float
        Size of a mixture in pixels; the finer, the less the colors of a mixture may differ.

    Returns
    -------
    list[int]
        Rows.
    """
    square = grain * grain
    spans = _spans(wants.light, wants.metric, colors)
    channels = np.ascontiguousarray(colors.T)
    chosen = np.zeros(present + count, dtype=np.int64)
    chosen[:present] = np.arange(present)
    mixtures = np.zeros((len(wants.light), 5))
    if present:
        _settle_all(wants.light, wants.metric, square, colors, spans, chosen, present, mixtures, True, STEPS)
    for place in range(present, present + count):
        costs = _gains(wants.light, wants.metric, wants.weights, square, channels, spans, mixtures, place > 0, PARTS)
        costs[chosen[:place]] = np.inf
        chosen[place] = int(costs.argmin())
        _settle_all(
            wants.light, wants.metric, square, colors, spans, chosen, place + 1, mixtures, place == 0, SETTLING if place else STEPS
        )
    return [int(row) for row in chosen]


def swap_by_model(wants: Wants, colors: Floats, chosen: list[int], present: int, rounds: int = 2) -> list[int]:
    """Replace one of the chosen rows by another as long as the model says that it helps; the first `present` stay.

    Parameters
    ----------
    wants : Wants
        The light that is to be mixed.
    colors : Floats
        (m, 3) linear light.
    chosen : list[int]
        Rows that are chosen so far.
    present : int
        How many of the first rows are there already.
    rounds : int
        At the most.

    Returns
    -------
    list[int]
        Rows.
    """
    best, result = mixing_error(wants, colors[chosen]), list(chosen)
    for _ in range(rounds):
        improved = False
        for place in range(present, len(result)):
            rest = result[:place] + result[place + 1 :]
            order = [*rest, *(row for row in range(len(colors)) if row not in rest)]
            into = order[pick_greedily(wants, colors[order], len(rest), 1)[-1]]
            error = mixing_error(wants, colors[[*rest, into]])
            if error < best - 1e-9:
                best, improved = error, True
                result[place] = into
        if not improved:
            break
    return result


def mixing_error(wants: Wants, colors: Floats, grain: float = GRAIN) -> float:
    """Mean ΔEOK (not ×100) of what (k, 3) linear-light colors mix, by the model.

    Parameters
    ----------
    wants : Wants
        The light that is to be mixed.
    colors : Floats
        (m, 3) linear light.
    grain : float
        Size of a mixture in pixels; the finer, the less the colors of a mixture may differ.

    Returns
    -------
    float
        ΔEOK, not ×100.
    """
    spans = _spans(wants.light, wants.metric, colors)
    rows = np.arange(len(colors))
    return float(_cost(wants.light, wants.metric, wants.weights, grain * grain, colors, spans, rows, len(rows), 4 * STEPS))
