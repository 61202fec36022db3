"""Value: whether the palette still reads in gray, and which neighbors in the picture melt together there."""

from collections.abc import Sequence

import numpy as np

from huvren.core.checks.check import CHECKS, MOST_MENDS, Check, Mend, Part, Report, Setting, Settings, listed, nothing
from huvren.core.checks.drawing import Drawing, short
from huvren.core.checks.moving import movable, nearest_lightness, recolored, way
from huvren.core.checks.subject import Subject
from huvren.core.color.arrays import Flags, Floats, Integers
from huvren.core.color.eight_bits import hex_of, to_eight_bits
from huvren.core.color.spaces import convert
from huvren.core.lenses.lightness import in_gray

APART_IN_COLOR = 3.0
"""ΔEOK×100 below which two swatches are not meant to be told apart anyway."""
MOST_BORDER = 0.5
NOTHING = "#808080"
"""Pixels that no swatch paints."""


def neighbors(subject: Subject) -> Floats:
    """(n, n) share of all borders: in the pictures, or where none is linked between neighbors of the strip, equally.

    Parameters
    ----------
    subject : Subject
        The palette with what it is compared with.

    Returns
    -------
    Floats
        (n, n) share of all borders.
    """
    if subject.touching:
        return subject.borders
    count = len(subject.swatches)
    shares = np.zeros((count, count))
    at = np.arange(count - 1)
    shares[at, at + 1] = shares[at + 1, at] = 1 / max(count - 1, 1)
    return shares


def melting(subject: Subject, shares: Floats, apart: float, border: float) -> list[tuple[int, int]]:
    """Places of neighbors that differ in color but hardly in lightness, the longest border first.

    Parameters
    ----------
    subject : Subject
        The palette with what it is compared with.
    shares : Floats
        (n, n) as `neighbors` gives them.
    apart : float
        ΔEOK×100 from which two colors count as different.
    border : float
        Share of all borders from which two neighbors count.

    Returns
    -------
    list[tuple[int, int]]
        Pairs of places.
    """
    first, second = subject.pairs
    found = (
        (shares[first, second] >= border)
        & (np.abs(subject.oklab[first, 0] - subject.oklab[second, 0]) < apart)
        & (subject.gaps[first, second] >= APART_IN_COLOR)
    )
    pairs = list(zip(first[found].tolist(), second[found].tolist(), strict=True))
    return sorted(pairs, key=lambda pair: -shares[pair])


def _parted(subject: Subject, shares: Floats, pair: tuple[int, int], apart: float, border: float) -> Mend | None:
    """One of the two, moved in lightness as little as may be; it takes care not to melt into another neighbor, where it can."""
    for careful in (True, False):
        for place in movable(subject, *pair):
            other = pair[1] if place == pair[0] else pair[0]
            rivals = np.flatnonzero(shares[place] >= border) if careful else np.array([other])

            def holds(srgb: Floats, rivals: Integers = rivals) -> Flags:
                lightness = convert(srgb, "srgb", "oklab")[:, 0]
                return np.asarray((np.abs(lightness[:, None] - subject.oklab[rivals, 0][None]) >= apart).all(axis=1))

            found = nearest_lightness(subject.oklch[place], holds)
            if found is not None:
                return Mend(f"Make {subject.name(place)} {way(subject, place, found)}", recolored(subject.swatches[place], found))
    return None


LADDER, WIDTH = 560, 860


def _pictures(sheet: Drawing, subject: Subject, grays: Sequence[str]) -> None:
    """The linked picture in color and in gray, at the right."""
    plate = subject.plate
    if plate is None:
        return
    height, width = plate.indices.shape
    scale = min((WIDTH - LADDER - 24) / width, 122 / height)
    for y, codes in ((84, [subject.hex(place) for place in range(len(subject.swatches))]), (210, grays)):
        table = [codes[subject.place_of[swatch]] if swatch in subject.place_of else NOTHING for swatch in plate.table]
        left = WIDTH - width * scale
        sheet.image(left, y, width * scale, height * scale, plate.indices, table, title="The linked picture")


