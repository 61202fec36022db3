"""A ramp as a table of 256 rows: place, channels 0 to 255, hex, and the lightness."""

import csv
import io
from collections.abc import Mapping

import numpy as np

from huvren.core.color.eight_bits import hex_of
from huvren.core.color.spaces import convert
from huvren.core.formats.format import FORMATS, Document, Format, Keeps, RampKeeps
from huvren.core.ramp.baking import Baked, sampled
from huvren.core.ramp.plan import RampPlan, plain_only
from huvren.core.ramp.profile import rgba_bytes

ROWS = 256


def held_ramp(plan: RampPlan, options: Mapping[str, str]) -> Baked:
    return sampled(plan.ramp(plain_only), ROWS)


def write(document: Document) -> bytes:
    """The table of colors that come back as swatches when it is read as a palette."""
    _, _, ramp = document.ramp
    shares = np.linspace(0, 1, ROWS)
    rgba = rgba_bytes(*ramp.shown(shares)[:2])
    lightness = convert(rgba[:, :3] / 255, "srgb", "oklab")[:, 0]
    buffer = io.StringIO()
    table = csv.writer(buffer, lineterminator="\n")
    table.writerow(("place", "red", "green", "blue", "alpha", "hex", "lightness"))
    for place, row, light in zip(shares.tolist(), rgba.tolist(), lightness.tolist(), strict=True):
        table.writerow((f"{place:.6f}", *row, hex_of(row), f"{light:.4f}"))
    return buffer.getvalue().encode()


FORMATS.register(
    Format(
        "ramp-csv", (".csv",), "table of a ramp", "chart", "text/csv; charset=utf-8", Keeps(alpha="all"),
        "256 rows for spreadsheets and scripts.", contents=frozenset({"ramps"}), ramp=RampKeeps("samples", held_ramp, name=False),
        is_text=True, write=write,
    )
)  # fmt: skip
