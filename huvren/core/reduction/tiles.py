"""The per-tile limit: at most m colors in each tile of a picture, as old displays and some print plates demand."""

from dataclasses import dataclass

import numpy as np

from huvren.core.color.arrays import Bytes, Floats
from huvren.core.color.difference import DELTA_SCALE
from huvren.core.reduction.choosers.best_of_list import pick


@dataclass(frozen=True)
class Tiled:
    """indices : (h, w) uint8 that obey the limit. losses : (rows, columns) mean ΔEOK×100 that the limit cost each tile."""

    indices: Bytes
    losses: Floats


def limit_tiles(indices: Bytes, oklab: Floats, transparent: int, width: int, height: int, most: int) -> Tiled:
    """Keep in each tile of width × height pixels the `most` indices that serve it best; the others give way to the nearest kept.

    indices : (h, w) uint8; oklab : (k, 3) of the opaque palette. Clear pixels stay clear and do not count. Tiles at the
    right and lower edge may be smaller. Exact for few combinations a tile, else greedy with swaps.
    """
    result = indices.copy()
    rows, columns = -(-indices.shape[0] // height), -(-indices.shape[1] // width)
    losses = np.zeros((rows, columns))
    gaps = np.linalg.norm(oklab[:, None].astype(np.float64) - oklab[None], axis=-1)
    table = np.arange(256, dtype=np.uint8)
    for row in range(rows):
        for column in range(columns):
            tile = result[row * height : (row + 1) * height, column * width : (column + 1) * width]
            counts = np.bincount(tile.ravel(), minlength=256)
            if transparent >= 0:
                counts[transparent] = 0
            present = np.flatnonzero(counts)
            if len(present) <= most:
                continue
            among = gaps[np.ix_(present, present)]
            weights = counts[present].astype(np.float64)
            kept = sorted(pick(among, np.full(len(present), 1e3), weights, most))
            heirs = among[:, kept].argmin(axis=1)
            local = table.copy()
            local[present] = present[np.array(kept)[heirs]]
            tile[...] = local[tile]
            cost = among[np.arange(len(present)), np.array(kept)[heirs]]
            losses[row, column] = float((weights * cost).sum() / weights.sum()) * DELTA_SCALE
    return Tiled(result, losses)
