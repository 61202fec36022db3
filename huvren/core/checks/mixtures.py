"""Mixtures by dither: which two swatches, finely mingled, give a tone that the palette does not have."""

from dataclasses import dataclass

import numpy as np

from huvren.core.checks.check import CHECKS, Check, Mend, Part, Report, Setting, Settings, nothing
from huvren.core.checks.drawing import Drawing
from huvren.core.checks.subject import Subject, gaps
from huvren.core.color.arrays import Floats, Integers
from huvren.core.color.eight_bits import hex_of, shown_shares, to_eight_bits
from huvren.core.color.spaces import convert
from huvren.core.color.transfer import encode_srgb_array
from huvren.core.palette.derivations import ColorSource
from huvren.core.palette.derivations.mixture import Mixture, Paint
from huvren.core.palette.operations.derive import DeriveSwatches
from huvren.core.reduction.dithers import DITHERS

MOST_MIXED = 64
"""Swatches that are mixed with each other, in strip order."""
MOST_TONES = 128
CHROMA_SEEN = 0.55
"""How much of a difference in chroma and hue counts beside one in lightness where the pattern is fine: the eye blurs color first."""
QUARTERS = {"quarter": 0.25, "half": 0.5, "three": 0.75}
MOST_IN_FIELD = 22


@dataclass(frozen=True)
class Mixed:
    """All pairs. first, second : places; coarse : how rough each looks, ×100; new : ΔEOK×100 from the mean to the nearest
    swatch; oklab : of the means; useful : numbers of those that are fine and new enough and apart from each other."""

    first: Integers
    second: Integers
    coarse: Floats
    new: Floats
    oklab: Floats
    useful: list[int]


def optical_means(linear: Floats, first: Integers, second: Integers) -> Floats:
    """(k, 3) linear light of each pair finely mingled, half and half.

    Parameters
    ----------
    linear : Floats
        (n, 3) linear light.
    first : Integers
        (k,) places of one color of each pair.
    second : Integers
        (k,) places of the other.

    Returns
    -------
    Floats
        (k, 3) linear light of each pair finely mingled, half and half.
    """
    return np.asarray((linear[first] + linear[second]) / 2)


def mixed(subject: Subject, coarse_limit: float, new_limit: float) -> Mixed:
    """Every pair of the first `MOST_MIXED` swatches at half and half."""
    first, second = np.triu_indices(min(len(subject.swatches), MOST_MIXED), k=1)
    apart = subject.oklab[first] - subject.oklab[second]
    coarse = np.hypot(apart[:, 0], CHROMA_SEEN * np.hypot(apart[:, 1], apart[:, 2])) * 100
    means = shown_shares(encode_srgb_array(optical_means(subject.linear, first, second)))
    oklab = convert(means, "srgb", "oklab")
    new = gaps(oklab, subject.oklab).min(axis=1)
    useful: list[int] = []
    wanted = np.flatnonzero((coarse <= coarse_limit) & (new >= new_limit))
    nearest = np.full(len(first), np.inf)
    for number in wanted[np.argsort(coarse[wanted], kind="stable")].tolist():
        if nearest[number] >= new_limit and len(useful) < MOST_TONES:
            useful.append(number)
            nearest = np.minimum(nearest, gaps(oklab, oklab[[number]])[:, 0])
    return Mixed(first, second, coarse, new, oklab, useful)


def seen_error(subject: Subject, oklab: Floats) -> float:
    """Mean ΔEOK×100 from the pictures' own colors to the nearest of these tones.

    Parameters
    ----------
    subject : Subject
        The palette with what it is compared with.
    oklab : Floats
        (k, 3) OKLab.

    Returns
    -------
    float
        ΔEOK×100.
    """
    if subject.samples is None:
        return 0.0
    nearest = gaps(subject.samples.oklab, oklab).min(axis=1)
    return float((nearest * subject.samples.weights).sum() / max(subject.samples.weights.sum(), 1e-9))


