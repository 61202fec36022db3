"""Balance: where the swatches lie along lightness, chroma and hue, and where they leave gaps or crowd."""

from collections.abc import Sequence

import numpy as np

from huvren.core.checks.check import CHECKS, Check, Mend, Part, Report, Setting, Settings, nothing
from huvren.core.checks.drawing import Drawing
from huvren.core.checks.subject import Subject
from huvren.core.color.arrays import Floats, Integers
from huvren.core.palette.operations.bake_ramp import FillBetween
from huvren.core.palette.operations.delete import DeleteSwatches
from huvren.core.ramp.recipe import RampRecipe

FEWEST = 4
NEUTRAL = 0.02
"""OKLCh chroma below which a hue says nothing."""
WIDEST_CHROMA = 0.33
LEFT, WIDTH = 86, 750


def gaps_in(lightness: Floats, limit: float) -> list[tuple[int, int]]:
    """Places of the two swatches around every gap of lightness that is wider than the limit, the widest first.

    Parameters
    ----------
    lightness : Floats
        (n,) OKLab lightness 0..1.
    limit : float
        Lightness 0..1 that a gap may have.

    Returns
    -------
    list[tuple[int, int]]
        Pairs of places.
    """
    order = np.argsort(lightness, kind="stable")
    rises = np.diff(lightness[order])
    return [(int(order[at]), int(order[at + 1])) for at in np.argsort(-rises, kind="stable") if rises[at] > limit]


def crowd_in(lightness: Floats, width: float) -> Integers:
    """Places of the most swatches that lie within so much lightness of each other, the darkest such crowd.

    Parameters
    ----------
    lightness : Floats
        (n,) OKLab lightness 0..1.
    width : float
        Lightness 0..1.

    Returns
    -------
    Integers
        (m,) places, rising.
    """
    order = np.argsort(lightness, kind="stable")
    held = lightness[order]
    counts = np.searchsorted(held, held + width + 1e-12, side="right") - np.arange(len(held))
    begin = int(np.argmax(counts))
    return order[begin : begin + int(counts[begin])]


def _thinned(subject: Subject, width: float, share: float) -> list[int] | None:
    """The fewest unlocked swatches, always the one nearest to another, without which there is no crowd; None where that cannot be."""
    left = np.arange(len(subject.swatches))
    gone: list[int] = []
    while len(left) >= FEWEST:
        crowd = left[crowd_in(subject.oklab[left, 0], width)]
        if len(crowd) <= share * len(left):
            return gone
        free = [place for place in crowd.tolist() if not subject.swatches[place].locked]
        if not free:
            return None
        gaps = subject.gaps[np.ix_(free, left)] + np.where(np.array(free)[:, None] == left[None], np.inf, 0)
        worst = free[int(gaps.min(axis=1).argmin())]
        gone.append(worst)
        left = left[left != worst]
    return None


def _comb(sheet: Drawing, subject: Subject, values: Floats, top: float, y: float, wide: bool, up: bool, shown: Sequence[int]) -> None:
    span = WIDTH / max(len(subject.swatches), 24)
    for place in sorted(shown, key=lambda place: -subject.coverage(place)):
        width = max(2.0, min(60.0, (subject.coverage(place) * WIDTH / 3) if wide else span * 0.5))
        x = LEFT + float(np.clip(values[place] / top, 0, 1)) * WIDTH - width / 2
        swatch = subject.swatches[place]
        sheet.rect(x, y if up else y - 52, width, 52, subject.hex(place), (swatch.id,), f"{subject.name(place)}: {values[place]:.2f}")
    sheet.line(LEFT, y, LEFT + WIDTH, y, "ink", 1.5)


def _draw(subject: Subject, views: Settings, holes: list[tuple[int, int]], crowd: Integers) -> Drawing:
    other = subject.others.get(str(views["beside"])) if views["beside"] else None
    second = Subject(other, most=subject.most) if other else None
    row = 142 if second else 112
    sheet = Drawing(860, 40 + 3 * row, "Combs of lightness, chroma and hue; each swatch is a tooth at its place.")
    for number, (name, channel, top, ends) in enumerate(
        (
            ("lightness", 0, 1.0, ("black", "white")),
            ("chroma", 1, WIDEST_CHROMA, ("gray", "vivid")),
            ("hue", 2, 360.0, ("0°", "360°")),
        )
    ):
        y = 80 + number * row
        sheet.words(0, y - 30, name, 13, "ink", bold=True)
        sheet.words(LEFT, y - 58, ends[0], 11)
        sheet.words(LEFT + WIDTH, y - 58, ends[1], 11, anchor="end")
        for palette, up in ((subject, False), (second, True)):
            if palette is None or not palette.swatches:
                continue
            vivid = np.flatnonzero(palette.oklch[:, 1] >= NEUTRAL).tolist()
            shown = vivid if channel == 2 else list(range(len(palette.swatches)))
            _comb(sheet, palette, palette.oklch[:, channel], top, y, views["teeth"] == "coverage", up, shown)
        if channel == 2:
            neutral = int((subject.oklch[:, 1] < NEUTRAL).sum())
            sheet.words(0, y - 12, f"{neutral} neutral", 11)
        if channel == 0:
            for low, high in holes:
                a, b = (LEFT + float(subject.oklab[place, 0]) * WIDTH for place in (low, high))
                sheet.line(a, y + 6, b, y + 6, "ink", 3, subject.ids((low, high)))
                sheet.words((a + b) / 2, y + 20, "gap", 11, "ink", "middle", ids=subject.ids((low, high)))
            if crowd.size:
                a, b = (LEFT + float(subject.oklab[crowd, 0].min()) * WIDTH, LEFT + float(subject.oklab[crowd, 0].max()) * WIDTH)
                sheet.outline(f"M{a:.1f} {y + 10:.1f}v5H{b:.1f}v-5", stroke="ink", size=1.5, ids=subject.ids(crowd.tolist()))
                sheet.words((a + b) / 2, y + 28, f"crowd of {len(crowd)}", 11, "ink", "middle", ids=subject.ids(crowd.tolist()))
    if second:
        sheet.words(0, sheet.height - 8, f"Hanging below each line: “{other.name if other else ''}”.", 12)
    return sheet


