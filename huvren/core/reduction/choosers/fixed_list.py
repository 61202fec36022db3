"""Fixed list: exactly the colors of a list."""

from huvren.core.color.arrays import Bytes
from huvren.core.errors import BadInput
from huvren.core.reduction.choosers.chooser import CHOOSERS, Brief, Chooser


def choose(brief: Brief) -> Bytes:
    """All of the list.

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
        Where the list is empty.
    """
    if len(brief.listed) == 0:
        raise BadInput("The list holds no color. Choose a palette to take the colors from.")
    return brief.listed


CHOOSERS.register(
    Chooser(
        "fixed-list", "a fixed list", "Paints with the colors of another palette and no others.", choose,
        needs="list", sets_count=True,
    )
)  # fmt: skip
