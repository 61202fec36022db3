"""Pictures: taking them in, and their decoded form while it is being worked with."""

import contextlib
import hashlib
import io
import threading
from collections import OrderedDict
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import timedelta
from functools import cached_property
from typing import Any

import numpy as np
from django.db import IntegrityError, OperationalError, transaction
from django.utils import timezone
from PIL import Image

from huvren.core.color.arrays import Bytes
from huvren.core.errors import TooLarge
from huvren.core.palette.values import clean_name
from huvren.core.pictures import MOST_BYTES, encode_png, pixels_claimed, read_picture, scale_down
from huvren.core.pictures import Picture as Decoded
from huvren.core.reduction.histogram import Histogram, build_histogram, count_distinct
from huvren.studio.access import User, key_of, visible
from huvren.studio.bounds import CACHE_BYTES
from huvren.studio.models import Picture, StoredBytes
from huvren.studio.services.load.gate import GATE
from huvren.studio.services.load.lane import LANE
from huvren.studio.services.load.quotas import check_bytes, make_room
from huvren.studio.services.shelf.cleaning import unnamed

THUMBNAIL_PIXELS, THUMBNAIL_SIDE = 480 * 320, 4096
DECODING_BYTES = 16
"""Bytes that a pixel takes while a picture is decoded, looked at and encoded again."""
MOST_PIXELS = 40_000_000
"""Of a picture that is taken in: with all that is worked out of it, a worker stays within its memory."""
FULL_PIXELS, PREVIEW_PIXELS, BUSY_PIXELS = 580_000, 330_000, 110_000
"""Up to the first size the preview is the result itself; larger pictures are previewed on a copy of the second, or of the third while
others wait for their turn."""


@dataclass(frozen=True)
class Working:
    """A decoded picture at one scale, ready to be reduced again and again."""

    rgba: Bytes
    alpha_threshold: int
    is_full: bool

    @cached_property
    def histogram(self) -> Histogram:
        return build_histogram(self.rgba, self.alpha_threshold)

    @property
    def bytes(self) -> int:
        """What it takes in memory, with all that has been worked out of it as yet."""
        held = self.rgba.nbytes
        if (histogram := self.__dict__.get("histogram")) is not None:
            arrays = [histogram.bits, histogram.ranks, histogram.colors, histogram.counts, histogram.oklab]
            if (points := histogram.__dict__.get("points")) is not None:
                arrays += [points.places, points.weights, points.bin_of]
            held += sum(array.nbytes for array in arrays)
        return int(held)


class WorkingCache:
    """The pictures last worked with, decoded, up to a number of bytes.

    What a picture takes grows while it is worked with, so the whole is counted at each look, and one that is larger than all that
    may be held is given out and not kept.
    """

    def __init__(self, most_bytes: int) -> None:
        self.most_bytes = most_bytes
        self._entries: OrderedDict[tuple[str, int, int], Working] = OrderedDict()
        self._lock = threading.Lock()

    def get(self, picture: Picture, *, preview: bool, alpha_threshold: int, tiny: bool = False) -> Working:
        """The picture decoded at full size, at preview scale, or as small as previews are while others wait (`tiny`)."""
        is_small = preview and picture.width * picture.height > (BUSY_PIXELS if tiny else FULL_PIXELS)
        most = (BUSY_PIXELS if tiny or LANE.is_wanted(besides=picture.owner_id) else PREVIEW_PIXELS) if is_small else 0
        key = (picture.original_id, most, alpha_threshold)
        with self._lock:
            self._shrink(self.most_bytes)
            if key in self._entries:
                self._entries.move_to_end(key)
                return self._entries[key]
            decoded = self._entries.get((picture.original_id, 0, alpha_threshold))
        if decoded:
            rgba = scale_down(decoded.rgba, most)
        else:
            with GATE.enter(picture.width * picture.height * DECODING_BYTES):
                self.make_room(picture.width * picture.height * 4)
                rgba = read_stored(picture)
                if is_small:
                    rgba = scale_down(rgba, most)
        working = Working(rgba, alpha_threshold, not is_small)
        with self._lock:
            self._entries[key] = working
            self._shrink(self.most_bytes)
        return working

    def make_room(self, wanted: int) -> None:
        """Let go of what was worked with longest ago, until so many bytes more would still be within the most."""
        with self._lock:
            self._shrink(self.most_bytes - wanted)

    def _shrink(self, most: int) -> None:
        """First what can be counted again from the pixels goes, then the pixels; what was used longest ago before the rest."""
        held = sum(entry.bytes for entry in self._entries.values())
        for entry in self._entries.values():
            if held <= most:
                return
            held -= entry.bytes
            entry.__dict__.pop("histogram", None)
            held += entry.bytes
        while self._entries and held > most:
            held -= self._entries.popitem(last=False)[1].bytes

    @property
    def bytes(self) -> int:
        with self._lock:
            return sum(entry.bytes for entry in self._entries.values())


WORKING = WorkingCache(CACHE_BYTES)


