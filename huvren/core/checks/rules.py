"""House rules: colors that have to be there, how exactly, and whether there may be others."""

import numpy as np

from huvren.core.checks.check import CHECKS, Check, Mend, Part, Report, Setting, Settings, listed, nothing
from huvren.core.checks.drawing import Drawing
from huvren.core.checks.subject import Subject, bytes_of, gaps, quoted_name
from huvren.core.color.arrays import Floats
from huvren.core.color.difference import ciede2000
from huvren.core.color.spaces import convert
from huvren.core.palette.operations.add import AddSwatches
from huvren.core.palette.operations.delete import DeleteSwatches
from huvren.core.palette.operations.recolor import RecolorSwatch
from huvren.core.palette.values import Palette, Swatch

MOST_LOOKED = 2048


def differences(first: Floats, second: Floats, measure: str) -> Floats:
    """(n, 3) and (m, 3) sRGB → (n, m): ΔEOK×100, or CIEDE2000 in CIELAB (D65).

    Parameters
    ----------
    first : Floats
        (n, 3) sRGB 0..1.
    second : Floats
        (m, 3) sRGB 0..1.
    measure : str
        “ok” for ΔEOK×100, else CIEDE2000.

    Returns
    -------
    Floats
        (n, m): ΔEOK×100, or CIEDE2000 in CIELAB (D65).
    """
    if measure == "ciede2000":
        one, other = (convert(srgb, "srgb", "lab-d65") for srgb in (first, second))
        return ciede2000(one[:, None], other[None])
    return gaps(convert(first, "srgb", "oklab"), convert(second, "srgb", "oklab"))


def _draw(subject: Subject, wanted: list[Swatch], table: Floats, within: float) -> Drawing:
    across = 10
    rows = (len(wanted) + across - 1) // across
    sheet = Drawing(860, max(rows * 66 + 20, 120), "Every color that has to be there, over the swatch that is nearest to it.")
    for place, swatch in enumerate(wanted[:200]):
        x, y = place % across * 86, place // across * 66
        nearest = int(table[:, place].argmin()) if len(table) else 0
        ids = subject.ids((nearest,)) if len(table) else ()
        sheet.rect(x, y, 78, 22, swatch.color.hex[:7], ids, quoted_name(swatch))
        if len(table):
            gap = float(table[nearest, place])
            sheet.rect(x, y + 22, 78, 22, subject.hex(nearest), ids, subject.name(nearest))
            sheet.words(
                x,
                y + 58,
                f"ΔE {gap:.1f}{'' if gap <= within else ' ✕'}",
                11,
                "quiet" if gap <= within else "ink",
                bold=gap > within,
                ids=ids,
            )
    return sheet


def _missing_mend(subject: Subject, swatch: Swatch, table: Floats, place: int, taken: set[int]) -> Mend:
    """Recolor the nearest swatch that stands for nothing else, or add the color."""
    for nearest in np.argsort(table[:, place], kind="stable").tolist()[:3]:
        own = subject.swatches[nearest]
        if not own.locked and nearest not in taken and table[nearest, place] < 12:
            return Mend(
                f"Make {quoted_name(own)} the {quoted_name(swatch)} of the rules", RecolorSwatch(id=own.id, text=swatch.color.hex)
            )
    return Mend(f"Add {quoted_name(swatch)}", AddSwatches(text=swatch.color.hex))


def _examine(subject: Subject, limits: Settings) -> Report:
    reference = str(limits["reference"])
    if not reference:
        return nothing("No palette says which colors have to be there. Choose one as the reference.")
    rules: Palette | None = subject.others.get(reference)
    if rules is None:
        return nothing("The palette that the house rules refer to is no longer on the shelf. Choose another one.")
    wanted = [swatch for swatch in rules.swatches if swatch.color.bytes[3] > 0][:MOST_LOOKED]
    if not wanted:
        return nothing(f"The reference “{rules.name}” holds no color.")
    own = subject.swatches
    within, measure = float(limits["within"]), str(limits["measure"])
    table = differences(subject.srgb, bytes_of(wanted) / 255, measure)
    missing = np.flatnonzero(table.min(axis=0) > within).tolist()
    stray = np.flatnonzero(table.min(axis=1) > within).tolist() if limits["others"] == "none" else []
    parts: list[Part] = [
        Part(f"{len(wanted) - len(missing)} of {len(wanted)} colors of “{rules.name}” are there within ΔE {within:g}")
    ]
    mends: list[Mend] = []
    if missing:
        nearest = {place: int(table[:, place].argmin()) for place in missing}
        parts += [
            Part("; missing: "),
            *listed((Part(quoted_name(wanted[place]), subject.ids((nearest[place],))) for place in missing), len(missing)),
        ]
        taken = {int(table[:, place].argmin()) for place in range(len(wanted)) if place not in missing}
        mends += [_missing_mend(subject, wanted[place], table, place, taken) for place in missing[:2]]
    if stray:
        parts += [
            Part("; outside the rules: "),
            *listed((Part(quoted_name(own[place]), subject.ids((place,))) for place in stray), len(stray)),
        ]
        free = [place for place in stray if not own[place].locked]
        if free and len(free) < len(subject.palette.swatches):
            mends.append(Mend(f"Delete {len(free)} outside the rules", DeleteSwatches(ids=list(subject.ids(free)))))
    parts.append(Part(f".{subject.left_out}"))
    return Report(
        "fails" if missing or stray else "holds",
        tuple(parts),
        lambda views: _draw(subject, wanted, table, within),
        lambda: mends,
        concerned=subject.ids(stray),
    )


CHECKS.register(
    Check(
        "rules",
        "House rules",
        "Are the colors there that have to be?",
        "A press has its inks, a client has colors, a series has a key. They have to be there, near enough, "
        "and sometimes nothing else.",
        "Upper halves are what is wanted, lower halves what is there. A cross says that it is not near enough.",
        _examine,
        ("#262b5c", "#2bb5a0", "#ffa22e"),
        (
            Setting("reference", "reference", "", "The palette whose colors have to be there.", "palette"),
            Setting("within", "within ΔE", 2, "How near is near enough.", low=0, high=50, step=0.1),
            Setting(
                "measure",
                "measured as",
                "ok",
                "ΔE in OKLab ×100, or CIEDE2000.",
                "choice",
                choices=(("ok", "ΔE OK"), ("ciede2000", "CIEDE2000")),
            ),
            Setting(
                "others",
                "others",
                "any",
                "Whether other colors may be there.",
                "choice",
                choices=(("any", "are allowed"), ("none", "are not allowed")),
            ),
        ),
    )
)
