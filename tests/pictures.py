"""Pictures made for tests, and files that are broken on purpose."""

import io
import struct
import zlib

import numpy as np
from PIL import Image

from huvren.core.color.arrays import Bytes


def opaque(rgb: Bytes) -> Bytes:
    """(h, w, 3) → (h, w, 4)."""
    return np.dstack([rgb, np.full(rgb.shape[:2], 255, np.uint8)])


def painted(height: int = 96, width: int = 128, seed: int = 3) -> Bytes:
    """A soft glow with grain and a few small saturated spots, as photographs have: (h, w, 4) uint8."""
    random = np.random.default_rng(seed)
    y, x = np.mgrid[0:height, 0:width] / height
    glow = np.exp(-((x - 0.6) ** 2 + (y - 0.4) ** 2) * 5)
    rgb = np.stack([40 + 200 * glow, 30 + 140 * glow + 20 * y, 60 + 50 * (1 - glow) + 30 * x], axis=-1)
    rgb += random.normal(0, 4, rgb.shape)
    for _ in range(6):
        cy, cx = random.uniform(0.1, 0.9), random.uniform(0.1, 1.2)
        rgb[np.hypot(x - cx, y - cy) < 0.05] = random.integers(0, 256, 3)
    return opaque(np.clip(np.rint(rgb), 0, 255).astype(np.uint8))


def png(rgba: Bytes, **options: object) -> bytes:
    """PNG bytes of an (h, w, 4) or (h, w, 3) array."""
    buffer = io.BytesIO()
    Image.fromarray(rgba).save(buffer, "PNG", **options)
    return buffer.getvalue()


def saved(image: Image.Image, kind: str, **options: object) -> bytes:
    buffer = io.BytesIO()
    image.save(buffer, kind, **options)
    return buffer.getvalue()


def chunk(kind: bytes, data: bytes) -> bytes:
    return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))


def png_claiming(width: int, height: int) -> bytes:
    """A small PNG file whose header claims any size."""
    header = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    body = zlib.compress(b"\0" * 100)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", header) + chunk(b"IDAT", body) + chunk(b"IEND", b"")
