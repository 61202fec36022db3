"""Pictures: taking them in, and their decoded form while it is being worked with."""

import hashlib
import io
import threading
from collections import OrderedDict
from dataclasses import dataclass
from typing import Any

import numpy as np
from django.db import transaction
from django.utils import timezone
from PIL import Image

from huvren.core.color.arrays import Bytes
from huvren.core.errors import TooLarge
from huvren.core.palette.values import clean_name
from huvren.core.pictures import MEDIA_TYPES, MOST_BYTES, encode_png, read_picture, scale_down
from huvren.core.pictures import Picture as Decoded
from huvren.core.reduction.histogram import Histogram, build_histogram
from huvren.studio.access import User, key_of
from huvren.studio.models import Picture, StoredBytes

THUMBNAIL_PIXELS = 480 * 320
FULL_PIXELS, PREVIEW_PIXELS = 580_000, 330_000
"""Up to the first size the preview is the result itself; larger pictures are previewed on a copy of the second."""


@dataclass(frozen=True)
class Working:
    """A decoded picture at one scale with its histogram, ready to be reduced again and again."""

    rgba: Bytes
    histogram: Histogram
    is_full: bool


class WorkingCache:
    """The pictures last worked with, decoded, up to a number of bytes."""

    def __init__(self, most_bytes: int) -> None:
        self.most_bytes = most_bytes
        self._entries: OrderedDict[tuple[str, bool, int], Working] = OrderedDict()
        self._lock = threading.Lock()

    def get(self, picture: Picture, *, preview: bool, alpha_threshold: int) -> Working:
        """The picture decoded at full size, or at preview scale."""
        key = (picture.original_id, preview and picture.width * picture.height > FULL_PIXELS, alpha_threshold)
        with self._lock:
            if key in self._entries:
                self._entries.move_to_end(key)
                return self._entries[key]
        rgba = read_stored(picture)
        if key[1]:
            rgba = scale_down(rgba, PREVIEW_PIXELS)
        working = Working(rgba, build_histogram(rgba, alpha_threshold), not key[1])
        with self._lock:
            self._entries[key] = working
            while len(self._entries) > 1 and sum(self._size(entry) for entry in self._entries.values()) > self.most_bytes:
                self._entries.popitem(last=False)
        return working

    @staticmethod
    def _size(working: Working) -> int:
        return int(working.rgba.nbytes + working.histogram.distinct * 24 + 3_200_000)


WORKING = WorkingCache(512 * 1024 * 1024)


def _store(data: bytes, media_type: str) -> StoredBytes:
    """Contents once. A row that is there is touched, so that a cleaning going on meanwhile leaves it."""
    digest = hashlib.sha256(data).hexdigest()
    if StoredBytes.objects.filter(sha256=digest).update(created=timezone.now()):
        return StoredBytes.objects.only("sha256", "media_type").get(sha256=digest)
    return StoredBytes.objects.get_or_create(sha256=digest, defaults={"data": data, "media_type": media_type})[0]


def _thumbnail(decoded: Decoded) -> bytes:
    small = Image.fromarray(scale_down(decoded.rgba, THUMBNAIL_PIXELS), "RGBA")
    buffer = io.BytesIO()
    small.save(buffer, "WEBP", quality=88)
    return buffer.getvalue()


def take_in(user: User, name: str, data: bytes) -> Picture:
    """Decode, check and store a picture. Nothing is stored when it cannot be read."""
    plain = clean_name(name.replace("\\", "/").rsplit("/", 1)[-1][:200]) or "Picture"
    if len(data) > MOST_BYTES:
        raise TooLarge(f"“{plain}” has more than {MOST_BYTES // 1048576} MB. Save it smaller, or as JPEG or WebP.")
    decoded = read_picture(data, plain)
    distinct = build_histogram(decoded.rgba, 1).distinct
    display = data if decoded.as_stored else encode_png(decoded.rgba)
    media_type = next((MEDIA_TYPES[key] for key in MEDIA_TYPES if key == decoded.format.upper()), "image/png")
    thumbnail = _thumbnail(decoded)
    with transaction.atomic():
        return Picture.objects.create(
            owner_id=key_of(user),
            name=plain,
            original=_store(data, media_type),
            display=_store(display, media_type if decoded.as_stored else "image/png"),
            thumbnail=_store(thumbnail, "image/webp"),
            format=decoded.format,
            width=decoded.width,
            height=decoded.height,
            distinct=distinct,
            notes=list(decoded.notes),
        )


def read_stored(picture: Picture) -> Bytes:
    """(h, w, 4) uint8 of a picture at full size, for work that will not come back to it."""
    return read_picture(bytes(picture.original.data), picture.name).rgba


def as_map(data: bytes, width: int, height: int) -> Bytes:
    """(h, w) uint8 of an index map's bytes."""
    return np.frombuffer(data, dtype=np.uint8).reshape(height, width)


def stem(name: str) -> str:
    """A picture's name without its ending, for the palette made from it."""
    return name.rsplit(".", 1)[0] if "." in name else name


def look_up(table: list[int], indices: Bytes) -> Any:
    """(h, w) map of indices through a table of new ones."""
    lut = np.zeros(256, dtype=np.uint8)
    lut[: len(table)] = table
    return lut[indices]
