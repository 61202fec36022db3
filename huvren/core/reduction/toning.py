"""A picture toned by a ramp: its lightness chooses the color."""

import numpy as np

from huvren.core.color.arrays import Bytes
from huvren.core.ramp.profile import rgba_bytes
from huvren.core.ramp.values import Ramp
from huvren.core.reduction.histogram import oklab_of_rgb

LEVELS = 1024


def toned(rgba: Bytes, ramp: Ramp, steps: int | None) -> Bytes:
    """(h, w, 4) uint8 → the same picture in the colors of the ramp: OKLab lightness 0 takes its beginning, 1 its end.

    The lightness found in the picture is stretched over the whole ramp; alpha stays.

    Parameters
    ----------
    rgba : Bytes
        (h, w, 4) uint8.
    ramp : Ramp
        Any ramp.
    steps : int | None
        So many flat colors; None for all.

    Returns
    -------
    Bytes
        The same picture in the colors of the ramp: OKLab lightness 0 takes its beginning, 1 its end.
    """
    pixels = rgba.reshape(-1, 4)
    lightness = np.empty(len(pixels), dtype=np.float32)
    band = 1 << 20
    for begin in range(0, len(pixels), band):
        lightness[begin : begin + band] = oklab_of_rgb(pixels[begin : begin + band, :3])[:, 0]
    seen = lightness[pixels[:, 3] > 0]
    low, high = (float(seen.min()), float(seen.max())) if len(seen) else (0.0, 1.0)
    share = np.clip((lightness - low) / max(high - low, 1e-6), 0, 1)
    if steps is not None:
        table = rgba_bytes(*ramp.shown(ramp.shares(steps))[:2])
        index = np.minimum((share * steps).astype(np.int32), steps - 1)
    else:
        table = rgba_bytes(*ramp.shown(np.linspace(0, 1, LEVELS))[:2])
        index = np.rint(share * (LEVELS - 1)).astype(np.int32)
    made = table[index]
    made[:, 3] = pixels[:, 3]
    return np.ascontiguousarray(made.reshape(rgba.shape))
