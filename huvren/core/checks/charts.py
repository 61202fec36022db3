"""Charts: whether the palette holds as categories of a chart, on every ground and to every kind of eyes."""

import numpy as np

from huvren.core.checks.check import CHECKS, Check, Mend, Part, Report, Setting, Settings, Verdict, nothing
from huvren.core.checks.drawing import Drawing, polygon, short
from huvren.core.checks.moving import least_push, movable, recolored
from huvren.core.checks.ordering import EXACT_UP_TO, farthest_order
from huvren.core.checks.seeing import ORDINARY, gaps_by_eyes, looks_to
from huvren.core.checks.subject import Subject, gaps
from huvren.core.color.arrays import Flags, Floats
from huvren.core.color.notation import parse_color
from huvren.core.color.vision import VISIONS
from huvren.core.palette.operations.delete import DeleteSwatches
from huvren.core.palette.operations.sort import TakeOrder

MOST_IN_CHART = 12
MOST_ORDERED = 64
GROUNDS = (("paper", "#fbfaf7"), ("night", "#17161a"))


def least_gaps(subject: Subject, severity: float) -> Floats:
    """(n, n) ΔEOK×100 to whichever eyes see the two most alike.

    Parameters
    ----------
    subject : Subject
        The palette with what it is compared with.
    severity : float
        0 for ordinary eyes to 1.

    Returns
    -------
    Floats
        (n, n) ΔEOK×100 to whichever eyes see the two most alike.
    """
    return np.asarray(np.min(np.stack(list(gaps_by_eyes(subject, severity).values())), axis=0))


def _pushed(subject: Subject, pair: tuple[int, int], least: float, severity: float) -> Mend | None:
    """One of the two, pushed until it is so far from every other swatch, or where that cannot be, from the other one."""
    kinds = [ORDINARY, *VISIONS.ids()] if severity > 0 else [ORDINARY]
    looks = {kind: looks_to(subject.srgb, kind, severity) for kind in kinds}
    for careful in (True, False):
        for place in movable(subject, *pair):
            rivals = [at for at in range(len(subject.swatches)) if at != place] if careful else [at for at in pair if at != place]

            def holds(srgb: Floats, rivals: list[int] = rivals) -> Flags:
                good = np.ones(len(srgb), dtype=bool)
                for kind in kinds:
                    good &= (gaps(looks_to(srgb, kind, severity), looks[kind][rivals]) >= least).all(axis=1)
                return good

            found = least_push(subject.oklab[place], holds)
            if found is not None:
                other = pair[1] if place == pair[0] else pair[0]
                return Mend(f"Push {subject.name(place)} away from {subject.name(other)}", recolored(subject.swatches[place], found))
    return None


def _mends(subject: Subject, table: Floats, worst: tuple[int, int], is_near: bool, least: float, severity: float) -> list[Mend]:
    """Push the nearest two apart, drop the least distinct, order so that neighbors differ most."""
    count = len(subject.swatches)
    side = table[np.arange(count - 1), np.arange(1, count)]
    mends: list[Mend] = []
    if is_near:
        push = _pushed(subject, worst, least, severity)
        mends += [push] if push else []
        free = movable(subject, *worst)
        if free and count > 2:
            nearest = np.where(np.eye(count, dtype=bool), np.inf, table)
            drop = min(free, key=lambda place: float(np.sort(nearest[place])[:2].sum()))
            mends.append(Mend(f"Drop {subject.name(drop)}, the least distinct", DeleteSwatches(ids=[subject.swatches[drop].id])))
    free_order = subject.palette.slots is None and not any(swatch.group for swatch in subject.swatches) and 2 < count <= MOST_ORDERED
    if free_order and float(side.min()) < least:
        path, exact = farthest_order(table)
        after = float(table[path[:-1], path[1:]].min())
        if after > float(side.min()) + 0.05:
            how = "the best order there is" if exact else f"the best order found; beyond {EXACT_UP_TO} not all can be tried"
            ids = list(subject.ids(path))
            mends.append(Mend(f"Order so that neighbors differ by {after:.1f} ({how})", TakeOrder(ids=ids, source="the chart check")))
    return mends


