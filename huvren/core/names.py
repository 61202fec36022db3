"""Names as they are searched for and sorted by."""

import re
import unicodedata

SORTED_LETTERS = 120
"""Names that begin with so many equal letters stand together in any order."""
_DIGITS = re.compile("[0-9]+")


def folded(text: str) -> str:
    """A text without its case, to be searched in and for."""
    return text.casefold()


def sort_key(name: str) -> str:
    """A key whose code points sort as people do: whatever the case or the accents, and “plate 9” before “plate 10”.

    A number is preceded by how many digits it has, so that a longer one comes after a shorter one.
    """
    plain = "".join(letter for letter in unicodedata.normalize("NFKD", name[:200].casefold()) if not unicodedata.combining(letter))
    return _DIGITS.sub(_with_length, plain)[:SORTED_LETTERS]


def _with_length(found: re.Match[str]) -> str:
    digits = found[0].lstrip("0") or "0"
    return f"{len(digits):03}{digits}"
