"""How colors look to eyes that lack one kind of cone, or see with it weakly (Machado, Oliveira and Fernandes 2009).

The matrices are those of the paper's table for severity 1.0, applied to linear sRGB; between 0 and 1 they are blended with the
identity, which the paper's own tables for lower severities stay close to.
"""

from dataclasses import dataclass

import numpy as np

from huvren.core.color.arrays import Floats
from huvren.core.color.transfer import decode_srgb_array, encode_srgb_array
from huvren.core.registry import Registry


@dataclass(frozen=True)
class Vision:
    """A kind of color vision. matrix : (3, 3) from linear sRGB to what is seen, as linear sRGB."""

    id: str
    label: str
    matrix: Floats

    def __hash__(self) -> int:
        return hash(self.id)


VISIONS: Registry[Vision] = Registry("kind of color vision")
for _id, _label, _rows in (
    ("protan", "protan eyes", ((0.152286, 1.052583, -0.204868), (0.114503, 0.786281, 0.099216), (-0.003882, -0.048116, 1.051998))),
    ("deutan", "deutan eyes", ((0.367322, 0.860646, -0.227968), (0.280085, 0.672501, 0.047413), (-0.011820, 0.042940, 0.968881))),
    ("tritan", "tritan eyes", ((1.255528, -0.076749, -0.178779), (-0.078411, 0.930809, 0.147602), (0.004733, 0.691367, 0.303900))),
):
    VISIONS.register(Vision(_id, _label, np.array(_rows)))


def seen(srgb: Floats, vision: Vision, severity: float = 1.0) -> Floats:
    """(..., 3) sRGB 0..1 → (..., 3) sRGB 0..1 as those eyes see it. severity : 0 for ordinary eyes to 1."""
    mixed = severity * vision.matrix + (1 - severity) * np.eye(3)
    return np.clip(encode_srgb_array(np.clip(decode_srgb_array(srgb) @ mixed.T, 0, 1)), 0, 1)
