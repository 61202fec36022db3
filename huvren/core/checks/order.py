"""Order in the house: twins, unused and unnamed swatches, colors that a screen cannot show, groups of one, places and names."""

from collections import Counter

import numpy as np

from huvren.core.checks.check import CHECKS, Check, Mend, Part, Report, Setting, Settings
from huvren.core.checks.drawing import Drawing, short
from huvren.core.checks.subject import Subject, quoted_name
from huvren.core.formats import FORMATS, Document
from huvren.core.formats.report import keep_report
from huvren.core.palette.naming import Namer
from huvren.core.palette.operations.delete import DeleteSwatches
from huvren.core.palette.operations.groups import DissolveGroup
from huvren.core.palette.operations.merge import MergeNearTwins
from huvren.core.palette.operations.naming import SuggestNames
from huvren.core.palette.operations.recolor import RecolorSwatch
from huvren.core.palette.operations.rename import RenameSwatch
from huvren.core.palette.values import Swatch

NEARLY = 0.045
"""OKLab lightness from black or white within which a swatch is nearly one of them."""
LITTLE_CHROMA = 0.02
MOST_LOOKED = 4096
MOST_MERGED = 2048


class _Finding:
    """One thing out of order: what it is called, whom it concerns, and what mends it."""

    def __init__(self, words: str, swatches: list[Swatch], mend: Mend | None = None) -> None:
        self.words, self.swatches, self.mend = words, swatches, mend


def _twins(subject: Subject, tolerance: float) -> list[_Finding]:
    """Those that have another of the same alpha within the tolerance. Equal colors are one point, so that many cost nothing."""
    rows = np.column_stack([subject.oklab, [swatch.color.bytes[3] for swatch in subject.swatches]])
    points, back, counts = np.unique(rows, axis=0, return_inverse=True, return_counts=True)
    has_twin = counts > 1
    reach = np.searchsorted(points[:, 0], points[:, 0] + tolerance / 100, side="right")
    for at, stop in enumerate(reach.tolist()):
        ahead = points[at + 1 : stop]
        near = (np.linalg.norm(ahead[:, :3] - points[at, :3], axis=1) * 100 <= tolerance) & (ahead[:, 3] == points[at, 3])
        if near.any():
            has_twin[at] = True
            has_twin[at + 1 : stop] |= near
    swatches = [subject.swatches[place] for place in np.flatnonzero(has_twin[back.ravel()]).tolist()]
    if not swatches:
        return []
    free = sum(not swatch.locked for swatch in swatches)
    mend = (
        Mend(f"Merge twins within ΔE {tolerance:g}", MergeNearTwins(tolerance=tolerance))
        if free and len(swatches) <= MOST_MERGED
        else None
    )
    return [_Finding(f"{len(swatches):,} swatches are twins within ΔE {tolerance:g}", swatches, mend)]


def _names(subject: Subject) -> list[_Finding]:
    found = []
    nameless = [swatch for swatch in subject.all if not swatch.name]
    if nameless:
        mend = Mend("Name them by their colors", SuggestNames(ids=[swatch.id for swatch in nameless]))
        found.append(_Finding(f"{len(nameless)} without a name", nameless, mend))
    counts = Counter(swatch.name for swatch in subject.all if swatch.name)
    doubled = [swatch for swatch in subject.all if counts[swatch.name] > 1]
    if doubled:
        last = doubled[-1]
        word = Namer(swatch.name for swatch in subject.palette.swatches).give(last.name[:180])
        found.append(
            _Finding(f"{len(doubled)} share a name", doubled, Mend(f"Call one “{word}”", RenameSwatch(id=last.id, name=word)))
        )
    return found


def _colors(subject: Subject) -> list[_Finding]:
    found = []
    outside = [swatch for swatch in subject.all if not swatch.color.in_srgb]
    if outside:
        free = next((swatch for swatch in outside if not swatch.locked), None)
        mend = Mend(f"Bring {quoted_name(free)} into sRGB", RecolorSwatch(id=free.id, text=free.color.hex)) if free else None
        found.append(_Finding(f"{len(outside)} outside sRGB", outside, mend))
    for name, target, code in (("black", 0.0, "#000000"), ("white", 1.0, "#ffffff")):
        off = np.abs(subject.oklab[:, 0] - target)
        # 8-bit black is at 0; whatever is a step or two off it was probably meant to be it.
        nearly = np.flatnonzero((off <= (NEARLY if target else 0.16)) & (subject.oklch[:, 1] <= LITTLE_CHROMA) & (off > 1e-6))
        swatches = [subject.swatches[place] for place in nearly.tolist()]
        if swatches:
            free = next((swatch for swatch in swatches if not swatch.locked), None)
            mend = Mend(f"Make {quoted_name(free)} pure {name}", RecolorSwatch(id=free.id, text=code)) if free else None
            found.append(_Finding(f"{len(swatches)} nearly {name} but not quite", swatches, mend))
    return found


