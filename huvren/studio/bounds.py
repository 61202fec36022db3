"""How much may be sent, kept and asked for: bodies by address, quotas by artist, how often, and how long a request may take.

The proxy's configuration (`tools/proxy.py`) is made from `BODIES`, so that what is too large is refused before it is taken.
"""

import os
import re
from dataclasses import dataclass

MB = 1024 * 1024
SIGNED_OUT = "You are signed out. Sign in again; nothing was lost."
"""What the application and the proxy before it both say."""


def _number(name: str, usual: int) -> int:
    return int(os.environ.get(name) or usual)


@dataclass(frozen=True)
class Body:
    """What may be sent to an address. path : the address, or where `is_folder` all below it too."""

    path: str
    most_bytes: int
    is_folder: bool = False

    def meets(self, path: str) -> bool:
        return path == self.path or (self.is_folder and path.startswith(self.path + "/"))


MOST_ARCHIVE_BYTES = _number("HUVREN_MOST_ARCHIVE_MB", 1024) * MB
MOST_PICTURE_BYTES = 81 * MB
"""A picture of the most bytes there may be (`core.pictures.MOST_BYTES`), and what stands around a file in a form."""
MOST_ANONYMOUS_BYTES = 16 * 1024
"""From somebody who is not signed in: a name and a password."""
UPLOADS = (
    Body("/api/pictures", MOST_PICTURE_BYTES), Body("/api/imports", MOST_PICTURE_BYTES),
    Body("/api/library/archive", MOST_ARCHIVE_BYTES),
)  # fmt: skip
"""What comes as a file. It is spooled to a disk, and only once its sender is known."""
MOST_JSON_BYTES = 32 * MB
"""A palette of the most swatches there may be, as a document."""
BODIES = (*UPLOADS, Body("/api/palettes", MOST_JSON_BYTES, True), Body("/api/ramps", 2 * MB, True), Body("/api", 4 * MB, True))


def most_bytes(path: str) -> int:
    """Bytes that a body to this address may have at most."""
    return next((body.most_bytes for body in BODIES if body.meets(path)), MOST_ANONYMOUS_BYTES)


DEADLINE_S = float(_number("HUVREN_DEADLINE_S", 20))
GRACE_S = float(os.environ.get("HUVREN_GRACE_S") or 10)
"""So long after its deadline a request is given up that does not break itself off."""
LONG_DEADLINE_S = 120.0
"""For what is made or read while it is sent: a whole shelf as one file."""
LONG = ("/api/library/archive",)


def deadline_s(path: str) -> float:
    """Seconds that a request may work; waiting for its turn does not count."""
    return LONG_DEADLINE_S if path in LONG else DEADLINE_S


HEAVY = re.compile(
    r"/(?:previews|previews/size|reductions|errors|figures|curve|match|merge-tree|fit|gray|seen|dithered|piece|review|sample|samples|archive"
    r"|zip)$|^/api/(?:imports|pictures|palettes)$"
)
"""What takes more than a moment of a processor, by the end of its address."""
HEAVY_BYTES = 100_000
"""Bodies from which any request does."""


CACHE_BYTES = _number("HUVREN_CACHE_MB", 512) * MB // _number("HUVREN_PROCESSES", 2)
"""Decoded pictures that one process keeps for the next preview: its share of what all of a `serve` keep."""


@dataclass(frozen=True)
class Quota:
    """What one artist may keep at most, and how many jobs may wait or go on at once."""

    bytes: int
    pictures: int
    palettes: int
    jobs: int


QUOTA = Quota(
    _number("HUVREN_QUOTA_MB", 4096) * MB, _number("HUVREN_QUOTA_PICTURES", 5000), _number("HUVREN_QUOTA_PALETTES", 10_000),
    _number("HUVREN_QUOTA_JOBS", 50),
)  # fmt: skip