def _store(data: bytes, media_type: str) -> StoredBytes:
    """Contents once. A row that is there is touched, so that a cleaning going on meanwhile leaves it."""
    digest = hashlib.sha256(data).hexdigest()
    if StoredBytes.objects.filter(sha256=digest).update(created=timezone.now()):
        return StoredBytes.objects.only("sha256", "media_type").get(sha256=digest)
    return StoredBytes.objects.get_or_create(sha256=digest, defaults={"data": data, "media_type": media_type})[0]


def _thumbnail(decoded: Decoded) -> bytes:
    small = Image.fromarray(scale_down(decoded.rgba, THUMBNAIL_PIXELS, THUMBNAIL_SIDE), "RGBA")
    buffer = io.BytesIO()
    small.save(buffer, "WEBP", quality=88)
    return buffer.getvalue()


LATELY = timedelta(minutes=30)


def _plain(name: str) -> str:
    """What a picture is called, of the name of its file."""
    return clean_name(name.replace("\\", "/").rsplit("/", 1)[-1][:200]) or "Picture"


def came_lately(user: User, name: str, data: bytes) -> Picture | None:
    """The newest picture on the shelf that came in a little while ago with this name and these contents, if there is one."""
    digest = hashlib.sha256(data).hexdigest()
    lately = visible(user, Picture).filter(trashed__isnull=True, original=digest, created__gt=timezone.now() - LATELY)
    return lately.filter(name=_plain(name)).order_by("-created").first()


def take_in(user: User, name: str, data: bytes) -> Picture:
    """Decode, check and store a picture. Nothing is stored when it cannot be read."""
    plain = _plain(name)
    if len(data) > MOST_BYTES:
        raise TooLarge(f"“{plain}” has more than {MOST_BYTES // 1048576} MB. Save it smaller, or as JPEG or WebP.")
    check_bytes(key_of(user), len(data))
    looked = look_at(data, plain)
    with transaction.atomic():
        return put_on_shelf(user, plain, store_files(looked))


@dataclass(frozen=True)
class Looked:
    """What is worked out of a picture before it is stored. display : empty where a browser shows the file itself."""

    facts: dict[str, Any]
    media_type: str
    original: bytes
    display: bytes
    thumbnail: bytes

    @property
    def size(self) -> int:
        return len(self.original) + len(self.display) + len(self.thumbnail)


@dataclass(frozen=True)
class Files:
    """What is kept of a picture besides its name: facts, bytes in all, and the digests of its stored files."""

    facts: dict[str, Any]
    size: int
    original: str
    display: str
    thumbnail: str


def pixels_of(data: bytes, name: str) -> int:
    """Pixels that a file claims. Raises `BadFile` or `TooLarge` before anything is decoded."""
    return pixels_claimed(data, name)


def look_at(data: bytes, name: str) -> Looked:
    """Decode and check a picture, as soon as there is room for it. Nothing is stored."""
    pixels = pixels_of(data, name)
    with GATE.enter(pixels * DECODING_BYTES):
        WORKING.make_room(pixels * 4)
        decoded = read_picture(data, name, MOST_PIXELS)
        facts = {
            "format": decoded.format, "width": decoded.width, "height": decoded.height,
            "distinct": count_distinct(decoded.rgba, 1), "notes": list(decoded.notes),
        }  # fmt: skip
        thumbnail = _thumbnail(decoded)
        display = b"" if decoded.as_stored else encode_png(decoded.rgba)
    return Looked(facts, decoded.kind.media_type, data, display, thumbnail)


def store_files(looked: Looked) -> Files:
    """Store the files of a picture; nothing names them yet."""
    original = _store(looked.original, looked.media_type).pk
    display = _store(looked.display, "image/png").pk if looked.display else original
    return Files(looked.facts, looked.size, original, display, _store(looked.thumbnail, "image/webp").pk)


def let_go(stored: Iterable[Files]) -> None:
    """Of files that were stored for pictures which come to nothing, those that nobody names go at once."""
    digests = {digest for files in stored for digest in (files.original, files.display, files.thumbnail)}
    # Whoever names one in this very moment is told apart by the database: the others are found by the next cleaning.
    with contextlib.suppress(IntegrityError, OperationalError), transaction.atomic():
        unnamed().filter(pk__in=digests).delete()


def files_of(row: Picture) -> Files:
    """Those of a picture that is on a shelf, for another of the same file."""
    facts = {name: getattr(row, name) for name in ("format", "width", "height", "distinct", "notes")}
    return Files(facts, row.bytes, row.original_id, row.display_id, row.thumbnail_id)


def put_on_shelf(user: User, name: str, files: Files) -> Picture:
    """A row for a picture whose files are stored, within a transaction."""
    make_room(user, pictures=1, more_bytes=files.size)
    return Picture.objects.create(
        owner_id=key_of(user), name=name, original_id=files.original, display_id=files.display, thumbnail_id=files.thumbnail,
        bytes=files.size, **files.facts,
    )  # fmt: skip


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
