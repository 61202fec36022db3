"""Links of a palette to pictures, as steps change them.

An index map is stored once and never changes. Each revision lists, per picture, the map of every frame and one table that
gives every index its swatch id (`core/stored/link.py`). So moving swatches costs nothing, recoloring shows at once, removing or
merging rewrites a table of at most 256 ids, and undo, being another revision, brings the old tables back exactly.
"""

import gzip
from collections.abc import Iterable, Mapping, Sequence

import numpy as np
from django.db.models import F

from huvren.core.color.arrays import Bytes
from huvren.core.color.difference import DELTA_SCALE
from huvren.core.palette.values import Palette
from huvren.core.stored.link import FrameMap, Link
from huvren.studio.models import IndexMap, Picture

STORED_LEVEL = 6

Links = tuple[Link, ...]


def store_map(picture: Picture, indices: Bytes, tiles: bytes = b"") -> IndexMap:
    """Keep the (h, w) index map of one frame."""
    height, width = indices.shape
    data = gzip.compress(np.ascontiguousarray(indices).tobytes(), STORED_LEVEL, mtime=0)
    Picture.objects.filter(pk=picture.pk).update(bytes=F("bytes") + len(data) + len(tiles))
    return IndexMap.objects.create(picture=picture, width=width, height=height, data=data, tiles=tiles)


def index_map_of(link: Link, frame: int = 0) -> Bytes:
    """The (h, w) index map of one frame of a link, as it was stored."""
    return stored_map(link.frames[frame].map)


def stored_map(map_id: str) -> Bytes:
    """A (h, w) index map by its id, which some link names."""
    row = IndexMap.objects.get(pk=map_id)
    return np.frombuffer(gzip.decompress(bytes(row.data)), dtype=np.uint8).reshape(row.height, row.width)


def frame_of(row: IndexMap, counts: Iterable[int]) -> FrameMap:
    return FrameMap(map=str(row.pk), counts=tuple(int(count) for count in counts))


def follow(links: Links, before: Palette, after: Palette, successors: Mapping[str, str]) -> Links:
    """The links of the revision after a step: pixels of a removed swatch go to its successor, or the nearest color."""
    present = {swatch.id for swatch in after.swatches}
    if all(swatch.id in present for swatch in before.swatches):
        return links
    colors = {swatch.id: swatch.color for swatch in before.swatches}
    candidates = [swatch for swatch in after.swatches if swatch.color.alpha > 0]
    places = np.array([swatch.color.oklab for swatch in candidates]).reshape(-1, 3)

    def heir(swatch_id: str | None) -> str | None:
        seen: set[str] = set()
        while swatch_id is not None and swatch_id in successors and swatch_id not in seen:
            seen.add(swatch_id)
            swatch_id = successors[swatch_id]
        if swatch_id is None or swatch_id in present:
            return swatch_id
        if swatch_id not in colors or not candidates:
            return None
        gaps = np.linalg.norm(places - np.array(colors[swatch_id].oklab), axis=1)
        return candidates[int(gaps.argmin())].id

    return tuple(link.with_table(tuple(heir(swatch_id) for swatch_id in link.table)) for link in links)


Painted = tuple[Sequence[str | None], Sequence[float]]
"""A table of swatch ids, and how many pixels each of its indices paints."""


def painted(links: Iterable[Link]) -> list[Painted]:
    return [(link.table, link.counts) for link in links]


def pixels_per_swatch(tables: Iterable[Painted]) -> tuple[dict[str, float], float]:
    """Pixels of each swatch over all linked pictures, and pixels in all."""
    counts: dict[str, float] = {}
    total = 0.0
    for table, pixels in tables:
        for swatch_id, count in zip(table, pixels, strict=True):
            total += count
            if swatch_id is not None:
                counts[swatch_id] = counts.get(swatch_id, 0) + count
    return counts, total


def usage_of(links: Iterable[Link]) -> dict[str, int]:
    """Pixels that each swatch paints, as operations take them."""
    return {swatch_id: int(count) for swatch_id, count in pixels_per_swatch(painted(links))[0].items()}


def picture_change(links: Links, before: Palette, after: Palette, tables: Links) -> tuple[float, float] | None:
    """Mean and largest ΔEOK×100 that the pixels of the linked pictures change by; None where no picture is linked.

    links : as they are; tables : as they would be. Pixels that have a swatch on one side alone do not count.
    """
    old = {swatch.id: np.array(swatch.color.oklab) for swatch in before.swatches}
    new = {swatch.id: np.array(swatch.color.oklab) for swatch in after.swatches}
    total, pixels, largest = 0.0, 0, 0.0
    for link, then in zip(links, tables, strict=True):
        for was, will, count in zip(link.table, then.table, link.counts, strict=True):
            if count and was in old and will in new:
                gap = float(np.linalg.norm(old[was] - new[will])) * DELTA_SCALE
                total, pixels, largest = total + gap * count, pixels + count, max(largest, gap)
    return (total / pixels, largest) if pixels else None


def coverage_of(tables: Iterable[Painted]) -> dict[str, float] | None:
    """Share of the linked pictures' pixels, 0..1, that each swatch paints; None where no picture is linked."""
    counts, total = pixels_per_swatch(tables)
    return {swatch_id: count / total for swatch_id, count in counts.items()} if total else None
