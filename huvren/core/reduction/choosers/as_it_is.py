"""The palette as it is: nothing is chosen, all of its colors are kept."""

import numpy as np

from huvren.core.color.arrays import Bytes
from huvren.core.errors import BadInput
from huvren.core.reduction.choosers.chooser import CHOOSERS, Brief, Chooser


def choose(brief: Brief) -> Bytes:
    """No color beyond those that are present.

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
        Where no color is present.
    """
    if len(brief.present) == 0:
        raise BadInput("There is no palette with a color to take as it is. Choose colors another way.")
    return np.empty((0, 3), dtype=np.uint8)


CHOOSERS.register(
    Chooser(
        "as-it-is", "the palette as it is", "Chooses nothing: for a strip that is finished, or a further picture in its colors.",
        choose, needs="palette", sets_count=True,
    )
)  # fmt: skip