def _code(oklab: Floats) -> str:
    return hex_of(to_eight_bits(convert(oklab, "oklab", "srgb")).tolist())


def _draw(subject: Subject, made: Mixed, views: Settings, coarse_limit: float) -> Drawing:
    matrix = DITHERS[str(views["pattern"])].matrix
    thresholds = matrix() if matrix else np.zeros((1, 1), dtype=np.int64)
    tile = thresholds[:16, :16]
    share = QUARTERS[str(views["share"])]
    zoom = int(float(views["scale"]))
    shown = list(range(min(len(subject.swatches), MOST_IN_FIELD)))
    count = len(shown)
    cell = min(40.0, 440 / max(count, 1))
    sheet = Drawing(
        860,
        max(count * cell + 60, 300),
        "A triangle of dither patterns, each two swatches mixed, and the palette grown by its useful mixtures.",
    )
    useful = set(made.useful)
    number_of = {(int(a), int(b)): number for number, (a, b) in enumerate(zip(made.first, made.second, strict=True))}
    pixels = max(int(cell // zoom), 2)
    y, x = np.indices((pixels, pixels))
    below = (tile[y % tile.shape[0], x % tile.shape[1]] < share * thresholds.size).astype(np.uint8)
    for row in shown:
        top = row * cell
        sheet.rect(row * cell, top, cell - 2, cell - 2, subject.hex(row), subject.ids((row,)), subject.name(row))
        for column in shown[:row]:
            number = number_of[column, row]
            if made.coarse[number] > coarse_limit:
                continue
            ids = subject.ids((column, row))
            title = (
                f"{subject.name(column)} and {subject.name(row)}: coarse {made.coarse[number]:.0f}, new by ΔE {made.new[number]:.1f}"
            )
            sheet.image(column * cell, top, cell - 2, cell - 2, below, (subject.hex(column), subject.hex(row)), ids, title)
            if number in useful:
                sheet.rect(column * cell - 1, top - 1, cell, cell, "none", ids, title, stroke="ink")
    left = 560
    sheet.words(left, 14, f"{len(subject.swatches)} swatches and {len(made.useful)} more tones", 14, "ink", bold=True)
    tones = [(float(subject.oklab[p, 0]), subject.hex(p), subject.ids((p,)), 30) for p in range(len(subject.swatches))]
    tones += [
        (float(made.oklab[n, 0]), _code(made.oklab[n]), subject.ids((int(made.first[n]), int(made.second[n]))), 18)
        for n in made.useful
    ]
    tones.sort(key=lambda tone: tone[0])
    across = 20
    for at, (_, code, ids, height) in enumerate(tones):
        sheet.rect(left + at % across * 15, 28 + at // across * 36 + 30 - height, 14, height, code, ids)
    below_tones = 28 + ((len(tones) - 1) // across + 1) * 36 + 16
    sheet.words(left, below_tones, "Tall: swatches. Short: mixtures.", 12)
    sheet.words(left, below_tones + 18, "Outlined: fine enough, and new.", 12)
    if subject.samples is not None:
        grown = np.concatenate([subject.oklab, made.oklab[made.useful]])
        before, after = seen_error(subject, subject.oklab), seen_error(subject, grown)
        sheet.words(left, below_tones + 44, f"The picture: ΔE {before:.1f}, grown {after:.1f}", 13, "ink")
    if len(subject.swatches) > MOST_IN_FIELD:
        sheet.words(
            0,
            count * cell + 24,
            f"The field shows the first {MOST_IN_FIELD} of {len(subject.swatches)} swatches; the tones are of "
            f"{min(len(subject.swatches), MOST_MIXED)}.",
            12,
        )
    return sheet


def _examine(subject: Subject, limits: Settings) -> Report:
    count = len(subject.swatches)
    if count < 2:
        return nothing("A mixture takes two swatches; there is one.")
    coarse_limit, new_limit = float(limits["coarse"]), float(limits["new"])
    made = mixed(subject, coarse_limit, new_limit)
    clause = f" Mixed were the first {MOST_MIXED} of {len(subject.all):,}." if len(subject.all) > MOST_MIXED else ""
    best = sorted(made.useful, key=lambda number: -made.new[number])[:3]
    if not best and (fine := int((made.coarse <= coarse_limit).sum())):
        what = "The one pair that mixes finely gives" if fine == 1 else f"All {fine} pairs that mix finely give"
        words = f"{what} a tone that is near a swatch: there is none left to mix.{clause}"
        return Report("holds", (Part(words),), lambda views: _draw(subject, made, views, coarse_limit))
    if not best:
        words = f"No two swatches mix into a new tone that looks fine: all pairs are coarser than {coarse_limit:g}.{clause}"
        return Report("look", (Part(words),), lambda views: _draw(subject, made, views, coarse_limit))
    top = best[0]
    pair = (int(made.first[top]), int(made.second[top]))
    parts = [
        Part(f"{count} swatches and {len(made.useful)} more tones by dither; the newest is of "),
        Part(f"{subject.name(pair[0])} and {subject.name(pair[1])}", subject.ids(pair)),
        Part(f", ΔE {made.new[top]:.1f} from any swatch."),
    ]
    if subject.samples is not None:
        before = seen_error(subject, subject.oklab)
        after = seen_error(subject, np.concatenate([subject.oklab, made.oklab[made.useful]]))
        parts.append(Part(f" The picture comes from ΔE {before:.1f} to {after:.1f}."))
    parts.append(Part(clause))
    mends = []
    for number in best:
        ends = (subject.swatches[int(made.first[number])], subject.swatches[int(made.second[number])])
        step = DeriveSwatches(derivation=Mixture(paints=[Paint(color=ColorSource(swatch=end.id)) for end in ends], model="light"))
        mends.append(
            Mend(
                f"Keep the mix of {subject.name(int(made.first[number]))} and {subject.name(int(made.second[number]))}",
                step,
            )
        )
    furthest = max(float(subject.gaps[made.first[n], made.second[n]]) for n in made.useful)
    return Report(
        "holds",
        tuple(parts),
        lambda views: _draw(subject, made, views, coarse_limit),
        lambda: mends,
        recipe={"pair_limit": round(min(furthest + 0.05, 100), 1)},
    )


CHECKS.register(
    Check(
        "mixtures",
        "Mixtures",
        "What tones can I dither?",
        "Two swatches in a fine pattern are seen as their mean. Few swatches then do the work of many, but only where the two are "
        "near enough that the pattern does not crawl, and where the mean is no tone that you have already.",
        "Outlined fields that look like one calm tone from where you sit. Leave out what you can still see as dots.",
        _examine,
        ("#1d2a4a", "#3a5f8a", "#6fa3b8", "#d8c9a0", "#b8683a"),
        (
            Setting(
                "coarse",
                "no coarser than",
                22,
                "How far apart in lightness, and less so in color, two swatches may be.",
                low=2,
                high=100,
            ),
            Setting(
                "new",
                "new from ΔE",
                4,
                "How far a mean has to be from every swatch, and from every other mean.",
                low=0.5,
                high=30,
                step=0.5,
            ),
        ),
        (
            Setting(
                "pattern",
                "pattern",
                "ordered-2",
                "The dither that mingles them.",
                "choice",
                choices=tuple((dither.id, dither.label) for dither in DITHERS if dither.matrix is not None),
            ),
            Setting(
                "share",
                "parts",
                "half",
                "How much of the second swatch.",
                "choice",
                choices=(("quarter", "¼"), ("half", "½"), ("three", "¾")),
            ),
            Setting("scale", "dots of", 2, "Screen pixels a dot.", low=1, high=8, unit="px"),
        ),
    )
)
