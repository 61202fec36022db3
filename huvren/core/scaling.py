"""Pictures drawn at another size: each new pixel is the mean, in linear light, of the area that it covers.

A viewer that takes the mean of sRGB numbers shows a dither darker than it looks from a distance. Of a picture whose pixels are wider
than those that it is drawn with, the edges stay where they are. The browser does the same in `web/src/picture/scale.ts`.
"""

import numpy as np

from huvren.core.color.arrays import Bytes, Floats
from huvren.core.color.transfer import decode_srgb_array
from huvren.core.compiled import njit

LIGHT: Floats = decode_srgb_array(np.arange(256) / 255)
"""(256,) linear light of each 8-bit number."""
SHARES: Floats = np.arange(256) / 255
"""(256,) how much each alpha covers."""
BOUNDS: Floats = np.append(decode_srgb_array((np.arange(255) + 0.5) / 255), 2.0)
"""(256,) light from which on the next number is nearer."""
FINE = 4095
GUESSES: Bytes = np.searchsorted(BOUNDS, np.arange(FINE + 1) / FINE, side="right").astype(np.uint8)
"""(4096,) the number of each light, which may be that of a light just below it."""
Box = tuple[float, float, float, float]


@njit(cache=True)
def _area(rgba, left, across, top, down, light, shares, bounds, guesses, out):
    source_height, source_width = rgba.shape[0], rgba.shape[1]
    height, width = out.shape[0], out.shape[1]
    full = across * down
    sums = np.empty((width, 4))
    for y in range(height):
        above, below = max(top + y * down, 0.0), min(top + (y + 1) * down, float(source_height))
        sums[:] = 0.0
        for row in range(int(above), source_height):
            tall = min(below, row + 1.0) - max(above, float(row))
            if tall <= 0.0:
                break
            for x in range(width):
                begin, end = max(left + x * across, 0.0), min(left + (x + 1) * across, float(source_width))
                red = green = blue = alpha = 0.0
                first, last = int(begin), int(np.ceil(end))
                for column in range(first, last):
                    wide = 1.0
                    if column == first or column == last - 1:
                        wide = max(min(end, column + 1.0) - max(begin, float(column)), 0.0)
                    covered = wide * shares[rgba[row, column, 3]]
                    red += covered * light[rgba[row, column, 0]]
                    green += covered * light[rgba[row, column, 1]]
                    blue += covered * light[rgba[row, column, 2]]
                    alpha += covered
                sums[x, 0] += tall * red
                sums[x, 1] += tall * green
                sums[x, 2] += tall * blue
                sums[x, 3] += tall * alpha
        for x in range(width):
            alpha = sums[x, 3]
            out[y, x, 3] = int(min(alpha / full, 1.0) * 255.0 + 0.5)
            for channel in range(3):
                value = 0
                if alpha > 0.0:
                    seen = min(sums[x, channel] / alpha, 1.0)
                    value = guesses[int(seen * FINE)]
                    while seen >= bounds[value]:
                        value += 1
                out[y, x, channel] = value


def scaled(rgba: Bytes, width: int, height: int, box: Box | None = None) -> Bytes:
    """A picture, or a part of it, at another size.

    Parameters
    ----------
    rgba : Bytes
        (h, w, 4) uint8 sRGB.
    width, height : int
        Of the result.
    box : Box | None
        Left, top, right and bottom of the part that fills the result, in pixels of the picture, which may be fractions and may lie
        beyond it: nothing is there. None for the whole.

    Returns
    -------
    Bytes
        (height, width, 4) uint8 sRGB. What is clear adds no color; where all is clear it is black.
    """
    left, top, right, bottom = box or (0.0, 0.0, float(rgba.shape[1]), float(rgba.shape[0]))
    out = np.empty((height, width, 4), dtype=np.uint8)
    _area(
        np.ascontiguousarray(rgba), left, (right - left) / width, top, (bottom - top) / height, LIGHT, SHARES, BOUNDS, GUESSES, out
    )  # fmt: skip
    return out
