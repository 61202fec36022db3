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


def coverage_of(links: list[Link]) -> dict[str, float] | None:
    """Share of the linked pictures' pixels, 0..1, that each swatch paints; None where no picture is linked."""
    counts, total = pixels_per_swatch(links)
    return {swatch_id: count / total for swatch_id, count in counts.items()} if total else None
