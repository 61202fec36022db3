"""Own colors: exactly the picture's colors, where there is room for all of them."""

from huvren.core.color.arrays import Bytes
from huvren.core.errors import BadInput
from huvren.core.reduction.choosers.chooser import CHOOSERS, Brief, Chooser

MOST = 256


def choose(brief: Brief) -> Bytes:
    """Every distinct color.

    Parameters
    ----------
    brief : Brief
        What is asked for: points, weights, count and what is present.

    Returns
    -------
    Bytes
        (k, 3) uint8, besides those present.

    Raises
    ------
    BadInput
        Where they are too many.
    """
    if brief.histogram.distinct > MOST:
        raise BadInput(
            f"The picture has {brief.histogram.distinct:,} colors of its own, and an indexed picture holds {MOST}. "
            "Choose the colors another way."
        )
    return brief.histogram.rgb()


CHOOSERS.register(
    Chooser(
        "own",
        "its own colors",
        "Nothing is lost: every color of a picture that has at most 256.",
        choose,
        sets_count=True,
        counts_all=True,
    )  # fmt: skip
)
