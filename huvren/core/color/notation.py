"""Colors as text: reading any common notation, and writing.

Syntax: CSS Color 4 (hex, rgb, hsl, hwb, lab, lch, oklab, oklch, color(), names), bare hex, and
`cmyk(…)` as four ink shares in percent.
"""

import math
import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cache

from huvren.core.color.spaces import SPACES
from huvren.core.color.value import ALPHA, Color
from huvren.core.errors import BadColor
from huvren.core.progress import look_up
from huvren.core.registry import Registry

_HEX = re.compile(r"(?:#|0x)?([0-9a-f]{3}|[0-9a-f]{4}|[0-9a-f]{6}|[0-9a-f]{8})", re.IGNORECASE)
PREFIXED = re.compile(r"#|0x", re.IGNORECASE)
"""What a hex code begins with where it says that it is one."""
_NO_DIGIT = re.compile(r"[^0-9a-f]", re.IGNORECASE)
_BLACK = re.compile(r"K\s?(\d{1,3}(?:\.\d+)?)\s?%?", re.IGNORECASE)
_NUMBER = re.compile(r"[+-]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?", re.IGNORECASE)
_TURN = {"": 1.0, "deg": 1.0, "grad": 0.9, "rad": 180 / math.pi, "turn": 360.0}
SHARE = frozenset("0123456789.")
LONGEST_COLOR = 400
"""Letters of one color; more are none, and are not looked at any closer."""


WAYS = "Try #a1b2c3, a1b2c3, rgb(161 178 195), oklch(0.75 0.03 250) or a CSS color name."


@dataclass(frozen=True)
class _Function:
    """How one CSS function's arguments become coordinates: what 100 % means, and what a plain number is divided by."""

    space: str
    percent: tuple[float | None, ...]
    divide: tuple[float, ...]


FUNCTION_SPACES = {
    "rgb": _Function("srgb", (1, 1, 1), (255, 255, 255)),
    "hsl": _Function("hsl", (None, 1, 1), (1, 100, 100)),
    "hwb": _Function("hwb", (None, 1, 1), (1, 100, 100)),
    "lab": _Function("lab", (100, 125, 125), (1, 1, 1)),
    "lch": _Function("lch", (100, 150, None), (1, 1, 1)),
    "oklab": _Function("oklab", (1, 0.4, 0.4), (1, 1, 1)),
    "oklch": _Function("oklch", (1, 0.4, None), (1, 1, 1)),
    "hsv": _Function("hsv", (None, 1, 1), (1, 100, 100)),
    "cmyk": _Function("cmyk", (1, 1, 1, 1), (100, 100, 100, 100)),
}
FUNCTION_SPACES["rgba"], FUNCTION_SPACES["hsla"] = FUNCTION_SPACES["rgb"], FUNCTION_SPACES["hsl"]
COLOR_SPACES = {space.css: space.id for space in SPACES if space.css} | {"xyz": "xyz-d65"}
_LIMITS: dict[str, Callable[[tuple[float, ...]], tuple[float, ...]]] = {
    # CSS clamps these at parse time; other spaces keep what lies outside their usual range.
    "srgb": lambda c: tuple(min(max(v, 0.0), 1.0) for v in c),
    "oklch": lambda c: (min(max(c[0], 0.0), 1.0), max(c[1], 0.0), c[2]),
    "oklab": lambda c: (min(max(c[0], 0.0), 1.0), *c[1:]),
    "lch": lambda c: (min(max(c[0], 0.0), 100.0), max(c[1], 0.0), c[2]),
    "lab": lambda c: (min(max(c[0], 0.0), 100.0), *c[1:]),
    "hsl": lambda c: (c[0], max(c[1], 0.0), c[2]),
}


def _shorten(text: str) -> str:
    return text if len(text) <= 40 else text[:39] + "…"


def _no_color(text: str, why: str) -> BadColor:
    return BadColor(f"“{_shorten(text)}” is no color: {why} {WAYS}")


