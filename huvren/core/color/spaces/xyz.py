"""CIE XYZ, relative to D65 (the hub) and to D50 (linear Bradford, CSS Color 4 §18)."""

import numpy as np

from huvren.core.color.spaces.space import SPACES, Channel, ColorSpace, matrix

D65_TO_D50 = np.array(
    [
        [1.0479297925449969, 0.022946870601609652, -0.05019226628920524],
        [0.02962780877005599, 0.9904344267538799, -0.017073799063418826],
        [-0.009243040646204504, 0.015055191490298152, 0.7518742814281371],
    ]
)
_CHANNELS = (Channel("x", 0, 1, 4, "red"), Channel("y", 0, 1, 4, "green"), Channel("z", 0, 1, 4, "blue"))

SPACES.register(
    ColorSpace("xyz-d65", "XYZ (D65)", _CHANNELS, "D65", None, lambda v: v, lambda v: v, css="xyz-d65", gradient="xyz-d65")
)
SPACES.register(
    ColorSpace(
        "xyz-d50", "XYZ (D50)", _CHANNELS, "D50", "xyz-d65", matrix(np.linalg.inv(D65_TO_D50)), matrix(D65_TO_D50),
        css="xyz-d50", gradient="xyz-d50",
    )
)  # fmt: skip
