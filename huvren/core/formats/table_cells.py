"""Cells of a table as text: spreadsheets work out what begins like a formula, whoever wrote it."""

import re

# The wide forms are taken for the narrow ones by spreadsheets of the scripts that use them.
_FORMULA = re.compile(r"'*[=+\-@\t\r＝＋－＠]")


def is_formula(text: str) -> bool:
    """Whether a spreadsheet would work it out, or it would be mistaken for what `as_text` has made of such a text."""
    return _FORMULA.match(text) is not None


def as_text(text: str) -> str:
    """What to write into a cell, so that it is shown and never worked out: an apostrophe before what begins like a formula."""
    return f"'{text}" if is_formula(text) else text


def from_text(cell: str) -> str:
    """What `as_text` was given: `from_text(as_text(text)) == text` for every text."""
    return cell[1:] if cell.startswith("'") and is_formula(cell) else cell