def _examine(subject: Subject, limits: Settings) -> Report:
    count = len(subject.swatches)
    if count < FEWEST:
        return nothing(f"Balance needs {FEWEST} swatches or more; there {'is' if count == 1 else 'are'} {count}.")
    lightness, limit = subject.oklab[:, 0], float(limits["gap"])
    width, share = float(limits["crowd_within"]), float(limits["crowd_share"]) / 100
    holes = gaps_in(lightness, limit)
    crowd = crowd_in(lightness, width)
    crowded = len(crowd) > share * count
    parts: list[Part] = []
    mends: list[Mend] = []
    for low, high in holes[:2]:
        parts.append(
            Part(
                f"{'no' if parts else 'No'} swatch between lightness {lightness[low]:.2f} and {lightness[high]:.2f}",
                subject.ids((low, high)),
            )
        )
        parts.append(Part("; "))
        needed = int(np.ceil((lightness[high] - lightness[low]) / (limit - 0.008))) - 1
        if subject.palette.slots is None and 0 < needed <= 16:
            step = FillBetween(ids=list(subject.ids((low, high))), count=needed, ramp=RampRecipe(stops=[], spacing="lightness"))
            mends.append(Mend(f"Add {'a swatch' if needed == 1 else f'{needed} swatches'} in the gap", step))
    if crowded:
        words = f"{len(crowd)} of {count} lie within {width:.2f} of each other"
        parts.append(Part(words[0] + words[1:], subject.ids(crowd.tolist())))
        gone = _thinned(subject, width, share)
        if gone:
            mends.append(Mend(f"Thin the crowd by {len(gone)}", DeleteSwatches(ids=list(subject.ids(gone)))))
    elif parts:
        parts.pop()
    vivid = subject.oklch[:, 1] >= NEUTRAL
    hues = len(np.unique(subject.oklch[vivid, 2] // 30))
    if not parts:
        parts.append(Part(f"Lightness runs from {lightness.min():.2f} to {lightness.max():.2f} without a gap or a crowd"))
    parts.append(Part(f"; {hues} of 12 parts of the hue circle are taken.{subject.left_out}"))
    return Report(
        "look" if holes or crowded else "holds",
        tuple(parts),
        lambda views: _draw(subject, views, holes, crowd if crowded else np.array([], dtype=np.int64)),
        lambda: mends,
        tuple((subject.swatches[low].id, subject.swatches[high].id) for low, high in holes),
    )


CHECKS.register(
    Check(
        "balance",
        "Balance",
        "Is it balanced?",
        "A palette with a hole in its values cannot draw the tone that is missing, and one that crowds in a place spends swatches "
        "on differences that nobody sees.",
        "Even combs. A wide space between two teeth is a tone you will miss; many teeth in one place do the work of one.",
        _examine,
        ("#1a1420", "#241c2c", "#2c2236", "#33283f", "#3a2e48", "#f2e6cc", "#fff4dc"),
        (
            Setting("gap", "widest gap in lightness", 0.17, "A gap is named from here on.", low=0.03, high=1, step=0.01),
            Setting(
                "crowd_within", "a crowd lies within", 0.08, "How near in lightness a crowd stands.", low=0.01, high=0.5, step=0.01
            ),
            Setting("crowd_share", "a crowd is more than", 45, "Share of all swatches.", low=5, high=100, unit="%"),
        ),
        (
            Setting(
                "teeth",
                "teeth",
                "equal",
                "How wide a tooth is.",
                "choice",
                choices=(("equal", "equally wide"), ("coverage", "by coverage")),
            ),
            Setting("beside", "beside", "", "Another palette of the shelf, hanging below each line.", "palette"),
        ),
    )
)
