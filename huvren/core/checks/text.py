"""Text: which swatches carry text, by the contrast ratio of WCAG 2.2."""

import numpy as np

from huvren.core.checks.check import CHECKS, Check, Mend, Part, Report, Setting, Settings, Verdict, nothing
from huvren.core.checks.drawing import Drawing, short
from huvren.core.checks.moving import movable, nearest_lightness, recolored, way
from huvren.core.checks.subject import Subject, luminance
from huvren.core.color.arrays import Flags, Floats
from huvren.core.errors import BadInput

LARGE_TEXT = 3.0
"""What WCAG 2.2 asks of large text."""
MOST_IN_FIELD = 20
FLARE = 0.05


def ratios(subject: Subject) -> Floats:
    """(n, n) contrast ratios, 1 to 21.

    Parameters
    ----------
    subject : Subject
        The palette with what it is compared with.

    Returns
    -------
    Floats
        (n, n) contrast ratios, 1 to 21.
    """
    return ratio(subject.luminance[:, None], subject.luminance[None])


def ratio(first: Floats, second: Floats) -> Floats:
    """Contrast ratio of two relative luminances, whichever is lighter.

    Parameters
    ----------
    first : Floats
        Relative luminance.
    second : Floats
        Relative luminance.

    Returns
    -------
    Floats
        1 to 21.
    """
    light, dark = np.maximum(first, second), np.minimum(first, second)
    return np.asarray((light + FLARE) / (dark + FLARE))


def _mends(subject: Subject, pair: tuple[int, int], low: float, high: float) -> list[Mend]:
    made = []
    for place in movable(subject, *pair):
        other = pair[1] if place == pair[0] else pair[0]

        def holds(srgb: Floats, other: int = other) -> Flags:
            reached = ratio(luminance(srgb), np.asarray(subject.luminance[other]))
            return np.asarray((reached >= low) & (reached <= high))

        found = nearest_lightness(subject.oklch[place], holds)
        if found is not None:
            made.append(
                Mend(
                    f"Make {subject.name(place)} {way(subject, place, found)}, to {low:g} on {subject.name(other)}",
                    recolored(subject.swatches[place], found),
                )
            )
    return made


def _field_of(subject: Subject) -> list[int]:
    """Swatches shown in the field: all, or so many spread over their lightness."""
    count = len(subject.swatches)
    order = np.argsort(subject.luminance, kind="stable")
    if count <= MOST_IN_FIELD:
        return [int(place) for place in order]
    return [int(order[round(step)]) for step in np.linspace(0, count - 1, MOST_IN_FIELD)]


def _draw(subject: Subject, table: Floats, best: list[tuple[int, int]], low: float, high: float) -> Drawing:
    shown = _field_of(subject)
    cell = min(44.0, 500 / len(shown))
    side = cell * len(shown)
    sheet = Drawing(
        860, max(side + 64, 440), "Every swatch as ink on every swatch as ground; those within the band carry sample letters."
    )
    sheet.words(max(cell + 6, 54), 12, "ground →", 12)
    sheet.words(0, 12, "ink ↓", 12)
    for row, ink in enumerate(shown):
        sheet.rect(0, 20 + row * cell, cell - 6, cell - 2, subject.hex(ink), subject.ids((ink,)), subject.name(ink))
        for column, ground in enumerate(shown):
            x, y = cell + 6 + column * (side - 6) / len(shown), 20 + row * cell
            size = (side - 6) / len(shown)
            ids, value = subject.ids((ink, ground)), float(table[ink, ground])
            title = f"{subject.name(ink)} on {subject.name(ground)}: {value:.2f}"
            sheet.rect(x, y, size, cell - 2, subject.hex(ground), ids, title)
            if low <= value <= high:
                sheet.words(x + size / 2, y + cell * 0.62, "Ag", cell * 0.42, subject.hex(ink), "middle", bold=True, ids=ids)
            elif LARGE_TEXT <= value < low:
                sheet.words(x + size / 2, y + cell * 0.62, "A", cell * 0.36, subject.hex(ink), "middle", ids=ids)
    left = side + cell + 30
    for number, (ink, ground) in enumerate(best[:5]):
        y, width = 20 + number * 78, 860 - left
        ids, value = subject.ids((ink, ground)), float(table[ink, ground])
        sheet.rect(left, y, width, 70, subject.hex(ground), ids)
        sheet.words(left + 10, y + 27, "Lantern moth", 20, subject.hex(ink), bold=True, ids=ids)
        sheet.words(left + 10, y + 44, "at the trap, after dusk, night four", 11, subject.hex(ink), ids=ids)
        sheet.words(
            left + 10,
            y + 60,
            short(f"{value:.1f} · {subject.name(ink)} on {subject.name(ground)}", 42),
            11,
            subject.hex(ink),
            ids=ids,
        )
    foot = max(side + 40, 20 + 78 * min(len(best), 5) + 20)
    sheet.words(0, foot, f"Ag: {low:g} to {high:g}. A: from {LARGE_TEXT:g}, for large text only. Empty: too weak, or glaring.", 12)
    if len(subject.swatches) > MOST_IN_FIELD:
        sheet.words(0, foot + 18, f"{MOST_IN_FIELD} of {len(subject.swatches)} swatches are shown, spread over their lightness.", 12)
    return sheet