def _plain(word: str) -> float | None:
    """A number of digits and a point alone, or None."""
    try:
        return float(word) if SHARE.issuperset(word) else None
    except ValueError:
        return None


def _argument(text: str, word: str, percent: float | None, divide: float) -> float:
    if word.lower() == "none":
        return 0.0
    # Most are plain numbers or percentages; what is left has a sign or a unit, or is none.
    if (plain := _plain(word)) is not None:
        return (plain % 360 if percent is None else plain) / divide
    if percent is not None and word[-1] == "%" and (plain := _plain(word[:-1])) is not None:
        return plain / 100 * percent
    match = _NUMBER.match(word)
    if not match:
        raise _no_color(text, f"“{_shorten(word)}” is not a number.")
    value, unit = float(match.group()), word[match.end() :].lower()
    if unit == "%" and percent is not None:
        return value / 100 * percent
    if percent is None and unit in _TURN:
        return value * _TURN[unit] % 360
    if unit:
        raise _no_color(text, f"the unit “{_shorten(unit)}” does not belong there.")
    return value / divide


def _parse_function(text: str, name: str, body: str) -> Color:
    name = name.lower()
    if body.count("/") > 1:
        raise _no_color(text, "only one “/” may stand before the alpha.")
    main, _, after = body.partition("/")
    words = main.replace(",", " ").split()
    if name == "color":
        if not words or words[0].lower() not in COLOR_SPACES:
            raise _no_color(text, f"color() begins with one of {', '.join(sorted(COLOR_SPACES))}.")
        space = COLOR_SPACES[words.pop(0).lower()]
        form = _Function(space, (1, 1, 1), (1, 1, 1))
    elif name in FUNCTION_SPACES:
        form = FUNCTION_SPACES[name]
    else:
        raise _no_color(text, f"there is no color function {_shorten(name)}().")
    count = len(form.percent)
    alpha_words = after.split()
    if len(words) == count + 1 and not after:
        alpha_words = [words.pop()]
    if len(words) != count or len(alpha_words) > 1:
        raise _no_color(text, f"{name}() takes {count} numbers, {len(words)} were found.")
    coords = tuple([_argument(text, w, p, d) for w, p, d in zip(words, form.percent, form.divide, strict=True)])
    alpha = min(max(_argument(text, alpha_words[0], 1, 1), 0.0), 1.0) if alpha_words else 1.0
    limit = _LIMITS.get(form.space) if name != "color" else None
    missing: list[int] = []
    if "none" in body.lower():
        missing = [place for place, word in enumerate(words) if word.lower() == "none"]
        missing += [ALPHA for word in alpha_words if word.lower() == "none"]
    return Color(form.space, limit(coords) if limit else coords, alpha, tuple(missing))


@cache
def css_names() -> dict[str, str]:
    """The named colors of CSS as hex, in lower case. Loaded at the first word, for a hex code does without."""
    from PIL import ImageColor

    return {name: value for name, value in ImageColor.colormap.items() if isinstance(value, str)}


def parse_color(text: str) -> Color:
    """Read one color. Raises `BadColor` with a sentence that names the text and the way out."""
    look_up()
    word = text.strip()
    if not word:
        raise BadColor(f"There is no color in an empty line. {WAYS}")
    if len(word) > LONGEST_COLOR:
        raise _no_color(word, f"it has {len(word):,} letters, and no color needs more than {LONGEST_COLOR}.")
    name, bracket, body = word.partition("(")
    if bracket and word[-1] == ")" and name.isascii() and name.isalpha():
        return _parse_function(word, name, body[:-1].strip())
    if word.isalpha() and (named := css_names().get(word.lower())):
        return parse_color(named)
    if word.lower() == "transparent":
        return Color("srgb", (0.0, 0.0, 0.0), 0.0)
    if (match := _BLACK.fullmatch(word)) and float(match.group(1)) <= 100:
        return Color("cmyk", (0.0, 0.0, 0.0, float(match.group(1)) / 100))
    if match := _HEX.fullmatch(word):
        digits = match.group(1)
        if len(digits) <= 4:
            digits = "".join(digit * 2 for digit in digits)
        return Color.from_bytes(*bytes.fromhex(digits))
    if bracket and name.isascii() and name.isalpha():
        raise _no_color(word, "the closing bracket is missing.")
    if re.fullmatch(r"(?:#|0x)[0-9a-f]*", word, re.IGNORECASE):
        raise _no_color(word, "a hex code has 3, 4, 6 or 8 digits.")
    if (prefixed := PREFIXED.match(word)) and (strange := _NO_DIGIT.search(word, prefixed.end())):
        raise _no_color(word, f"“{strange.group()}” is no digit of a hex code.")
    raise _no_color(word, "it is neither a hex code, a color function nor a CSS name.")


