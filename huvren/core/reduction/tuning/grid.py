"""Tuned colors on a grid: of hardware with few levels a channel, the places that mix best."""

import numpy as np

from huvren.core.color.arrays import Bytes, Floats
from huvren.core.compiled import njit
from huvren.core.reduction.choosers.channel_depth import snap
from huvren.core.reduction.histogram import LINEAR_OF_BYTE
from huvren.core.reduction.tuning.equations import Equations
from huvren.core.reduction.tuning.sample import light_to_bytes

SWEEPS = 12


def levels_of(depth: tuple[int, int, int]) -> list[Bytes]:
    """The bytes of each channel's levels, from dark to light.

    Parameters
    ----------
    depth : tuple[int, int, int]
        Levels of red, green and blue.

    Returns
    -------
    list[Bytes]
        A rising uint8 array for each channel.
    """
    ramp = np.arange(256, dtype=np.uint8)
    snapped = snap(np.stack([ramp] * 3, axis=-1), depth)
    return [np.unique(snapped[:, channel]) for channel in range(3)]


@njit(cache=True)
def _descend(matrix, right, light, places, ladders, sizes, fixed, sweeps):
    """Move single channels by a level while that lowers x·A·x − 2 b·x, no two colors ever alike."""
    count = places.shape[0]
    slope = matrix @ light - right
    for _ in range(sweeps):
        moved = False
        for color in range(fixed, count):
            for channel in range(3):
                at = 3 * color + channel
                for way in (-1, 1):
                    place = places[color, channel] + way
                    if place < 0 or place >= sizes[channel]:
                        continue
                    step = ladders[channel, place] - light[at]
                    if 2 * step * slope[at] + step * step * matrix[at, at] >= -1e-12:
                        continue
                    taken = False
                    for other in range(count):
                        same = other != color
                        for axis in range(3):
                            wanted = place if axis == channel else places[color, axis]
                            same = same and places[other, axis] == wanted
                        taken = taken or same
                    if taken:
                        continue
                    places[color, channel] = place
                    light[at] = ladders[channel, place]
                    slope += step * matrix[:, at]
                    moved = True
        if not moved:
            break


def onto_grid(equations: Equations, light: Floats, rgb: Bytes, fixed: int, depth: tuple[int, int, int]) -> Bytes:
    """(k, 3) linear light → (k, 3) uint8 on the grid, as good as steps of one level make it; the first `fixed` as in `rgb`.

    A color whose place on the grid is taken stays where it was.

    Parameters
    ----------
    equations : Equations
        As `gather` makes them.
    light : Floats
        (k, 3) linear light.
    rgb : Bytes
        (k, 3) uint8 sRGB.
    fixed : int
        How many of the first colors stay as they are.
    depth : tuple[int, int, int]
        Levels of red, green and blue.

    Returns
    -------
    Bytes
        (k, 3) uint8 on the grid, as good as steps of one level make it; the first `fixed` as in `rgb`.
    """
    levels = levels_of(depth)
    snapped = snap(light_to_bytes(light), depth)
    snapped[:fixed] = rgb[:fixed]
    seen = {tuple(row) for row in rgb[:fixed].tolist()}
    for row in range(fixed, len(rgb)):
        if tuple(snapped[row].tolist()) in seen:
            snapped[row] = rgb[row]
        seen.add(tuple(snapped[row].tolist()))
    ladders = np.zeros((3, 256))
    places = np.empty((len(rgb), 3), dtype=np.int64)
    for channel, steps in enumerate(levels):
        ladders[channel, : len(steps)] = LINEAR_OF_BYTE[steps]
        places[:, channel] = np.searchsorted(steps, snapped[:, channel])
        # A locked color need not lie on the grid; no free one can take its place by mistake.
        places[:fixed, channel][steps[np.minimum(places[:fixed, channel], len(steps) - 1)] != rgb[:fixed, channel]] = -1
    size = 3 * len(rgb)
    values = LINEAR_OF_BYTE[snapped].astype(np.float64).reshape(-1)
    _descend(
        np.ascontiguousarray(equations.matrix.reshape(size, size)), equations.right.reshape(-1), values, places, ladders,
        np.array([len(steps) for steps in levels]), fixed, SWEEPS,
    )  # fmt: skip
    result = rgb.copy()
    for channel, steps in enumerate(levels):
        result[fixed:, channel] = steps[places[fixed:, channel]]
    return result
