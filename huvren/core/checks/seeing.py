"""What several checks ask: how far swatches lie apart to ordinary eyes and to others."""

from collections.abc import Mapping

from huvren.core.checks.subject import Subject, gaps
from huvren.core.color.arrays import Floats
from huvren.core.color.spaces import convert
from huvren.core.color.vision import VISIONS, seen

ORDINARY = "ordinary"


def looks_to(srgb: Floats, kind: str, severity: float) -> Floats:
    """(n, 3) sRGB → (n, 3) OKLab as eyes of a kind see it; `ORDINARY` for most eyes.

    Parameters
    ----------
    srgb : Floats
        (n, 3) sRGB 0..1.
    kind : str
        Of eyes; `ORDINARY` for most.
    severity : float
        0 for ordinary eyes to 1.

    Returns
    -------
    Floats
        (n, 3) OKLab as eyes of a kind see it; `ORDINARY` for most eyes.
    """
    return convert(srgb if kind == ORDINARY else seen(srgb, VISIONS[kind], severity), "srgb", "oklab")


def gaps_by_eyes(subject: Subject, severity: float) -> Mapping[str, Floats]:
    """(n, n) ΔEOK×100 by kind of eyes, ordinary ones first. severity : 0..1.

    Parameters
    ----------
    subject : Subject
        The palette with what it is compared with.
    severity : float
        0 for ordinary eyes to 1.

    Returns
    -------
    Mapping[str, Floats]
        (n, n) ΔEOK×100 by kind.
    """
    found = {ORDINARY: subject.gaps}
    for kind in VISIONS.ids():
        found[kind] = gaps(looks_to(subject.srgb, kind, severity))
    return found
