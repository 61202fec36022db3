"""Links: how a revision says what the indices of a reduced picture mean.

An index map is stored once and never changes. Each revision lists, per picture, the map and a table that gives every
index of the map its swatch id. So moving swatches costs nothing, recoloring shows at once, removing or merging
rewrites a table of at most 256 ids, and undo, being another revision, brings the old tables back exactly.

A link: picture, map, width, height, table (swatch ids, or null for none), counts (pixels per index),
recipe, figures, revision (the number of the revision that reduced).
"""

from collections.abc import Mapping
from typing import Any

import numpy as np

from huvren.core.color.difference import DELTA_SCALE
from huvren.core.palette.values import Palette

Link = dict[str, Any]


def follow(links: list[Link], before: Palette, after: Palette, successors: Mapping[str, str]) -> list[Link]:
    """The links of the revision after a step: pixels of a removed swatch go to its successor, or the nearest color."""
    present = {swatch.id for swatch in after.swatches}
    if all(swatch.id in present for swatch in before.swatches):
        return links
    colors = {swatch.id: swatch.color for swatch in before.swatches}
    candidates = [swatch for swatch in after.swatches if swatch.color.alpha > 0]
    places = np.array([swatch.color.oklab for swatch in candidates]).reshape(-1, 3)

    def heir(swatch_id: str | None) -> str | None:
        seen: set[str] = set()
        while swatch_id in successors and swatch_id not in seen:
            seen.add(swatch_id)
            swatch_id = successors[swatch_id]
        if swatch_id is None or swatch_id in present:
            return swatch_id
        if swatch_id not in colors or not candidates:
            return None
        gaps = np.linalg.norm(places - np.array(colors[swatch_id].oklab), axis=1)
        return candidates[int(gaps.argmin())].id

    return [{**link, "table": [heir(swatch_id) for swatch_id in link["table"]]} for link in links]


def pixels_per_swatch(links: list[Link]) -> tuple[dict[str, int], int]:
    """Pixels of each swatch over all linked pictures, and pixels in all."""
    counts: dict[str, int] = {}
    total = 0
    for link in links:
        for swatch_id, count in zip(link["table"], link["counts"], strict=True):
            total += count
            if swatch_id is not None:
                counts[swatch_id] = counts.get(swatch_id, 0) + count
    return counts, total


def picture_change(links: list[Link], before: Palette, after: Palette, tables: list[Link]) -> tuple[float, float] | None:
    """Mean and largest ΔEOK×100 that the pixels of the linked pictures change by; None where no picture is linked.

    links : as they are; tables : as they would be. Pixels that have a swatch on one side alone do not count.
    """
    old = {swatch.id: np.array(swatch.color.oklab) for swatch in before.swatches}
    new = {swatch.id: np.array(swatch.color.oklab) for swatch in after.swatches}
    total, pixels, largest = 0.0, 0, 0.0
    for link, then in zip(links, tables, strict=True):
        for was, will, count in zip(link["table"], then["table"], link["counts"], strict=True):
            if count and was in old and will in new:
                gap = float(np.linalg.norm(old[was] - new[will])) * DELTA_SCALE
                total, pixels, largest = total + gap * count, pixels + count, max(largest, gap)
    return (total / pixels, largest) if pixels else None


def coverage_of(links: list[Link]) -> dict[str, float] | None:
    """Share of the linked pictures' pixels, 0..1, that each swatch paints; None where no picture is linked."""
    counts, total = pixels_per_swatch(links)
    return {swatch_id: count / total for swatch_id, count in counts.items()} if total else None
