"""Ten thousand swatches through every format: written with the keep report, and read, each within its milliseconds."""

from collections.abc import Callable

import numpy as np

from huvren.core.color.value import Color
from huvren.core.formats import FORMATS, Document, Format
from huvren.core.formats.report import keep_report
from huvren.core.palette.values import Group, Palette, Swatch

COUNT, BUDGET_MS = 10_000, 150.0


def palette_of(count: int) -> Palette:
    """So many different swatches in groups of a hundred."""
    rows = np.random.default_rng(1).integers(0, 256, (count, 3)).tolist()
    swatches = (Swatch(Color.from_bytes(*row), f"Swatch {n}", f"s{n}", group=f"g{n // 100}") for n, row in enumerate(rows))
    return Palette("Ten thousand", tuple(swatches), tuple(Group(f"Group {n}", f"g{n}") for n in range((count + 99) // 100)))


def measure(report: Callable[..., None], medians: Callable[..., list[float]]) -> None:
    """A row for each format and each way of it."""
    palette = palette_of(COUNT)
    for entry in FORMATS:
        if not entry.is_of_palettes or (entry.keeps.most or COUNT) < COUNT:
            continue
        for choice in [(option.id, word) for option in entry.options for word, _ in option.choices] or [("", "")]:
            _measure_one(entry, Document(palette, options=dict([choice] if choice[0] else [])), choice[1], report, medians)


def _measure_one(
    entry: Format, document: Document, way: str, report: Callable[..., None], medians: Callable[..., list[float]]
) -> None:
    def write() -> bytes:
        held = entry.palette_as_held(document)
        keep_report(entry, document, held=held)
        return entry.written(document, held)

    data = write()
    name = f"{entry.id} {way}".strip()
    (took,) = medians(write, runs=7)
    report(f"10,000 swatches into {name}, with the report", f"{took * 1e3:.0f} ms", took * 1e3, BUDGET_MS, timed=True)
    if entry.read:
        (took,) = medians(lambda: entry.taken(data), runs=7)
        report(f"10,000 swatches out of {name}", f"{took * 1e3:.0f} ms", took * 1e3, BUDGET_MS, timed=True)
