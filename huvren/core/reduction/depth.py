"""Channel depth as text: bits such as `3-3-2`, or levels such as `6x6x6`."""

import re

from huvren.core.errors import BadInput

_BITS = re.compile(r"([1-8])-([1-8])-([1-8])")
_LEVELS = re.compile(r"(\d{1,3})[x×](\d{1,3})[x×](\d{1,3})")


def parse_depth(text: str) -> tuple[int, int, int]:
    """Levels of the red, green and blue channel. Raises `BadInput`."""
    if match := _BITS.fullmatch(text.strip()):
        red, green, blue = (2 ** int(bits) for bits in match.groups())
        return red, green, blue
    if match := _LEVELS.fullmatch(text.strip()):
        red, green, blue = (int(levels) for levels in match.groups())
        if min(red, green, blue) >= 2 and max(red, green, blue) <= 256:
            return red, green, blue
    raise BadInput(f"“{text[:20]}” is no channel depth. Write bits such as 3-3-2 or 5-6-5, or 2 to 256 levels such as 6x6x6.")
