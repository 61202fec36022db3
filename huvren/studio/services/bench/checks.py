"""Checks of a palette on the shelf: what they look at, gathered from the palette, its pictures and other palettes."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import partial
from uuid import UUID

import numpy as np

from huvren.core.checks import CHECKS, Report, Setting, examine_all, known_limits
from huvren.core.checks.pictures import plate_of, sample_of
from huvren.core.checks.subject import Sample, Subject
from huvren.core.checks.touching import INDICES, by_swatch, touching
from huvren.core.color.arrays import Integers
from huvren.core.color.notation import parse_color
from huvren.core.errors import Unknown
from huvren.core.palette import values
from huvren.core.palette.check_limits import as_mapping
from huvren.core.palette.operations import Operation
from huvren.studio.access import User, visible
from huvren.studio.bounds import MB
from huvren.studio.models import Picture
from huvren.studio.services.bench import pictures
from huvren.studio.services.load.remembering import Remembered
from huvren.studio.services.shelf import palettes
from huvren.studio.services.shelf.links import Links, stored_map, usage_of

MOST_FRAMES = 24


BORDERS: Remembered[str, Integers] = Remembered(24 * MB, lambda borders: borders.nbytes)
"""By map; maps never change."""
SAMPLES: Remembered[str, Sample] = Remembered(16 * MB, lambda sample: sample.oklab.nbytes + sample.weights.nbytes)
"""By the contents of the picture's file."""


def _borders(map_id: str) -> Integers:
    """(k, 3) int32: two indices that meet in a stored map, the lesser first, and how often."""
    counts = np.triu(touching(stored_map(map_id)), k=1)
    first, second = np.nonzero(counts)
    return np.column_stack([first, second, counts[first, second]]).astype(np.int32)


def touching_of(links: Links) -> dict[tuple[str, str], int]:
    """Borders between swatches over all linked pictures, of a sequence the first frames."""
    found: dict[tuple[str, str], int] = {}
    for link in links:
        for frame in link.frames[:MOST_FRAMES]:
            counts = np.zeros((INDICES, INDICES), dtype=np.int64)
            first, second, times = BORDERS.get(frame.map, partial(_borders, frame.map)).T
            counts[first, second] = times
            for pair, count in by_swatch(counts, link.table).items():
                found[pair] = found.get(pair, 0) + count
    return found


def _sample(picture_id: UUID) -> Sample:
    picture = Picture.objects.get(pk=picture_id)
    return sample_of(pictures.WORKING.get(picture, preview=True, alpha_threshold=128).rgba)


def samples_of(user: User, links: Links) -> Sample | None:
    """The linked pictures' own colors, together."""
    found = []
    for link in links[:8]:
        row = visible(user, Picture).filter(pk=link.picture).only("id", "original_id").first()
        if row is not None:
            found.append(SAMPLES.get(row.original_id, partial(_sample, row.id)))
    if not found:
        return None
    return Sample(np.concatenate([sample.oklab for sample in found]), np.concatenate([sample.weights for sample in found]))


def _named(settings: tuple[Setting, ...], given: Mapping[str, object]) -> list[str]:
    return [str(given[s.id]) for s in settings if s.kind == "palette" and given.get(s.id)]


def _other(user: User, palette_id: str) -> values.Palette | None:
    try:
        state = palettes.get_state(user, UUID(palette_id))
    except (Unknown, ValueError):
        return None
    return None if state.row.trashed else state.palette


@dataclass(frozen=True)
class Examined:
    """Reports by check; notes : of limits that could not be gone by; limits : those that were, by check."""

    subject: Subject
    reports: Mapping[str, Report]
    notes: tuple[str, ...]
    limits: Mapping[str, Mapping[str, float | str]]


def examine_palette(
    user: User,
    palette_id: UUID,
    *,
    limits: Mapping[str, Mapping[str, object]] | None = None,
    views: Mapping[str, object] | None = None,
    colors: Mapping[str, str] | None = None,
    operation: Operation | None = None,
    only: list[str] | None = None,
    shows_picture: bool = True,
) -> Examined:
    """Every check, or some, of a palette as it is, or as it would be with other colors or after a step; nothing is stored.

    limits : instead of those that the palette keeps; views : of the check that is looked at; shows_picture : whether a
    linked picture will be drawn. Raises `BadInput` and `Unknown`.
    """
    state = palettes.get_state(user, palette_id)
    palette, links = state.palette, state.links
    if operation is not None:
        proposed = palettes.propose(state, operation)
        palette, links = proposed.palette, proposed.links
    if colors:
        changed = {s.id: replace(s, color=parse_color(colors[s.id])) for s in palette.swatches if s.id in colors}
        palette = palette.change_all(changed)
    notes: list[str] = []
    if limits is None:
        held, notes = known_limits(as_mapping(palette.limits))
    else:
        held = {CHECKS[check].id: dict(CHECKS[check].settled(given)) for check, given in limits.items()}
    wanted = [name for check in CHECKS for name in _named(check.limits, held.get(check.id, {}))]
    wanted += [name for check in CHECKS for name in _named(check.views, views or {})]
    others = {name: _other(user, name) for name in dict.fromkeys(wanted)}
    plate = plate_of(stored_map(links[0].frames[0].map), links[0].table) if links and shows_picture else None
    subject = Subject(palette, usage_of(links) if links else None, touching_of(links) or None, samples_of(user, links), plate, others)
    return Examined(subject, examine_all(subject, held, only), tuple(notes), held)
