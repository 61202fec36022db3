"""What checks learn from a picture: its own colors, and which swatches it would be painted with and where they meet."""

from collections.abc import Sequence

import numpy as np

from huvren.core.checks.subject import MOST_SAMPLES, Plate, Sample, gaps
from huvren.core.checks.touching import by_swatch, touching
from huvren.core.color.arrays import Bytes
from huvren.core.color.spaces import convert
from huvren.core.errors import BadInput
from huvren.core.palette.values import Palette

MOST_PIXELS = 330_000
MOST_PAINTED = 256
PLATE = 280
CELL = 8
"""Colors are gathered in cells of so many 8-bit steps a channel."""


def sample_of(rgba: Bytes) -> Sample:
    """(h, w, 4) uint8 → its most frequent colors, each the mean of a small cell, from at most `MOST_PIXELS` pixels.

    Parameters
    ----------
    rgba : Bytes
        (h, w, 4) uint8.

    Returns
    -------
    Sample
        Colors and how many pixels each stands for.
    """
    pixels = rgba.reshape(-1, 4)
    pixels = pixels[:: max(1, -(-len(pixels) // MOST_PIXELS))]
    rgb = pixels[pixels[:, 3] >= 128, :3].astype(np.int64)
    if not len(rgb):
        return Sample(np.zeros((0, 3)), np.zeros(0))
    cells = (rgb // CELL) @ np.array([1 << 10, 1 << 5, 1])
    found, back, counts = np.unique(cells, return_inverse=True, return_counts=True)
    means = np.stack([np.bincount(back, rgb[:, channel], len(found)) / counts for channel in range(3)], axis=1)
    most = np.argsort(-counts, kind="stable")[:MOST_SAMPLES]
    return Sample(convert(means[most] / 255, "srgb", "oklab"), counts[most].astype(np.float64))


def plate_of(indices: Bytes, table: Sequence[str | None]) -> Plate:
    """(h, w) uint8 → every so many pixels of it, so that it is at most `PLATE` high or wide.

    Parameters
    ----------
    indices : Bytes
        (h, w) uint8 index map.
    table : Sequence[str | None]
        Swatch id of each index, None for a clear one.

    Returns
    -------
    Plate
        Index map and table of the plate.
    """
    step = max(1, -(-max(indices.shape) // PLATE))
    return Plate(np.ascontiguousarray(indices[step // 2 :: step, step // 2 :: step]), tuple(table))


def painted_with(palette: Palette, rgba: Bytes) -> tuple[dict[str, int], dict[tuple[str, str], int], Plate | None]:
    """Pixels of each swatch id, the borders between them, and the plate, if every pixel got the nearest swatch.

    Parameters
    ----------
    palette : Palette
        At most 256 swatches.
    rgba : Bytes
        (h, w, 4) uint8.

    Returns
    -------
    tuple[dict[str, int], dict[tuple[str, str], int], Plate | None]
        Pixels by swatch id, borders by pairs of ids, and the plate.

    Raises
    ------
    BadInput
        For a palette of more than 256 swatches.
    """
    swatches = [swatch for swatch in palette.swatches if swatch.color.alpha > 0]
    if len(swatches) > MOST_PAINTED:
        raise BadInput(f"A picture is painted with at most {MOST_PAINTED} swatches; this palette has {len(swatches):,}.")
    if not swatches:
        return {}, {}, None
    oklab = np.array([swatch.color.oklab for swatch in swatches])
    words = rgba[..., 0].astype(np.uint32) << 16 | rgba[..., 1].astype(np.uint32) << 8 | rgba[..., 2]
    different, back = np.unique(words, return_inverse=True)
    rows = convert(np.stack([different >> 16, different >> 8 & 255, different & 255], axis=1) / 255, "srgb", "oklab")
    nearest = np.concatenate([gaps(part, oklab).argmin(axis=1) for part in np.array_split(rows, max(1, len(rows) // 4096))])
    indices = nearest[back].reshape(rgba.shape[:2]).astype(np.uint8)
    seen = rgba[..., 3] >= 128
    table = [swatch.id for swatch in swatches]
    counts = np.bincount(indices[seen], minlength=len(table))
    usage = {table[n]: int(count) for n, count in enumerate(counts) if count}
    return usage, dict(by_swatch(touching(indices), table)), plate_of(indices, table)