def _number(value: float, digits: int) -> str:
    return f"{round(value, digits) + 0.0:.{digits}f}".rstrip("0").rstrip(".") if digits else str(round(value))


def _percent(value: float) -> str:
    return f"{_number(value * 100, 1)}%"


@dataclass(frozen=True)
class Notation:
    """A way to write a color. `write` is given the color and its alpha as CSS writes it, slash included."""

    id: str
    """By which it is named in documents, addresses and commands."""
    write: Callable[[Color, str], str]
    """Writes a color in this notation."""


NOTATIONS: Registry[Notation] = Registry("notation")


def _or_none(color: Color, space: str, written: Sequence[str]) -> str:
    """Components as text, `none` where a color of this very space misses one."""
    missing = color.missing if color.space == space else ()
    return " ".join("none" if place in missing else text for place, text in enumerate(written))


def _angled(name: str, color: Color, alpha: str) -> str:
    hue, second, third = color.coords if color.space == name and color.in_srgb else Color("srgb", color.srgb).to(name)
    return f"{name}({_or_none(color, name, [_number(hue, 1), _percent(second), _percent(third)])}{alpha})"


def _listed(name: str, space: str, color: Color, digits: tuple[int, ...], alpha: str, first: str = "") -> str:
    written = [_number(value, count) for value, count in zip(color.to(space), digits, strict=True)]
    return f"{name}({first}{_or_none(color, space, written)}{alpha})"


def _cmyk(color: Color) -> str:
    return "cmyk({} {} {} {})".format(*(_number(v * 100, 1) for v in Color("srgb", color.srgb).to("cmyk")))


for _entry in (
    Notation("hex", lambda color, alpha: color.hex),
    Notation("rgb", lambda color, alpha: f"rgb({_or_none(color, 'srgb', [str(v) for v in color.bytes[:3]])}{alpha})"),
    Notation("hsl", lambda color, alpha: _angled("hsl", color, alpha)),
    Notation("hwb", lambda color, alpha: _angled("hwb", color, alpha)),
    Notation("oklch", lambda color, alpha: _listed("oklch", "oklch", color, (4, 4, 2), alpha)),
    Notation("oklab", lambda color, alpha: _listed("oklab", "oklab", color, (4, 4, 4), alpha)),
    Notation("lch", lambda color, alpha: _listed("lch", "lch", color, (2, 2, 2), alpha)),
    Notation("lab", lambda color, alpha: _listed("lab", "lab", color, (2, 2, 2), alpha)),
    Notation("display-p3", lambda color, alpha: _listed("color", "display-p3", color, (4, 4, 4), alpha, "display-p3 ")),
    Notation("cmyk", lambda color, alpha: _cmyk(color)),
):
    NOTATIONS.register(_entry)


def format_css(color: Color, notation: str) -> str:
    """Write a color in one of `NOTATIONS`, in CSS Color 4 form; `cmyk` is the plain device formula.

    Missing components are written as `none` in the color's own space, and are 0 in every other.
    """
    if notation not in NOTATIONS:
        raise BadColor(f"There is no notation “{_shorten(notation)}”. Choose one of: {', '.join(NOTATIONS.ids())}.")
    alpha = " / none" if ALPHA in color.missing else "" if color.alpha == 1 else f" / {_number(color.alpha, 3)}"
    return NOTATIONS[notation].write(color, alpha)
