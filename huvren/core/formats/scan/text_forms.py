"""The forms in which colors stand in texts: one pattern a form, each bounded in length, tried in one pass over a line.

A further form is one entry of `FORMS` with its reader. How sure a find is by itself stands here; what stands around it is weighed in
`text_weighing.py`.
"""

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from huvren.core.color.notation import css_names, parse_color
from huvren.core.color.value import Color
from huvren.core.errors import BadColor, BadInput
from huvren.core.formats.scan.text_words import HEX_WORDS, plain_words

MOST_FINDS = 20_000
"""Finds in a text; what has more is no text about colors."""
EDGES = " \t\"'`,;:=|/*#()[]{}<>–—-.$@_+"
_NUMBER = r"[-+]?(?:\d{1,5}(?:\.\d{0,12}+)?+|\.\d{1,12}+)(?:%|f(?![\w]))?+"
_BETWEEN = r"(?:[ \t]{0,8}+[,;/|][ \t]{0,8}+|[ \t]{1,8}+)"
_CHANNEL = (
    r"[\"']?(?:red|green|blue|alpha|opacity|hue|saturation|lightness|brightness|cyan|magenta|yellow|black|[rgbahslvcmyk])\*?[\"']?"
    r"(?:[ \t]{0,4}+[:=][ \t]{0,4}+|[ \t]{1,4}+)"
    + _NUMBER
)  # fmt: skip
_ANGLED = {"hsl": "hsl", "hsv": "hsv", "hsb": "hsv"}
NUMBERS = re.compile(_NUMBER)


@dataclass
class Candidate:
    """Something that may be a color. begin, end : letters of the text; sure : as yet; why : the strongest reason against it."""

    kind: str
    """Of notation."""
    text: str
    """As it stands there."""
    begin: int
    end: int
    color: Color | None
    """What it means."""
    line: int = 0
    """Counted from 1."""
    sure: float = 0.0
    why: str = ""
    label: str = ""
    """The name that stands beside it."""
    before: str = ""
    """What stands before it in the line."""
    after: str = ""
    """What stands behind it in the line."""
    heading: str = ""
    """The one above it."""

    def against(self, weight: float, why: str) -> None:
        self.sure -= weight
        self.why = why


@dataclass(frozen=True)
class Form:
    """One way in which colors stand in texts. read : a match's text and the words before it on its line → the color, or None;
    sure : how sure such a find is by itself."""

    id: str
    """By which it is named in documents, addresses and commands."""
    pattern: str
    """A regular expression, linear in the length of a line."""
    read: Callable[[str, str], Color | None]
    sure: Callable[[Candidate], float]


def _parsed(text: str) -> Color | None:
    try:
        return parse_color(text)
    except BadColor:
        return None


def _made(space: str, coords: tuple[float, ...], alpha: float = 1.0) -> Color | None:
    try:
        return Color(space, coords, min(max(alpha, 0.0), 1.0))
    except BadInput:
        return None


def _hash(text: str, before: str) -> Color | None:
    return _parsed(text) if len(text) - 1 in (3, 4, 6, 8) else None


def _sure_of_hash(one: Candidate) -> float:
    digits = one.text[1:].lower()
    is_value = _is_value(one)
    if digits.isdigit():
        return {3: 0.2, 4: 0.15, 6: 0.6, 8: 0.5}[len(digits)] + (0.45 if is_value else 0.0)
    if digits in HEX_WORDS:
        return 0.6 if is_value else 0.1
    return 0.95 if len(digits) > 4 else 0.75


def _is_value(one: Candidate) -> bool:
    """Whether a find stands where a value stands: behind `:` or `=`, in quotes, before `;`."""
    before, after = one.before.rstrip(), one.after.lstrip()
    is_declared = after[:1] == ";" and any(mark in before.rpartition(";")[2] for mark in ":=")
    return before[-1:] in (":", "=", '"', "'", ">") or is_declared


def _prefixed(text: str, before: str) -> Color | None:
    digits = text[2:].rstrip("uUlL")
    if len(digits) == 8:
        alpha, red, green, blue = bytes.fromhex(digits)
        return Color.from_bytes(red, green, blue, alpha)
    return _parsed("#" + digits)


def _sure_of_prefixed(one: Candidate) -> float:
    # Nobody writes a clear color in so many digits; addresses and masks begin like that.
    return 0.05 if len(one.text.rstrip("uUlL")) == 10 and one.text[2:4] == "00" else 0.35


def _bare(text: str, before: str) -> Color | None:
    return _parsed("#" + text)


def _sure_of_bare(one: Candidate) -> float:
    if one.text.isdigit():
        return -0.2
    return 0.1 if one.text.lower() in HEX_WORDS else 0.4