def _panel(sheet: Drawing, subject: Subject, y: float, ground: str, ink: str, name: str, shown: list[int]) -> None:
    """One row: bars, lines, dots, stacked areas, a cell map and a legend, on a ground."""
    rng = np.random.default_rng(7)
    count = len(shown)
    sheet.rect(0, y, 860, 150, ground)
    sheet.words(852, y + 143, name, 10, ink, "end")
    width = 110 / count
    for at, place in enumerate(shown):
        ids, code, title = subject.ids((place,)), subject.hex(place), subject.name(place)
        tall = 30 + 84 * (0.35 + 0.65 * abs(np.sin(1.7 * at + 0.6)))
        sheet.rect(16 + at * width, y + 132 - tall, max(width - 1.5, 1), tall, code, ids, title)
        points = [(150 + 118 * t, y + 70 - 52 * np.sin(at * 1.1 + t * 4) * (0.4 + 0.6 * t) * 0.8) for t in np.linspace(0, 1, 14)]
        sheet.outline(polygon(points, closed=False), stroke=code, size=2.5, ids=ids, title=title)
        for x, dot in zip(
            rng.normal(355 + 34 * np.cos(at * 2.4), 13, 7), rng.normal(y + 74 + 34 * np.sin(at * 2.4), 11, 7), strict=True
        ):
            sheet.circle(float(np.clip(x, 296, 414)), float(np.clip(dot, y + 12, y + 138)), 3.6, code, ids, title)
    shares = np.array(
        [[1.2 + np.sin(at * 1.9 + t * 5) + 0.5 * np.sin(at + 9 * t) for t in np.linspace(0, 1, 16)] for at in range(count)]
    )
    heights = np.vstack([np.zeros(16), np.cumsum(np.clip(shares, 0.25, None), axis=0)])
    heights = heights / heights[-1].max() * 116
    across = 440 + np.linspace(0, 1, 16) * 120
    for at, place in enumerate(shown):
        above = list(zip(across, y + 132 - heights[at + 1], strict=True))
        foot = list(zip(across[::-1], (y + 132 - heights[at])[::-1], strict=True))
        sheet.outline(polygon([*above, *foot]), fill=subject.hex(place), ids=subject.ids((place,)), title=subject.name(place))
    cells = rng.integers(0, count, (6, 7))
    for row, column in np.ndindex(*cells.shape):
        place = shown[int(cells[row, column])]
        shift = 9 if row % 2 else 0
        sheet.rect(
            586 + column * 18 + shift, y + 14 + row * 20, 17, 19, subject.hex(place), subject.ids((place,)), subject.name(place)
        )
    rows = min(count, 8)
    for at, place in enumerate(shown):
        x, top = 742 + (at // rows) * 58, y + 12 + (at % rows) * 16
        sheet.rect(x, top, 11, 11, subject.hex(place), subject.ids((place,)), subject.name(place))
        label = subject.swatches[place].name or subject.hex(place)
        sheet.words(x + 15, top + 9, short(label, 16 if count <= rows else 7), 9, ink, ids=subject.ids((place,)))


def _draw(subject: Subject, views: Settings, own: str) -> Drawing:
    shown = list(range(min(len(subject.swatches), MOST_IN_CHART)))
    sheet = Drawing(
        860,
        3 * 158 + 30,
        "The swatches as categories: bars, lines, dots, areas, cells and a legend, on light, on dark and on a ground of one's own.",
    )
    own_ink = (
        "#17161a" if float(gaps(looks_to(np.array([parse_color(own).srgb]), ORDINARY, 0), np.zeros((1, 3)))[0, 0]) > 60 else "#fbfaf7"
    )
    for number, (name, ground, ink) in enumerate(
        (("on paper", GROUNDS[0][1], GROUNDS[1][1]), ("at night", GROUNDS[1][1], GROUNDS[0][1]), ("your ground", own, own_ink))
    ):
        _panel(sheet, subject, number * 158, ground, ink, name, shown)
    if len(subject.swatches) > len(shown):
        sheet.words(0, 3 * 158 + 16, f"The first {len(shown)} of {len(subject.swatches)} swatches are drawn; all are compared.", 12)
    return sheet


def _examine(subject: Subject, limits: Settings) -> Report:
    count = len(subject.swatches)
    if count < 2:
        return nothing("Categories are compared between two swatches or more; there is one.")
    most = int(float(limits["most"]))
    if count > most:
        return nothing(
            f"{count:,} swatches are more than the {most} that a chart can tell apart. Raise the limit to ask all the same."
        )
    least, severity, on_ground = float(limits["apart"]), float(limits["severity"]) / 100, float(limits["on_ground"])
    own = str(limits["ground"])
    table = least_gaps(subject, severity)
    first, second = subject.pairs
    values = table[first, second]
    order = np.argsort(values, kind="stable")
    near = order[values[order] < least]
    worst = (int(first[order[0]]), int(second[order[0]]))
    to_ground = gaps(subject.oklab, looks_to(np.array([parse_color(own).srgb]), ORDINARY, 0))[:, 0]
    faint = np.flatnonzero(to_ground < on_ground).tolist()
    side = np.abs(table[np.arange(count - 1), np.arange(1, count)])
    parts = [
        Part(
            f"{len(near)} of {len(values)} pairs are nearer than ΔE {least:g} to some eyes; nearest "
            if near.size
            else f"All pairs are ΔE {least:g} apart to all eyes; nearest "
        ),
        Part(f"{subject.name(worst[0])} and {subject.name(worst[1])}", subject.ids(worst)),
        Part(f" with {values[order[0]]:.1f}; neighbors differ by {side.min():.1f} or more"),
    ]
    if faint:
        parts += [
            Part("; faint on the ground: "),
            Part(", ".join(subject.name(place) for place in faint[:3]), subject.ids(faint)),
            Part(f" and {len(faint) - 3} more" if len(faint) > 3 else ""),
        ]
    parts.append(Part(f".{subject.left_out}"))

    def mends() -> list[Mend]:
        return _mends(subject, table, worst, bool(near.size), least, severity)

    verdict: Verdict = "fails" if near.size and values[order[0]] < least / 2 else "look" if near.size or faint else "holds"
    pairs = tuple((subject.swatches[int(first[n])].id, subject.swatches[int(second[n])].id) for n in near[:64])
    return Report(verdict, tuple(parts), lambda views: _draw(subject, views, own), mends, pairs, concerned=subject.ids(faint))


CHECKS.register(
    Check(
        "charts",
        "Charts",
        "Does a chart hold?",
        "In a chart a color is a name. Two that look alike, to anybody, give two things one name; one that "
        "is near the ground is not seen.",
        "Lines that cross and cells far from each other: can you still say which is which from the legend alone?",
        _examine,
        ("#2f6f9a", "#35759f", "#c8641e", "#8a3c14", "#2bb5a0", "#f0e6d0"),
        (
            Setting(
                "apart",
                "apart by ΔE",
                8,
                "The smallest difference between any two, to the eyes that see them most alike.",
                low=0.5,
                high=60,
                step=0.5,
            ),
            Setting("most", "categories up to", 16, "More swatches than this are no categories.", low=2, high=64),
            Setting(
                "severity",
                "eyes at severity",
                100,
                "Of protan, deutan and tritan eyes; 0 leaves them out.",
                low=0,
                high=100,
                unit="%",
            ),
            Setting("on_ground", "from the ground by ΔE", 12, "The smallest difference to the ground.", low=0, high=60),
            Setting("ground", "your ground", "#e8e2d4", "The ground of the third panel, as any color.", "color"),
        ),
    )
)
