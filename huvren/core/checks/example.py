"""What a check looks for, shown on a few colors of its own."""

from functools import cache

from huvren.core.checks.check import CHECKS, Check, Report, examine
from huvren.core.checks.drawing import Drawing
from huvren.core.checks.subject import Subject
from huvren.core.color.notation import parse_color
from huvren.core.palette.values import Palette, Swatch

REFERENCE = "example"


def example_palette(check: Check) -> Palette:
    """The check's own colors as a palette."""
    return Palette(
        "Example", tuple(Swatch(parse_color(code), f"{number}", f"e{number}") for number, code in enumerate(check.example, 1))
    )


@cache
def example_of(check_id: str) -> tuple[Report, Drawing]:
    """The report of the check's own example, and its picture. Raises `Unknown` for a check that is not there."""
    check = CHECKS[check_id]
    palette = example_palette(check)
    # What refers to another palette refers to the same colors, one of them changed.
    wanted = Palette("Wanted", (*palette.swatches[1:], Swatch(parse_color("#7d5ba6"), "Missing")))
    limits = {setting.id: REFERENCE for setting in check.limits if setting.kind == "palette"}
    report = examine(check, Subject(palette, others={REFERENCE: wanted}), limits)
    return report, report.draw(check.settled({}, views=True))
