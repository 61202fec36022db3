"""Other screens and paper: what every display lens would do to the order, the pairs and the accents of the palette."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from huvren.core.checks.check import CHECKS, Check, Mend, Part, Report, Setting, Settings, listed, nothing
from huvren.core.checks.drawing import Drawing
from huvren.core.checks.moving import least_push, movable, nearest_lightness, recolored, way
from huvren.core.checks.subject import Subject, gaps
from huvren.core.color.arrays import Bytes, Flags, Floats
from huvren.core.color.eight_bits import hex_of, to_eight_bits
from huvren.core.color.spaces import convert
from huvren.core.lenses import LENSES, Lens

STEP_SEEN = 0.02
ACCENT_CHROMA = 0.12
PAIRS_TRIED = 3


@dataclass(frozen=True)
class Shown:
    """The palette on one display. rgb : (n, 3) uint8; turned : pairs whose order in lightness is reversed; lost : pairs that were
    apart and are together; accents : strong colors that lost more than the share that is allowed."""

    lens: Lens
    """Through which it is seen."""
    rgb: Bytes
    turned: list[tuple[int, int]]
    lost: list[tuple[int, int]]
    accents: list[int]


def displays() -> list[Lens]:
    return [lens for lens in LENSES if lens.kind in {"screen", "paper"}]


def shown_on(subject: Subject, lens: Lens, apart: float, together: float, keep: float) -> Shown:
    """keep : share of its chroma that an accent has to keep."""
    rgb = to_eight_bits(lens.through(subject.srgb))
    oklab = convert(rgb / 255, "srgb", "oklab")
    first, second = subject.pairs
    before = subject.oklab[first, 0] - subject.oklab[second, 0]
    after = oklab[first, 0] - oklab[second, 0]
    turned = np.flatnonzero((np.abs(before) > STEP_SEEN) & (np.abs(after) > STEP_SEEN) & (np.sign(before) != np.sign(after)))
    lost = np.flatnonzero((subject.gaps[first, second] >= apart) & (gaps(oklab)[first, second] < together))
    chroma = np.hypot(oklab[:, 1], oklab[:, 2])
    accents = np.flatnonzero((subject.oklch[:, 1] >= ACCENT_CHROMA) & (chroma < keep * subject.oklch[:, 1]))
    pairs = [[(int(first[n]), int(second[n])) for n in found] for found in (turned, lost)]
    return Shown(lens, rgb, pairs[0], pairs[1], accents.tolist())


def _parted(subject: Subject, displays: list[Shown], pair: tuple[int, int], together: float) -> Mend | None:
    """One of two that come together on some displays, moved in lightness, or as little as may be in any direction, so that they and
    all that are apart from it there are apart on every one of them."""
    seen = [convert(shown.rgb / 255, "srgb", "oklab") for shown in displays]
    for place in movable(subject, *pair):
        other = pair[1] if place == pair[0] else pair[0]

        def holds(srgb: Floats, place: int = place, other: int = other) -> Flags:
            good = np.ones(len(srgb), dtype=bool)
            for shown, oklab in zip(displays, seen, strict=True):
                rivals = np.flatnonzero((gaps(oklab)[place] >= together) | (np.arange(len(oklab)) == other))
                there = convert(to_eight_bits(shown.lens.through(srgb)) / 255, "srgb", "oklab")
                good &= (gaps(there, oklab[rivals]) >= together).all(axis=1)
            return good

        found = nearest_lightness(subject.oklch[place], holds)
        if found is None:
            found = least_push(subject.oklab[place], holds)
        if found is not None:
            label = f"Make {subject.name(place)} {way(subject, place, found)}, apart from {subject.name(other)}"
            return Mend(label, recolored(subject.swatches[place], found))
    return None


def _ordered(subject: Subject, shown: Shown, pair: tuple[int, int]) -> Mend | None:
    """One of two whose order in lightness a display turns round, moved so far that it stays."""
    seen = convert(shown.rgb / 255, "srgb", "oklab")[:, 0]
    for place in movable(subject, *pair):
        other = pair[1] if place == pair[0] else pair[0]
        rises = np.sign(subject.oklab[place, 0] - subject.oklab[other, 0])

        def holds(srgb: Floats, other: int = other, rises: float = rises) -> Flags:
            here = convert(srgb, "srgb", "oklab")[:, 0] - subject.oklab[other, 0]
            there = convert(to_eight_bits(shown.lens.through(srgb)) / 255, "srgb", "oklab")[:, 0] - seen[other]
            return np.asarray((here * rises > STEP_SEEN) & (there * rises >= 0))

        found = nearest_lightness(subject.oklch[place], holds)
        if found is not None:
            label = f"Make {subject.name(place)} {way(subject, place, found)}, in order with {subject.name(other)}"
            return Mend(label, recolored(subject.swatches[place], found))
    return None


def _mends(subject: Subject, bad: list[Shown], together: float) -> Iterator[Mend | None]:
    """Pairs that come together on most displays first, of those the nearest, which need the least; then orders."""
    lost: dict[tuple[int, int], list[Shown]] = {}
    for entry in bad:
        for pair in entry.lost:
            lost.setdefault(pair, []).append(entry)
    for pair in sorted(lost, key=lambda pair: (-len(lost[pair]), subject.gaps[pair]))[:PAIRS_TRIED]:
        yield _parted(subject, lost[pair], pair, together)
    for entry in bad:
        for pair in entry.turned[:PAIRS_TRIED]:
            yield _ordered(subject, entry, pair)


def _badness(entry: Shown) -> int:
    return len(entry.lost) * 4 + len(entry.turned) * 2 + len(entry.accents)


def _draw(subject: Subject, shown: list[Shown]) -> Drawing:
    count = len(subject.swatches)
    width = 428 / max(count, 1)
    sheet = Drawing(860, 44 * (len(shown) + 1) + 8, "The strip on every display, with what is lost there.")
    for row, entry in enumerate([None, *shown]):
        y = row * 44
        rgb = to_eight_bits(subject.srgb) if entry is None else entry.rgb
        name = "as it is" if entry is None else entry.lens.label
        sheet.words(0, y + 22, name, 12, "ink", bold=entry is None)
        together = {place for pair in (entry.lost if entry else []) for place in pair}
        for place, color in enumerate(rgb.tolist()):
            ids = subject.ids((place,))
            sheet.rect(224 + place * width, y, width + 0.3, 34, hex_of(color), ids, subject.name(place))
            if place in together:
                sheet.rect(224 + place * width, y + 35, max(width - 1, 1), 3, "ink", ids)
        if entry:
            words = [
                f"{len(found)} {name}"
                for found, name in ((entry.lost, "lost"), (entry.turned, "turned"), (entry.accents, "dulled"))
                if found
            ]
            sheet.words(666, y + 22, ", ".join(words) or "all kept", 11)
    return sheet


def _examine(subject: Subject, limits: Settings) -> Report:
    apart, together, keep = float(limits["apart"]), float(limits["together"]), float(limits["accents"]) / 100
    if len(subject.swatches) < 2:
        return nothing("Displays are compared for two swatches or more; there is one.")
    shown = [shown_on(subject, lens, apart, together, keep) for lens in displays()]
    counted = [entry for entry in shown if entry.lens.id not in {"seven-ink", "sixteen-gray"}]
    bad = [entry for entry in counted if entry.lost or entry.turned or entry.accents]

    def part_of(entry: Shown) -> Part:
        pieces = []
        places: list[int] = []
        if entry.lost:
            pieces.append(f"{len(entry.lost)} pair{'s' if len(entry.lost) > 1 else ''} lost")
            places += [place for pair in entry.lost for place in pair]
        if entry.turned:
            pieces.append(f"{len(entry.turned)} turned round")
            places += [place for pair in entry.turned for place in pair]
        if entry.accents:
            pieces.append(f"{len(entry.accents)} accent{'s' if len(entry.accents) > 1 else ''} dulled")
            places += entry.accents
        return Part(f"{', '.join(pieces)} on {entry.lens.label}", subject.ids(list(dict.fromkeys(places))))

    few = sum(bool(entry.lost) for entry in shown if entry.lens.id in {"seven-ink", "sixteen-gray"})
    tail = f" Paper displays of few tones keep {'not all pairs' if few else 'all pairs'} apart, as is their nature." if few else ""
    if not bad:
        words = f"Order, pairs and accents are kept on {len(counted)} displays.{tail}{subject.left_out}"
        return Report("holds", (Part(words),), lambda views: _draw(subject, shown))
    worst = sorted(bad, key=lambda entry: -_badness(entry))
    parts = [*listed((part_of(entry) for entry in worst), len(worst)), Part(f".{tail}{subject.left_out}")]
    pairs = tuple((subject.swatches[a].id, subject.swatches[b].id) for entry in bad for a, b in entry.lost)
    parts[0] = Part(parts[0].text[:1].upper() + parts[0].text[1:], parts[0].ids)
    return Report(
        "look",
        tuple(parts),
        lambda views: _draw(subject, shown),
        lambda: _mends(subject, worst, together),
        tuple(dict.fromkeys(pairs)),
        badness=sum(map(_badness, bad)),
    )


CHECKS.register(
    Check(
        "screens",
        "Screens and paper",
        "What happens on another screen?",
        "A palette is seen on worse screens than yours, in brighter rooms, late in the evening and in print. "
        "Darks run together first, "
        "then pale colors, then the accents go dull.",
        "Bars under swatches that come together. Whether the order from dark to light stays, and which accents are left.",
        _examine,
        ("#000000", "#0b0b12", "#16161f", "#f6f2ea", "#fbf8f2", "#ff9a1a"),
        (
            Setting(
                "apart", "meant to differ from ΔE", 6, "Pairs nearer than this may well come together.", low=1, high=60, step=0.5
            ),
            Setting("together", "lost below ΔE", 1.5, "What counts as one color there.", low=0.1, high=20, step=0.1),
            Setting("accents", "accents keep", 45, "Share of its chroma that a strong color has to keep.", low=0, high=100, unit="%"),
        ),
    )
)
