"""Searching longer for the colors of a picture that is not dithered: the least mean difference.

What is looked for are the k medians of the picture's colors in OKLab. A single search rests at one of many places where no
small step helps; so this one begins at several, steps toward the mean difference until they rest (Weiszfeld 1937), and then
takes colors out where they help least and puts them in where most is wanted, as long as that pays.
"""

import numpy as np

from huvren.core.color.arrays import Bytes, Floats
from huvren.core.progress import Watch, unwatched
from huvren.core.reduction.choosers import oklab_to_bytes
from huvren.core.reduction.choosers.perceptual import Means
from huvren.core.reduction.histogram import oklab_of_rgb
from huvren.core.reduction.nearest import nearest_centers

BEGINNINGS = 10
GO_ON = 3
ROUNDS, RESTING, LAST = 25, 60, 40
MOST_MOVES = 60
SOFT = 2e-4
"""Distance in OKLab, a fiftieth of ΔE 1, below which a color pulls no harder."""
PLAIN = 6
TAKEN_OUT = 6
"""Colors that help least, of which each is tried elsewhere."""


def _error(places: Floats, weights: Floats, centers: Floats) -> float:
    """Mean distance in OKLab."""
    return float((nearest_centers(places, centers)[1].astype(np.float64) * weights).sum() / weights.sum())


def _means(places: Floats, weights: Floats, centers: Floats, fixed: int) -> Means:
    none = np.empty(0)
    labels = np.zeros(len(places), dtype=np.int32)
    return Means(places, weights, centers.astype(np.float32), fixed, labels, none, none, none, np.empty(0, dtype=np.int64))


def _settle(places: Floats, weights: Floats, centers: Floats, fixed: int, plain: int, soft: int) -> Floats:
    """So many rounds toward the mean square, then toward the mean; or fewer, where they rest."""
    means = _means(places, weights, centers, fixed)
    for rounds, softening in ((plain, 0.0), (soft, SOFT)):
        for _ in range(rounds):
            if means.step(softening) < 1e-5:
                break
    return means.centers


def _seeded(places: Floats, weights: Floats, present: Floats, count: int, seed: int) -> Floats:
    """Centers drawn in proportion to what they would mend (Arthur and Vassilvitskii 2007, k-means++), those present first."""
    draw = np.random.default_rng(seed)
    centers = list(present)
    gaps = np.full(len(places), np.inf)
    for center in centers:
        gaps = np.minimum(gaps, ((places - center) ** 2).sum(axis=1))
    while len(centers) < len(present) + count:
        shares = weights * (gaps if centers else np.ones(len(places)))
        total = shares.sum()
        row = int(draw.choice(len(places), p=shares / total)) if total > 0 else int(draw.integers(len(places)))
        centers.append(places[row])
        gaps = np.minimum(gaps, ((places - places[row]) ** 2).sum(axis=1))
    return np.array(centers, dtype=np.float32)


def _moves(places: Floats, weights: Floats, centers: Floats, fixed: int, trial: int) -> Floats:
    """One of the centers that help least, put where the most error is."""
    labels, spans = nearest_centers(places, centers)
    error = np.bincount(labels, weights=weights * spans, minlength=len(centers))
    gaps = np.linalg.norm(centers[:, None] - centers[None], axis=-1)
    np.fill_diagonal(gaps, np.inf)
    cost = np.bincount(labels, weights=weights, minlength=len(centers)) * gaps.min(axis=1)
    cost[:fixed] = np.inf
    givers, takers = np.argsort(cost, kind="stable"), np.argsort(-error, kind="stable")
    giver = int(givers[trial % min(TAKEN_OUT, len(centers) - fixed)])
    taker = int(takers[trial // TAKEN_OUT % len(takers)])
    inside = np.flatnonzero(labels == taker)
    moved = centers.copy()
    if len(inside):
        moved[giver] = places[inside[int((weights[inside] * spans[inside] ** 2).argmax())]]
    return moved


def search_medians(places: Floats, weights: Floats, begun: Floats, present: Floats, watch: Watch = unwatched) -> Bytes:
    """(k, 3) uint8 sRGB with at most the mean difference that the colors begun with have.

    Deterministic; raises whatever the watch raises.

    Parameters
    ----------
    places : Floats
        (n, 3) OKLab.
    weights : Floats
        (n,) float32 how much each point counts.
    begun : Floats
        (k, 3) float32 OKLab colors that a usual search found.
    present : Floats
        (m, 3) OKLab of colors that are there besides.
    watch : Watch
        Told of every step; what it raises is passed on.

    Returns
    -------
    Bytes
        (k, 3) uint8 sRGB with at most the mean difference that the colors begun with have.
    """
    fixed, count = len(present), len(begun)
    first = np.concatenate([present.reshape(-1, 3), begun]).astype(np.float32)
    weights = weights.astype(np.float32)
    trials: list[tuple[float, Floats]] = []
    for seed in range(BEGINNINGS):
        watch("trying other beginnings", 0.5 * seed / BEGINNINGS)
        start = first if seed == 0 else _seeded(places, weights, present.reshape(-1, 3), count, seed)
        settled = _settle(places, weights, start, fixed, PLAIN if seed else 0, ROUNDS)
        trials.append((_error(places, weights, settled), settled))
    trials.sort(key=lambda trial: trial[0])
    for place, (_, centers) in enumerate(trials[:GO_ON]):
        watch("settling the best of them", 0.5 + 0.1 * place / GO_ON)
        settled = _settle(places, weights, centers, fixed, 0, RESTING)
        trials[place] = (_error(places, weights, settled), settled)
    best, centers = min(trials[:GO_ON], key=lambda trial: trial[0])
    idle = 0
    for trial in range(MOST_MOVES):
        watch("putting single colors elsewhere", 0.6 + 0.4 * trial / MOST_MOVES)
        moved = _settle(places, weights, _moves(places, weights, centers, fixed, idle), fixed, 2, ROUNDS)
        error = _error(places, weights, moved)
        idle += 1
        if error < best * (1 - 1e-5):
            best, centers, idle = error, moved, 0
        elif idle >= TAKEN_OUT * 4:
            break
    centers = _settle(places, weights, centers, fixed, 0, LAST)
    found = oklab_to_bytes(centers[fixed:])
    # In 8 bits a color may move a little, and two may meet: what was begun with is in 8 bits already.
    rounded = np.concatenate([first[:fixed], oklab_of_rgb(found)])
    is_better = _error(places, weights, rounded) < _error(places, weights, first)
    return found if is_better and len(np.unique(found, axis=0)) == count else oklab_to_bytes(begun)
