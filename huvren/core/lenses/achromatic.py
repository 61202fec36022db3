"""Eyes without color: rods alone, which are most sensitive at 507 nm, so that reds go dark and blues light up.

An estimate: how much the rods take up of each primary depends on its spectrum, which sRGB does not fix. The weights are ours; they
follow the order of the rods' sensitivity, green before blue before red, and keep white white.
"""

import numpy as np

from huvren.core.color.transfer import decode_srgb_array, encode_srgb_array
from huvren.core.lenses.lens import LENSES, Lens

WEIGHTS = np.array([0.062, 0.608, 0.330])
"""Of linear red, green and blue; they add up to 1."""

LENSES.register(
    Lens(
        "achromatic", "achromatic eyes", "No cones at all: light is seen, color is not.", "eye",
        lambda srgb, _: np.repeat(encode_srgb_array(decode_srgb_array(srgb) @ WEIGHTS)[:, None], 3, axis=1), is_estimate=True,
    )
)  # fmt: skip