def _findings(subject: Subject, limits: Settings) -> list[_Finding]:
    found = _twins(subject, float(limits["twins"]))
    if subject.usage:
        unused = [swatch for swatch in subject.all if not subject.usage.get(swatch.id)]
        if unused:
            free = [swatch.id for swatch in unused if not swatch.locked]
            mend = (
                Mend(f"Delete {len(free)} unused", DeleteSwatches(ids=free))
                if free and len(free) < len(subject.palette.swatches)
                else None
            )
            found.append(_Finding(f"{len(unused)} paint nothing in the picture", unused, mend))
    found += _names(subject) + _colors(subject)
    members = Counter(swatch.group for swatch in subject.palette.swatches if swatch.group)
    alone = [group for group in subject.palette.groups if members[group.id] == 1]
    if alone:
        swatches = [swatch for swatch in subject.palette.swatches if swatch.group in {group.id for group in alone}]
        found.append(
            _Finding(
                f"{len(alone)} group{'s' if len(alone) > 1 else ''} of one",
                swatches,
                Mend(f"Dissolve “{alone[0].name}”", DissolveGroup(id=alone[0].id)),
            )
        )
    most = int(float(limits["most"]))
    if len(subject.palette.swatches) > most:
        found.append(
            _Finding(f"{len(subject.palette.swatches) - most} more than the {most} allowed", list(subject.palette.swatches[most:]))
        )
    if limits["format"] != "none":
        entry = FORMATS[str(limits["format"])]
        losses = [loss for loss in keep_report(entry, Document(subject.palette)) if loss.code in {"names", "renamed", "count"}]
        found += [_Finding(f"{entry.endings[0]}: {loss.text}", list(subject.palette.swatches)) for loss in losses]
    return found


def _draw(subject: Subject, found: list[_Finding]) -> Drawing:
    sheet = Drawing(860, max(60 * len(found) + 20, 120), "What is out of order, one row each, with the swatches it concerns.")
    if not found:
        sheet.words(0, 36, "Everything is in its place.", 15, "ink")
        for place in range(min(len(subject.swatches), 120)):
            sheet.rect(place % 60 * 14, 56 + place // 60 * 26, 13, 24, subject.hex(place), subject.ids((place,)), subject.name(place))
    for row, finding in enumerate(found):
        y = row * 60
        ids = [swatch.id for swatch in finding.swatches]
        sheet.words(0, y + 16, short(finding.words, 90), 13, "ink", bold=True, ids=ids[:64])
        for at, swatch in enumerate(finding.swatches[:38]):
            sheet.rect(at * 22, y + 24, 21, 22, swatch.color.hex[:7], (swatch.id,), quoted_name(swatch))
        if len(finding.swatches) > 38:
            sheet.words(842, y + 40, f"+{len(finding.swatches) - 38}", 12)
    return sheet


def _examine(subject: Subject, limits: Settings) -> Report:
    whole = Subject(subject.palette, subject.usage, subject.touching, subject.samples, others=subject.others, most=MOST_LOOKED)
    found = _findings(whole, limits)
    if not found:
        return Report("holds", (Part(f"Everything is in its place.{whole.left_out}"),), lambda views: _draw(whole, found))
    parts: list[Part] = []
    for finding in found:
        words = finding.words if parts else finding.words[:1].upper() + finding.words[1:]
        parts += [Part("; ")] if parts else []
        parts.append(Part(words, tuple(swatch.id for swatch in finding.swatches[:256])))
    parts.append(Part(f".{whole.left_out}"))
    return Report("look", tuple(parts), lambda views: _draw(whole, found), lambda: (finding.mend for finding in found))


CHECKS.register(
    Check(
        "order",
        "Order in the house",
        "Is everything in its place?",
        "Swatches nobody can tell apart, that paint nothing, that have no name or one that is taken, get lost on the way to the next "
        "program, or are painted with by mistake.",
        "Rows that you would rather not explain to whoever opens the file next.",
        _examine,
        ("#020203", "#fdfdfc", "#b5533c", "#b5543c", "#3c6fb5"),
        (
            Setting("twins", "twins within ΔE", 1, "How near two swatches are one.", low=0, high=10, step=0.1),
            Setting("most", "no more than", 256, "How many swatches there may be.", low=1, high=100_000),
            Setting(
                "format",
                "names fit",
                "none",
                "A file the names have to fit into.",
                "choice",
                choices=(("none", "any file"), *((entry.id, entry.label) for entry in FORMATS if entry.is_of_palettes)),
            ),
        ),
    )
)
