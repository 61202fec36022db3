"""The other published error-diffusion kernels. Each row: rows down, columns onward, parts."""

from huvren.core.reduction.dithers.diffusion import Kernel, diffuse
from huvren.core.reduction.dithers.dither import DITHERS, Dither


def _table(*rows: tuple[int, ...]) -> Kernel:
    """A kernel as it is printed: the first row right of the pixel, the next ones centered under it; zeros left out."""
    made = [(0, column, part) for column, part in enumerate(rows[0], start=1)]
    for down, row in enumerate(rows[1:], start=1):
        made += [(down, column - len(row) // 2, part) for column, part in enumerate(row)]
    return tuple(entry for entry in made if entry[2])


KERNELS: dict[str, tuple[str, str, Kernel, int]] = {
    # Jarvis, Judice, Ninke 1976.
    "jarvis-judice-ninke": (
        "Jarvis–Judice–Ninke", "Wide and smooth: soft glows with little structure, edges a little softer.",
        _table((7, 5), (3, 5, 7, 5, 3), (1, 3, 5, 3, 1)), 48,
    ),
    # Stucki 1981.
    "stucki": (
        "Stucki", "As wide, a little crisper.", _table((8, 4), (2, 4, 8, 4, 2), (1, 2, 4, 2, 1)), 42,
    ),
    # Burkes 1988: Stucki without its last row.
    "burkes": ("Burkes", "Two rows only: crisp and quick.", _table((8, 4), (2, 4, 8, 4, 2)), 32),
    # Sierra 1989, three rows and the smallest.
    "sierra": ("Sierra", "Between the wide kernels and the narrow ones.", _table((5, 3), (2, 4, 5, 4, 2), (0, 2, 3, 2, 0)), 32),
    "sierra-lite": ("Sierra Lite", "The smallest kernel: sharp, with some texture.", _table((2,), (1, 1, 0)), 4),
    # Atkinson, about 1984: six eighths are passed on, the rest is let go.
    "atkinson": ("Atkinson", "Lets a quarter of the error go: clear whites and blacks, open shadows.",
        _table((1, 1), (1, 1, 1), (0, 1, 0)), 8),
}  # fmt: skip
"""id: label, use, kernel, divisor."""

for _id, (_label, _use, _kernel, _divisor) in KERNELS.items():
    DITHERS.register(
        Dither(
            _id, _label, _use, True,
            lambda target, kernel=_kernel, divisor=_divisor: diffuse(target, kernel, divisor),  # type: ignore[misc]
            is_diffusion=True,
        )
    )  # fmt: skip
