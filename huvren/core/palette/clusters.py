"""Clusters of near twins: a merge tree by complete linkage, and its cut at a tolerance or a count.

Complete linkage joins the two clusters whose *farthest* members are nearest, so that after a cut at tolerance t no two
members of a cluster differ by more than t. Two locked swatches are infinitely far apart and never meet, nor do two
swatches of different alpha. Reference: Müllner 2011, “Modern hierarchical, agglomerative clustering algorithms”, §2.
"""

from collections.abc import Sequence

import numpy as np

from huvren.core.color.arrays import Flags, Floats, Integers
from huvren.core.color.difference import DELTA_SCALE
from huvren.core.errors import BadInput
from huvren.core.palette.values import Swatch

MOST_CLUSTERED = 8192


def gaps_between(swatches: Sequence[Swatch]) -> Floats:
    """(n, n) float32 ΔEOK×100; infinite between two locked swatches and between swatches of different alpha.

    Parameters
    ----------
    swatches : Sequence[Swatch]
        n swatches.

    Returns
    -------
    Floats
        (n, n) float32 ΔEOK×100.
    """
    oklab = np.array([swatch.color.oklab for swatch in swatches]).reshape(-1, 3)
    alpha = np.array([swatch.color.bytes[3] for swatch in swatches])
    locked: Flags = np.array([swatch.locked for swatch in swatches], dtype=bool)
    gaps = np.zeros((len(swatches), len(swatches)), dtype=np.float32)
    for channel in range(3):
        gaps += np.square(oklab[:, None, channel] - oklab[None, :, channel], dtype=np.float64)
    gaps = np.sqrt(gaps) * np.float32(DELTA_SCALE)
    clear = alpha == 0
    gaps[np.ix_(clear, clear)] = 0
    gaps[alpha[:, None] != alpha[None, :]] = np.inf
    gaps[np.ix_(locked, locked)] = np.inf
    return gaps


def merge_tree(swatches: Sequence[Swatch]) -> tuple[Integers, Floats]:
    """Every join from the nearest up: (m, 2) places, the lower standing for the cluster, and (m,) heights in ΔEOK×100.

    Parameters
    ----------
    swatches : Sequence[Swatch]
        n swatches.

    Returns
    -------
    tuple[Integers, Floats]
        (m, 2) places and (m,) heights.

    Raises
    ------
    BadInput
        Above 8,192 swatches, whose distances would not fit into memory.
    """
    if len(swatches) > MOST_CLUSTERED:
        raise BadInput(f"Near twins are looked for among at most {MOST_CLUSTERED:,} swatches; select fewer than {len(swatches):,}.")
    from huvren.core.palette.cluster_kernels import link

    pairs = np.empty((max(len(swatches) - 1, 0), 2), dtype=np.int64)
    heights = np.empty(len(pairs), dtype=np.float32)
    joins = int(link(gaps_between(swatches), pairs, heights)) if len(swatches) > 1 else 0
    return pairs[:joins], heights[:joins]


def cut(count: int, pairs: Integers, heights: Floats, tolerance: float) -> list[list[int]]:
    """The clusters of 0..count−1 whose joins are at most `tolerance` high, each in order, by their first member.

    Parameters
    ----------
    count : int
        How many.
    pairs : Integers
        (m, 2) places of each join, the lower standing for the cluster.
    heights : Floats
        (m,) ΔEOK×100 of each join, rising.
    tolerance : float
        ΔEOK×100.

    Returns
    -------
    list[list[int]]
        Members of each cluster.
    """
    members = [[place] for place in range(count)]
    for (left, right), height in zip(pairs.tolist(), heights.tolist(), strict=True):
        if height <= tolerance:
            members[left] += members[right]
            members[right] = []
    return [sorted(cluster) for cluster in members if cluster]