def _examine(subject: Subject, limits: Settings) -> Report:
    low, high, needed = float(limits["low"]), float(limits["high"]), int(float(limits["pairs"]))
    if low > high:
        raise BadInput(f"Text cannot have at least {low:g} and at most {high:g}. Turn one of the two limits.")
    if len(subject.swatches) < 2:
        return nothing("Text takes an ink and a ground; there is one swatch.")
    table = ratios(subject)
    first, second = subject.pairs
    values = table[first, second]
    order = np.argsort(-values, kind="stable")
    inside = order[(values[order] >= low) & (values[order] <= high)]
    asked = [subject.place_of.get(str(limits[key])) for key in ("ink", "ground")]
    chosen = (asked[0], asked[1]) if asked[0] is not None and asked[1] is not None and asked[0] != asked[1] else None

    def dark_first(number: int) -> tuple[int, int]:
        pair = (int(first[number]), int(second[number]))
        return pair if subject.luminance[pair[0]] <= subject.luminance[pair[1]] else (pair[1], pair[0])

    best = [dark_first(int(number)) for number in (inside if inside.size else order)[:5]]
    named, value = (chosen, float(table[chosen])) if chosen else (best[0], float(table[best[0]]))
    fits = low <= value <= high
    what = Part(f"{subject.name(named[0])} on {subject.name(named[1])}", subject.ids(named))
    large = int(((values >= LARGE_TEXT) & (values < low)).sum())
    count = f"{len(inside)} of {len(values)} pairs carry text at {low:g} to {high:g}"
    verdict: Verdict
    if chosen and not fits:
        why = "too weak" if value < low else "glaring"
        parts = [what, Part(f" has {value:.2f}, {why} for {low:g} to {high:g}; {count}.{subject.left_out}")]
        verdict = "fails"
    elif len(inside) >= needed:
        parts = [Part(f"{count}; {'chosen' if chosen else 'the strongest'} is "), what, Part(f" with {value:.2f}.{subject.left_out}")]
        verdict = "holds"
    else:
        weak = value < low
        verdict = "look" if large and weak and needed <= 1 else "fails"
        extra = f"; {large} more would do for large text" if large else ""
        parts = [
            Part(f"{count if len(inside) else 'No pair carries text'}, {needed} {'is' if needed == 1 else 'are'} wanted: "),
            what,
            Part(f" has {value:.2f}{extra}.{subject.left_out}"),
        ]
    failing = verdict != "holds"
    pairs = ((subject.swatches[named[0]].id, subject.swatches[named[1]].id),) if failing and not fits else ()
    outside = order[(values[order] < low) | (values[order] > high)][:2]
    candidates = [named] if chosen else [dark_first(int(number)) for number in outside]

    def mends() -> list[Mend]:
        return [mend for pair in candidates for mend in _mends(subject, pair, low, high)] if failing else []

    return Report(verdict, tuple(parts), lambda views: _draw(subject, table, best, low, high), mends, pairs)


CHECKS.register(
    Check(
        "text",
        "Text",
        "Can text be read on it?",
        "Letters are thin. They need far more contrast than patches of color do, and too much of it dazzles on a bright screen.",
        "Sample letters you can read without effort at your distance. Turn about: a pair that carries dark text on light does not "
        "feel the same the other way round.",
        _examine,
        ("#8a8f6a", "#a39a78", "#7d8a92", "#b0a58c"),
        (
            Setting("low", "at least", 4.5, "WCAG 2.2 asks 4.5 of ordinary text, 7 for more comfort.", low=1, high=21, step=0.1),
            Setting("high", "at most", 21, "Above this the pair glares; long texts are easier below 15.", low=1, high=21, step=0.1),
            Setting("pairs", "pairs wanted", 1, "How many pairs have to carry text.", low=1, high=100),
            Setting("ink", "ink", "", "A swatch that has to be read on the ground.", "swatch"),
            Setting("ground", "ground", "", "The swatch it lies on.", "swatch"),
        ),
    )
)
