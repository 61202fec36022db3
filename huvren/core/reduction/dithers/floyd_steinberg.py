"""Error diffusion with the Floyd–Steinberg kernel (1976)."""

from huvren.core.reduction.dithers.diffusion import Kernel, diffuse
from huvren.core.reduction.dithers.dither import DITHERS, Dither

KERNEL: Kernel = ((0, 1, 7), (1, -1, 3), (1, 0, 5), (1, 1, 1))
DIVISOR = 16

FLOYD_STEINBERG = DITHERS.register(
    Dither(
        "floyd-steinberg", "Floyd–Steinberg", "Fine grain that keeps every mean tone; best for glows.", True,
        lambda target: diffuse(target, KERNEL, DIVISOR), is_diffusion=True,
    )
)  # fmt: skip
