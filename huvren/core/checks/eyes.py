"""Eyes: pairs that are apart for most and together for some."""

import numpy as np

from huvren.core.checks.check import CHECKS, MOST_MENDS, Check, Mend, Part, Report, Setting, Settings, Verdict, listed, nothing
from huvren.core.checks.drawing import Drawing, short
from huvren.core.checks.moving import movable, nearest_lightness, recolored, way
from huvren.core.checks.seeing import ORDINARY, gaps_by_eyes, looks_to
from huvren.core.checks.subject import Subject, gaps
from huvren.core.color.arrays import Flags, Floats
from huvren.core.color.eight_bits import hex_of, to_eight_bits
from huvren.core.color.vision import VISIONS, seen
from huvren.core.errors import BadInput


def confused(subject: Subject, apart: float, together: float, severity: float) -> list[tuple[int, int, str, float]]:
    """Places of each two that ordinary eyes part and others do not, the kind that parts them least, and their ΔEOK×100 to it.

    Those that touch in a picture come first, by the border they share; then the most alike.
    """
    first, second = subject.pairs
    table = gaps_by_eyes(subject, severity)
    kinds = list(VISIONS.ids())
    values = np.stack([table[kind][first, second] for kind in kinds])
    least, which = values.min(axis=0), values.argmin(axis=0)
    found = np.flatnonzero((table[ORDINARY][first, second] >= apart) & (least < together))
    made = [(int(first[n]), int(second[n]), kinds[int(which[n])], float(least[n])) for n in found]
    return sorted(made, key=lambda entry: (-float(subject.borders[entry[0], entry[1]]), entry[3]))


def _parted(subject: Subject, pair: tuple[int, int], together: float, severity: float) -> Mend | None:
    """The smallest change of lightness that parts the two for all, and if it can be brings no other two together."""
    looks = {kind: looks_to(subject.srgb, kind, severity) for kind in VISIONS.ids()}
    table = gaps_by_eyes(subject, severity)
    for careful in (True, False):
        for place in movable(subject, *pair):
            other = pair[1] if place == pair[0] else pair[0]
            fine = [
                at for at in range(len(subject.swatches)) if at != place and min(table[kind][place, at] for kind in looks) >= together
            ]
            rivals = [other, *fine] if careful else [other]

            def holds(srgb: Floats, rivals: list[int] = rivals) -> Flags:
                good = np.ones(len(srgb), dtype=bool)
                for kind, looked in looks.items():
                    good &= (gaps(looks_to(srgb, kind, severity), looked[rivals]) >= together).all(axis=1)
                return good

            found = nearest_lightness(subject.oklch[place], holds)
            if found is not None:
                return Mend(
                    f"Make {subject.name(place)} {way(subject, place, found)}, apart from {subject.name(other)} for all",
                    recolored(subject.swatches[place], found),
                )
    return None


def _draw(subject: Subject, pairs: list[tuple[int, int, str, float]], severity: float) -> Drawing:
    shown = pairs[:9]
    kinds = [ORDINARY, *VISIONS.ids()]
    width = 860 / max(len(subject.swatches), 1)
    sheet = Drawing(
        860,
        176 + 66 * ((len(shown) + 2) // 3),
        "The strip as four kinds of eyes see it, and pairs that come together for one of them.",
    )
    for row, kind in enumerate(kinds):
        srgb = subject.srgb if kind == ORDINARY else seen(subject.srgb, VISIONS[kind], severity)
        sheet.words(0, row * 40 + 20, "most eyes" if kind == ORDINARY else VISIONS[kind].label, 12, "ink")
        for place, color in enumerate(to_eight_bits(srgb).tolist()):
            left = 92 + place * width * 768 / 860
            sheet.rect(
                left,
                row * 40,
                width * 768 / 860 + 0.3,
                34,
                hex_of(color),
                subject.ids((place,)),
                subject.name(place),
            )
    for number, (a, b, kind, gap) in enumerate(shown):
        x, y = number % 3 * 290, 176 + number // 3 * 66
        srgb = to_eight_bits(seen(subject.srgb[[a, b]], VISIONS[kind], severity)).tolist()
        for at, place in enumerate((a, b)):
            ids = subject.ids((place,))
            sheet.outline(f"M{x + at * 34} {y}h34v22l-34 0Z", fill=subject.hex(place), ids=ids)
            sheet.outline(f"M{x + at * 34} {y + 24}h34v22h-34Z", fill=hex_of(srgb[at]), ids=ids)
        sheet.words(x + 78, y + 16, short(f"{subject.name(a)} · {subject.name(b)}", 29), 11, "ink", ids=subject.ids((a, b)))
        sheet.words(x + 78, y + 34, f"ΔE {subject.gaps[a, b]:.0f} → {gap:.1f}, {VISIONS[kind].label}", 11, ids=subject.ids((a, b)))
    return sheet


def _examine(subject: Subject, limits: Settings) -> Report:
    if len(subject.swatches) < 2:
        return nothing("Eyes are asked about two swatches or more; there is one.")
    apart, together, severity = float(limits["apart"]), float(limits["together"]), float(limits["severity"]) / 100
    if together > apart:
        raise BadInput(
            f"Two swatches cannot be together below ΔE {together:g} and apart only from {apart:g}. Lower the "
            "first or raise the second."
        )
    pairs = confused(subject, apart, together, severity)
    if not pairs:
        words = (
            f"Whatever most eyes part by ΔE {apart:g}, all kinds of eyes part by {together:g} at severity "
            f"{severity * 100:.0f} %.{subject.left_out}"
        )
        return Report("holds", (Part(words),), lambda views: _draw(subject, pairs, severity))
    named = listed(
        (
            Part(f"{subject.name(a)} and {subject.name(b)} ({VISIONS[kind].label}, ΔE {gap:.1f})", subject.ids((a, b)))
            for a, b, kind, gap in pairs
        ),
        len(pairs),
    )
    touch = sum(subject.borders[a, b] > 0 for a, b, _, _ in pairs)
    tail = (
        f"; {touch} of them touch in the picture"
        if subject.touching and touch
        else "; none of them touch in the picture"
        if subject.touching
        else ""
    )
    verdict: Verdict = "fails" if any(subject.borders[a, b] > 0.02 for a, b, _, _ in pairs) else "look"
    return Report(
        verdict,
        (Part("Together for some: "), *named, Part(f"{tail}.{subject.left_out}")),
        lambda views: _draw(subject, pairs, severity),
        lambda: (_parted(subject, (a, b), together, severity) for a, b, _, _ in pairs[:MOST_MENDS]),
        tuple((subject.swatches[a].id, subject.swatches[b].id) for a, b, _, _ in pairs),
    )


CHECKS.register(
    Check(
        "eyes",
        "Eyes",
        "Who cannot tell these apart?",
        "About one man in twelve sees reds and greens nearer together than you do. A difference in lightness reaches everybody.",
        "Pairs whose upper halves differ and whose lower halves do not: those are seen as one. Most urgent where the two touch.",
        _examine,
        ("#b5533c", "#6f7f2f", "#3c6fb5", "#8a6fb5", "#f0d9a0"),
        (
            Setting("apart", "apart for most from ΔE", 10, "What counts as meant to differ.", low=1, high=60),
            Setting("together", "together for some below ΔE", 5, "What counts as one color.", low=0.5, high=30, step=0.5),
            Setting("severity", "severity", 100, "Of the eyes' weakness.", low=5, high=100, unit="%"),
        ),
    )
)