def _function(text: str, before: str) -> Color | None:
    name, _, rest = text.partition("(")
    numbers = _values(rest)
    if name.lower() in ("rgb", "rgba") and "." in rest and "%" not in rest and numbers and max(numbers) <= 1:
        # Many languages count to 1 there; as CSS reads it, it would be all but black.
        return _made("srgb", tuple(numbers[:3]), numbers[3] if len(numbers) == 4 else 1.0) if 3 <= len(numbers) <= 4 else None
    return _parsed(text)


def _values(text: str) -> list[float]:
    return [float(word.rstrip("%f")) for word in NUMBERS.findall(text)]


def _of_numbers(numbers: list[float], text: str, before: str) -> Color | None:
    """Three or four numbers as a color: shares, percent, bytes; CMYK or alpha where the words before say so."""
    if not 3 <= len(numbers) <= 4 or min(numbers) < 0:
        return None
    words = plain_words(before[-120:])
    if len(numbers) == 4 and max(numbers) <= 100 and re.search(r"cmyk|(?<![a-z])c m y k", words):
        inks = 1 if max(numbers) <= 1 and "." in text else 100
        return _made("cmyk", tuple(value / inks for value in numbers))
    if "display" in words and "p3" in words.replace(" ", "") and max(numbers) <= 1:
        return _made("display-p3", tuple(numbers[:3]), numbers[3] if len(numbers) == 4 else 1.0)
    last = words.split()[-1].strip("(:=[{,") if words.split() else ""
    if last in _ANGLED and len(numbers) == 3 and max(numbers[1:]) <= 100:
        whole = 1 if max(numbers[1:]) <= 1 else 100
        return _made(_ANGLED[last], (numbers[0] % 360, numbers[1] / whole, numbers[2] / whole))
    if last in ("lab", "cielab") and len(numbers) == 3 and numbers[0] <= 100:
        return _made("lab", tuple(numbers))
    shares = "." in text or "f" in text
    if "%" in text:
        numbers = [value / 100 for value in numbers]
        shares = True
    if shares:
        return _made("srgb", tuple(numbers[:3]), numbers[3] if len(numbers) == 4 else 1.0) if max(numbers) <= 1 else None
    if max(numbers) > 255 or any(value != int(value) for value in numbers):
        return None
    channels = [int(value) for value in numbers]
    if len(channels) == 4 and "argb" in words:
        channels = [*channels[1:], channels[0]]
    return Color.from_bytes(*channels)


def _terminal(text: str, before: str) -> Color | None:
    channels = [int(word) for word in text.split(";")[2:]]
    return Color.from_bytes(*channels) if max(channels) <= 255 else None


def _run(text: str, before: str) -> Color | None:
    return _of_numbers(_values(text), text, before)


def _sure_of_run(one: Candidate) -> float:
    sure = 0.3
    if one.before.rstrip()[-1:] in ("(", "[", "{"):
        sure += 0.1
    if "." in one.text and all(len(word.partition(".")[2].rstrip("f")) >= 2 for word in NUMBERS.findall(one.text) if "." in word):
        sure += 0.05
    if "/" in one.text:
        sure -= 0.1
    if one.color is not None and set(one.color.bytes[:3]) <= {0, 1}:
        sure -= 0.15
    words = NUMBERS.findall(one.text)
    if all(len(word) == 2 for word in words) and any(word[0] == "0" for word in words):
        sure -= 0.4  # a time of day, or a date
    return sure


def _channels(text: str, before: str) -> Color | None:
    """`R 232 G 84 B 33`, `"r": 232, "g": 84`, `red: 0.9, green: …`: what is named is told by its first letter."""
    found = {}
    for name, number in re.findall(rf"([A-Za-z]+)\*?[\"']?[ \t]*[:=]?[ \t]*({_NUMBER})", text):
        found[name[0].lower() if name.lower() not in ("black", "key") else "k"] = number
    letters = "".join(found)
    values = {key: float(word.rstrip("%f")) for key, word in found.items()}
    if letters.startswith("cmyk"):
        return _made("cmyk", tuple(values[key] / (1 if max(values.values()) <= 1 and "." in text else 100) for key in "cmyk"))
    alpha = values.get("a", values.get("o", 1.0))
    alpha = alpha / 255 if alpha > 1 else alpha
    if letters.startswith("rgb"):
        text_of_three = " ".join(found[key] for key in "rgb")
        color = _of_numbers([values[key] for key in "rgb"], text_of_three, before)
        return color.with_alpha(min(alpha, 1.0)) if color else None
    if letters[:3] in ("hsl", "hsv", "hsb"):
        third = letters[2]
        scale = 100 if max(values["s"], values[third]) > 1 or "%" in text else 1
        return _made(
            "hsl" if third == "l" else "hsv", (values["h"] % 360, values["s"] / scale, values[third] / scale), min(alpha, 1.0)
        )
    return _made("lab", (values["l"], values["a"], values["b"])) if letters[:3] == "lab" else None


