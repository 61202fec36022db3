"""A small drawing surface in linear light: soft shapes over (h, w, 3) float arrays."""

from collections.abc import Sequence

import numpy as np

from huvren.core.color.arrays import Bytes, Floats
from huvren.core.color.eight_bits import to_eight_bits
from huvren.core.color.transfer import decode_srgb_array, encode_srgb_array

Tone = tuple[int, int, int]


def smooth(start: float, end: float, values: Floats) -> Floats:
    """Smoothstep from 0 at `start` to 1 at `end`; works downward too."""
    t = np.clip((values - start) / (end - start), 0, 1)
    return np.asarray(t * t * (3 - 2 * t))


class Canvas:
    """Pixels in linear sRGB with coordinates x to the right and y down."""

    def __init__(self, width: int, height: int, ground: Tone, seed: int) -> None:
        self.width, self.height = width, height
        self.y, self.x = np.mgrid[0:height, 0:width].astype(float)
        self.pixels = np.zeros((height, width, 3)) + self.linear(ground)
        self.random = np.random.default_rng(seed)

    @staticmethod
    def linear(tone: Sequence[float]) -> Floats:
        """8-bit sRGB to linear light."""
        return np.asarray(decode_srgb_array(np.array(tone) / 255))

    def wash(self, tone: Tone, cover: Floats, window: tuple[slice, slice] = (slice(None), slice(None))) -> None:
        """Lay a color over, `cover` 0..1 for each pixel of the window."""
        part = self.pixels[window]
        self.pixels[window] = part * (1 - cover[..., None]) + self.linear(tone) * cover[..., None]

    def window(self, left: float, top: float, right: float, bottom: float) -> tuple[slice, slice]:
        """The pixels inside a box, limited to the canvas."""
        return (
            slice(max(int(top), 0), min(max(int(bottom) + 2, 0), self.height)),
            slice(max(int(left), 0), min(max(int(right) + 2, 0), self.width)),
        )

    def glow(self, x: float, y: float, radius: float, tone: Tone, strength: float, flat: float = 1.2) -> None:
        self.wash(tone, smooth(radius, radius * 0.12, np.hypot((self.x - x) / flat, self.y - y)) * strength)

    def disc(self, x: float, y: float, radius: float, tone: Tone, edge: float = 1.0) -> None:
        reach = radius + edge + 1
        window = self.window(x - reach, y - reach, x + reach, y + reach)
        self.wash(tone, smooth(radius + edge, radius - edge, np.hypot(self.x[window] - x, self.y[window] - y)), window)

    def line(self, points: Floats, width: float, tone: Tone, cover: float = 1.0) -> None:
        """A stroke through (n, 2) points."""
        (left, top), (right, bottom) = points.min(axis=0) - width - 1, points.max(axis=0) + width + 1
        window = self.window(left, top, right, bottom)
        x, y = self.x[window], self.y[window]
        nearest = np.full(x.shape, np.inf)
        for (x0, y0), (x1, y1) in zip(points[:-1], points[1:], strict=True):
            length = max((x1 - x0) ** 2 + (y1 - y0) ** 2, 1e-9)
            t = np.clip(((x - x0) * (x1 - x0) + (y - y0) * (y1 - y0)) / length, 0, 1)
            nearest = np.minimum(nearest, np.hypot(x - x0 - t * (x1 - x0), y - y0 - t * (y1 - y0)))
        self.wash(tone, smooth(width / 2 + 0.7, width / 2 - 0.7, nearest) * cover, window)

    def leaf(self, x: float, y: float, angle: float, length: float, width: float, tone: Tone, vein: Tone) -> None:
        u = (self.x - x) * np.cos(angle) + (self.y - y) * np.sin(angle)
        v = -(self.x - x) * np.sin(angle) + (self.y - y) * np.cos(angle)
        shape = (u / length) ** 2 + (v / (width * (1 - 0.6 * np.clip(u / length, -1, 1)))) ** 2
        mask = smooth(1.05, 0.9, shape)
        self.wash(tone, mask * 0.95)
        self.wash(vein, smooth(1.5, 0.2, np.abs(v)) * mask * 0.35)

    def render(self, grain: float = 0.006) -> Bytes:
        """(h, w, 3) uint8 sRGB with a little grain."""
        noise = self.random.normal(0, grain, (self.height, self.width, 1))
        light = np.clip(self.pixels * (1 + noise * 2) + noise * 0.2, 0, 1)
        return to_eight_bits(encode_srgb_array(light))