def _draw(subject: Subject, pairs: list[tuple[int, int]]) -> Drawing:
    count = len(subject.swatches)
    rows = min(len(pairs), 6)
    sheet = Drawing(
        WIDTH, 360 + 34 * ((rows + 1) // 2), "The strip in color and in gray, and each swatch at its height on a ladder of values."
    )
    gray = to_eight_bits(in_gray(subject.srgb))
    codes = [hex_of(row) for row in gray.tolist()]
    strip = WIDTH / count
    width = (LADDER if subject.plate else WIDTH) / count
    for place in range(count):
        ids, name = (subject.swatches[place].id,), f"{subject.name(place)}: lightness {subject.oklab[place, 0]:.2f}"
        sheet.rect(place * strip, 0, strip + 0.3, 34, subject.hex(place), ids, name)
        sheet.rect(place * strip, 40, strip + 0.3, 34, codes[place], ids, name)
        y = 330 - float(subject.oklab[place, 0]) * 220
        sheet.rect(place * width, y, max(width - 1, 1.5), 332 - y, codes[place], ids, name)
        sheet.rect(place * width, y - 5, max(width - 1, 1.5), 5, subject.hex(place), ids, name)
    sheet.line(0, 332, count * width, 332, "ink", 1.5)
    _pictures(sheet, subject, codes)
    for place, other in pairs[:24]:
        a, b = ((at + 0.5) * width for at in (place, other))
        y = 318 - float(max(subject.oklab[[place, other], 0])) * 220
        both = subject.ids((place, other))
        sheet.outline(f"M{a:.1f} {y:.1f}Q{(a + b) / 2:.1f} {y - 16:.1f} {b:.1f} {y:.1f}", stroke="ink", size=1.5, ids=both)
    for number, (place, other) in enumerate(pairs[:rows]):
        x, y = (number % 2) * 430, 350 + number // 2 * 34
        for at, which in enumerate((place, other)):
            sheet.rect(x + at * 26, y, 26, 26, subject.hex(which), subject.ids((which,)))
            sheet.rect(x + 60 + at * 26, y, 26, 26, codes[which], subject.ids((which,)))
        words = short(f"{subject.name(place)} · {subject.name(other)}", 40)
        sheet.words(x + 124, y + 18, words, 12, "ink", ids=subject.ids((place, other)))
    return sheet


def _examine(subject: Subject, limits: Settings) -> Report:
    count = len(subject.swatches)
    if count < 2:
        return nothing("Values are compared between two swatches or more; there is one.")
    apart, border = float(limits["apart"]), float(limits["border"]) / 100
    shares = neighbors(subject)
    if not subject.touching:
        border = 0.0 + 1e-12
    pairs = melting(subject, shares, apart, border)
    where = "in the picture" if subject.touching else "in the strip (no picture is linked)"
    spread = f"Values run from {subject.oklab[:, 0].min():.2f} to {subject.oklab[:, 0].max():.2f}; "
    if not pairs:
        parts = [Part(f"{spread}no two neighbors {where} melt together in gray.{subject.left_out}")]
        return Report("holds", tuple(parts), lambda views: _draw(subject, []))
    melt = sum(float(shares[pair]) for pair in pairs)
    named = listed((Part(f"{subject.name(a)} and {subject.name(b)}", subject.ids((a, b))) for a, b in pairs), len(pairs))
    parts = [Part(spread), *named, Part(f" melt together in gray: {melt * 100:.0f} % of the borders {where}.{subject.left_out}")]
    return Report(
        "fails" if melt > MOST_BORDER else "look",
        tuple(parts),
        lambda views: _draw(subject, pairs),
        lambda: (_parted(subject, shares, pair, apart, border) for pair in pairs[:MOST_MENDS]),
        tuple((subject.swatches[a].id, subject.swatches[b].id) for a, b in pairs),
    )


CHECKS.register(
    Check(
        "value",
        "Value",
        "Does it read in gray?",
        "Form is read from light and dark. Two colors of the same value part while the hue is seen, and melt together at a distance, "
        "in poor light, in print and to eyes that see little color.",
        "Steps on the ladder. Bows join neighbors of one height: their border is lost in gray.",
        _examine,
        ("#b0483a", "#3f7f4a", "#7a5fa8", "#8a6a1e", "#2c7f96", "#f4ead6", "#1c1a20"),
        (
            Setting(
                "apart", "apart in lightness by", 0.05, "Neighbors nearer than this melt together.", low=0.01, high=0.3, step=0.01
            ),
            Setting(
                "border", "counts from a border of", 1, "Share of all borders in the picture.", low=0, high=50, step=0.5, unit="%"
            ),
        ),
    )
)