def _name(text: str, before: str) -> Color | None:
    return _parsed(text) if text.lower() in css_names() else None


def _sure_of_name(one: Candidate) -> float:
    before, after = one.before.rstrip(), one.after.lstrip()
    if after[:1] in (":", "=") and after[1:].lstrip()[:1].isdigit():
        return 0.0  # a channel
    if not one.before.strip(EDGES) and not one.after.strip(EDGES):
        return 0.75
    is_quoted = before[-1:] in ('"', "'") and after[:1] == before[-1:]
    if is_quoted and re.search(r"colou?r|fill|stroke|background|ground", plain_words(one.before[-40:])):
        return 0.9
    ends_value = after[:1] in (";", "}") and ":" in one.before.rpartition(";")[2]
    if ends_value or (before[-1:] == ":" and re.search(r"colou?r|fill|stroke|background", plain_words(one.before[-30:]))):
        return 0.85
    return 0.2 if is_quoted else 0.16


FORMS = (
    Form("function", r"(?<![\w-])(?:rgba?|hsla?|hwb|hsva?|hsb|lab|lch|oklab|oklch|color|(?:device-)?cmyk)\([^()\n]{1,120}\)",
             _function, lambda one: 0.97),
    Form("terminal", r"(?<!\d)[34]8;2;\d{1,3};\d{1,3};\d{1,3}(?=m)", _terminal, lambda one: 0.95),
    Form("hash", r"(?<![\w&/#.])\#[0-9a-f]{3,8}(?![0-9a-z_])(?!-[a-z])", _hash, _sure_of_hash),
    Form("prefixed", r"(?<!\w)0x[0-9a-f]{6}(?:[0-9a-f]{2})?[ul]{0,3}(?!\w)", _prefixed, _sure_of_prefixed),
    Form("channels", rf"(?<![\w*]){_CHANNEL}(?:[ \t]{{0,4}}+[,;/|]?[ \t]{{0,4}}+{_CHANNEL}){{2,3}}+", _channels, lambda one: 0.9),
    Form("bare", r"(?<![\w.#/:-])(?:[0-9a-f]{8}|[0-9a-f]{6})(?![\w:-])(?!\.\w)", _bare, _sure_of_bare),
    Form("run", rf"(?<![\w.#%-]){_NUMBER}(?:{_BETWEEN}{_NUMBER}){{2,}}+", _run, _sure_of_run),
    Form("name", r"(?<![\w.#$@-])[a-z]{3,20}+(?![\w(-])", _name, _sure_of_name),
)  # fmt: skip
"""In the order in which they are tried at each place."""
_BY_ID = {form.id: form for form in FORMS}
_ANY = re.compile("|".join(f"(?P<{form.id}>{form.pattern})" for form in FORMS), re.IGNORECASE)


def candidates_of(line: str, begin: int, number: int, heading: str) -> list[Candidate]:
    """Everything on one line that may be a color, in order. begin : letters before it in the text; number : of the line, from 1;
    heading : words above it that say what its numbers are."""
    made: list[Candidate] = []

    def add_matches(matches: Iterator[re.Match[str]]) -> None:
        for match in matches:
            kind, text = match.lastgroup or "", match.group()
            before = line[max(match.start() - 160, 0) : match.start()]
            after = line[match.end() : match.end() + 40]
            if kind == "run" and not _ends(after):
                continue
            if len(made) > MOST_FINDS:
                return
            color = _BY_ID[kind].read(text, f"{heading} {before}")
            if color is not None:
                one = Candidate(kind, text, begin + match.start(), begin + match.end(), color, number, before=before, after=after)
                one.heading = heading
                one.sure = _BY_ID[kind].sure(one)
                made.append(one)
            elif kind == "function":
                # What only looks like a function of CSS may hold named channels or a row of numbers.
                add_matches(_ANY.finditer(line, match.start() + text.index("(") + 1, match.end() - 1))

    add_matches(_ANY.finditer(line))
    return made


def _ends(after: str) -> bool:
    """Whether a row of numbers ends where it seems to: no unit, word or further number hangs on."""
    return not (after[:1].isalnum() or after[:1] in ("_", "%") or (after[:1] in (".", ":") and after[1:2].isdigit()))
