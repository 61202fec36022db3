"""How colors look to eyes that lack one kind of cone, or see with it weakly (Machado, Oliveira and Fernandes 2009).

The matrices are those of the paper's table, one for each tenth of severity, applied to linear sRGB; between two of them it is
interpolated in a straight line.
"""

from dataclasses import dataclass

import numpy as np

from huvren.core.color.arrays import Floats
from huvren.core.color.transfer import decode_srgb_array, encode_srgb_array
from huvren.core.color.vision_tables import TABLES
from huvren.core.registry import Registry


@dataclass(frozen=True)
class Vision:
    """A kind of color vision. matrices : (11, 3, 3) from linear sRGB to what is seen, as linear sRGB, by tenths of severity."""

    id: str
    """By which it is named in documents, addresses and commands."""
    label: str
    """As menus call it."""
    matrices: Floats

    def __hash__(self) -> int:
        return hash(self.id)

    def matrix(self, severity: float = 1.0) -> Floats:
        """(3, 3) at a severity 0..1.

        Parameters
        ----------
        severity : float
            0 for ordinary eyes to 1.

        Returns
        -------
        Floats
            (3, 3) over linear light.
        """
        at = min(max(severity, 0.0), 1.0) * (len(self.matrices) - 1)
        below = min(int(at), len(self.matrices) - 2)
        return np.asarray(self.matrices[below] + (at - below) * (self.matrices[below + 1] - self.matrices[below]))


VISIONS: Registry[Vision] = Registry("kind of color vision")
for _id, _table in TABLES.items():
    VISIONS.register(Vision(_id, f"{_id} eyes", _table))


def seen(srgb: Floats, vision: Vision, severity: float = 1.0) -> Floats:
    """(..., 3) sRGB 0..1 → (..., 3) sRGB 0..1 as those eyes see it. severity : 0 for ordinary eyes to 1.

    Parameters
    ----------
    srgb : Floats
        (..., 3) sRGB 0..1.
    vision : Vision
        A kind of eyes.
    severity : float
        0 for ordinary eyes to 1.

    Returns
    -------
    Floats
        (..., 3) sRGB 0..1.
    """
    return np.clip(encode_srgb_array(np.clip(decode_srgb_array(srgb) @ vision.matrix(severity).T, 0, 1)), 0, 1)
