"""Text scan: every color in any text, with the nearest label on its line and how sure it is that a color is meant.

Candidates are found by one pattern a notation, each bounded in length, in one pass. What is no color in itself (`#123`, `10 20 30`,
`red`) counts by what stands around it: words for colors, other colors, numbers of its own kind; words for sizes, dates and hashes
speak against it. Finds below one half are offered unticked, with the reason.
"""

import re
from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field

from huvren.core.color.notation import css_names, parse_color
from huvren.core.color.value import Color
from huvren.core.errors import BadColor, BadInput, TooLarge
from huvren.core.formats import FORMATS, SURE_ENOUGH, Format, Found, Keeps, NoColor, SwatchList, decode_text, is_probably_text
from huvren.core.formats.limits import Count, Limits
from huvren.core.formats.text_words import CODE_WORDS, COLOR_WORDS, HEX_WORDS, HUES, JOINING_WORDS, SIZE_WORDS, plain_words

LONGEST_LABEL = 80
LEAST = 0.15
"""What is less sure is not offered at all."""
MOST_FINDS = 20_000
NEAR_LINES = 3
LOOKED_AT = 20_000
"""Bytes of a text in which something must be found before all of it is scanned; of longer ones that is tried at once."""
MOST_SCOPES = 40
FEW = 3
_EDGES = " \t\"'`,;:=|/*#()[]{}<>–—-.$@_+"
_NUMBER = r"[-+]?(?:\d{1,5}(?:\.\d{0,12}+)?+|\.\d{1,12}+)(?:%|f(?![\w]))?+"
_BETWEEN = r"(?:[ \t]{0,8}+[,;/|][ \t]{0,8}+|[ \t]{1,8}+)"
_CHANNEL = (
    r"[\"']?(?:red|green|blue|alpha|opacity|hue|saturation|lightness|brightness|cyan|magenta|yellow|black|[rgbahslvcmyk])\*?[\"']?"
    r"(?:[ \t]{0,4}+[:=][ \t]{0,4}+|[ \t]{1,4}+)"
    + _NUMBER
)  # fmt: skip
_ANGLED = {"hsl": "hsl", "hsv": "hsv", "hsb": "hsv"}
_BRACKETS = " \t,()[]{}"
_NUMBERS = re.compile(_NUMBER)


@dataclass
class Candidate:
    """Something that may be a color. begin, end : letters of the text; sure : as yet; why : the strongest reason against it."""

    kind: str
    text: str
    begin: int
    end: int
    color: Color | None
    line: int = 0
    sure: float = 0.0
    why: str = ""
    label: str = ""
    before: str = ""
    after: str = ""
    heading: str = ""

    def against(self, weight: float, why: str) -> None:
        self.sure -= weight
        self.why = why


@dataclass(frozen=True)
class Notation:
    """One way in which colors stand in texts. read : a match's text and the words before it on its line → the color, or None;
    sure : how sure such a find is by itself."""

    id: str
    pattern: str
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
    return [float(word.rstrip("%f")) for word in _NUMBERS.findall(text)]


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
    if "." in one.text and all(len(word.partition(".")[2].rstrip("f")) >= 2 for word in _NUMBERS.findall(one.text) if "." in word):
        sure += 0.05
    if "/" in one.text:
        sure -= 0.1
    if one.color is not None and set(one.color.bytes[:3]) <= {0, 1}:
        sure -= 0.15
    words = _NUMBERS.findall(one.text)
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
    if not one.before.strip(_EDGES) and not one.after.strip(_EDGES):
        return 0.75
    is_quoted = before[-1:] in ('"', "'") and after[:1] == before[-1:]
    if is_quoted and re.search(r"colou?r|fill|stroke|background|ground", plain_words(one.before[-40:])):
        return 0.9
    ends_value = after[:1] in (";", "}") and ":" in one.before.rpartition(";")[2]
    if ends_value or (before[-1:] == ":" and re.search(r"colou?r|fill|stroke|background", plain_words(one.before[-30:]))):
        return 0.85
    return 0.2 if is_quoted else 0.16


NOTATIONS = (
    Notation("function", r"(?<![\w-])(?:rgba?|hsla?|hwb|hsva?|hsb|lab|lch|oklab|oklch|color|(?:device-)?cmyk)\([^()\n]{1,120}\)",
             _function, lambda one: 0.97),
    Notation("terminal", r"(?<!\d)[34]8;2;\d{1,3};\d{1,3};\d{1,3}(?=m)", _terminal, lambda one: 0.95),
    Notation("hash", r"(?<![\w&/#.])\#[0-9a-f]{3,8}(?![0-9a-z_])(?!-[a-z])", _hash, _sure_of_hash),
    Notation("prefixed", r"(?<!\w)0x[0-9a-f]{6}(?:[0-9a-f]{2})?[ul]{0,3}(?!\w)", _prefixed, _sure_of_prefixed),
    Notation("channels", rf"(?<![\w*]){_CHANNEL}(?:[ \t]{{0,4}}+[,;/|]?[ \t]{{0,4}}+{_CHANNEL}){{2,3}}+", _channels, lambda one: 0.9),
    Notation("bare", r"(?<![\w.#/:-])(?:[0-9a-f]{8}|[0-9a-f]{6})(?![\w:-])(?!\.\w)", _bare, _sure_of_bare),
    Notation("run", rf"(?<![\w.#%-]){_NUMBER}(?:{_BETWEEN}{_NUMBER}){{2,}}+", _run, _sure_of_run),
    Notation("name", r"(?<![\w.#$@-])[a-z]{3,20}+(?![\w(-])", _name, _sure_of_name),
)  # fmt: skip
"""In the order in which they are tried at each place."""
_BY_ID = {notation.id: notation for notation in NOTATIONS}
_ANY = re.compile("|".join(f"(?P<{notation.id}>{notation.pattern})" for notation in NOTATIONS), re.IGNORECASE)


@dataclass
class Line:
    """A line with what may be a color in it, and what its words say. begin : letters before it in the text."""

    text: str
    begin: int
    found: list[Candidate] = field(default_factory=list)
    speaks_of_colors: bool = False
    speaks_of_codes: bool = False
    in_scope: bool = False


def _candidates(line: str, begin: int, number: int, heading: str) -> list[Candidate]:
    made: list[Candidate] = []

    def look(matches: Iterator[re.Match[str]]) -> None:
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
                look(_ANY.finditer(line, match.start() + text.index("(") + 1, match.end() - 1))

    look(_ANY.finditer(line))
    return made


def _ends(after: str) -> bool:
    """Whether a row of numbers ends where it seems to: no unit, word or further number hangs on."""
    return not (after[:1].isalnum() or after[:1] in ("_", "%") or (after[:1] in (".", ":") and after[1:2].isdigit()))


def _is_selector(one: Candidate) -> bool:
    """Whether `#fade` is an id of a style sheet or a link rather than a color."""
    after = one.after.lstrip()
    before = one.before.rstrip()
    if before.endswith(("url(", 'href="', "href='", 'id="', "href=")):
        return True
    is_start = not before or before[-1] in "},>+~*/"
    return (
        is_start
        and one.after[:1] not in (";", '"', "'")
        and (after[:1] in ("{", ">") or re.match(r"[.:\[][a-z]|,? ?[#.][a-z-]+[^;\"']*\{", one.after, re.IGNORECASE) is not None)
    )


@dataclass(frozen=True)
class Around:
    """What a find stands among.

    in_scope : under a heading that speaks of colors; is_near : colors or words for them within a few lines; beside_strong : a sure
    color on its line; share : of the text's lines, those that begin with its kind; density : those with a sure color; many : at
    least three of its kind and length in the text.
    """

    in_scope: bool
    is_near: bool
    beside_strong: bool
    share: float
    density: float
    many: bool


def _size(one: Candidate) -> int:
    return len(one.text) if one.kind in ("bare", "prefixed") else len(_NUMBERS.findall(one.text))


def _says_the_same(one: Candidate, other: Candidate) -> bool:
    # The name of a color beside its code is a label.
    is_of_codes = bool({one.kind, other.kind} & {"hash", "bare"}) and "name" not in (one.kind, other.kind)
    return is_of_codes and one.color is not None and other.color is not None and one.color.bytes == other.color.bytes


def _weigh(lines: list[Line]) -> None:
    """Settle how sure each candidate is, by its own line, those around it, and its like in the whole text."""
    strong = [sum(one.sure >= 0.7 and one.kind in ("function", "hash", "channels") for one in line.found) for line in lines]
    alike = Counter((one.kind, _size(one)) for line in lines for one in line.found)
    filled = max(sum(1 for line in lines if line.text.strip()), 1)
    firsts = Counter(one.kind for line in lines for one in line.found[:1])
    sure_lines = sum(count > 0 for count in strong)
    density = sure_lines / filled if sure_lines >= FEW else 0.0
    for number, line in enumerate(lines):
        around = range(max(0, number - NEAR_LINES), min(len(lines), number + NEAR_LINES + 1)) if line.found else range(0)
        is_near = any(strong[at] or lines[at].speaks_of_colors for at in around)
        last: Candidate | None = None
        for one in line.found:
            is_at_rim = not one.before.strip(_EDGES) or not one.after.strip(_EDGES)
            share = firsts[one.kind] / filled if firsts[one.kind] >= FEW and is_at_rim else 0.0
            many = alike[one.kind, _size(one)] >= FEW
            place = Around(line.in_scope, is_near, strong[number] > (one.sure >= 0.7), share, density, many)
            between = line.text[last.end - line.begin : one.begin - line.begin] if last else ""
            if last is not None and last.kind == one.kind and not between.strip(_BRACKETS):
                # One of a list is what the others are.
                one.sure, one.why = last.sure, last.why
            elif last is not None and _says_the_same(last, one):
                # The same color in two notations beside each other is no chance.
                one.sure = last.sure = max(one.sure, last.sure, 0.9)
            else:
                said = line.text[max(last.end - line.begin if last else 0, one.begin - line.begin - 160) : one.begin - line.begin]
                _weigh_one(one, _segment(said), line, place)
            last = one


def _weigh_one(one: Candidate, said: str, line: Line, place: Around) -> None:
    """said : the words right before it, back to the find before it on its line."""
    if one.kind in ("function", "channels", "terminal"):
        return
    before = plain_words(said)
    words = f"{before} {plain_words(one.after[:24].split(',')[0])}"
    of_color, of_hue = COLOR_WORDS.search(words) is not None, HUES.search(words) is not None
    if one.kind == "name":
        if one.sure < SURE_ENOUGH and COLOR_WORDS.search(before):
            one.sure += 0.15
        one.why = "a word that may be a label"
    elif one.kind == "hash":
        _weigh_hash(one, line, place, of_color or of_hue)
    else:
        one.sure += 0.45 if of_color else 0.25 if of_hue else 0.0
        if not of_color:
            one.sure += 0.35 if place.in_scope else 0.25 if place.beside_strong else 0.1 if place.is_near else 0.0
        one.sure += 0.1 * place.many + 0.5 * (place.share >= 0.75) + 0.15 * (place.density >= 0.3)
        if one.heading and one.color is not None and one.color.space == "cmyk":
            one.sure += 0.4
        _weigh_against(
            one,
            before,
            words,
            of_color or of_hue or place.in_scope or place.share >= 0.75 or place.beside_strong or place.density >= 0.3,
        )


def _weigh_hash(one: Candidate, line: Line, place: Around, is_named: bool) -> None:
    digits = one.text[1:].lower()
    if _is_selector(one):
        one.against(1, "it names a part of a page")
    elif line.speaks_of_codes and (digits.isdigit() or digits in HEX_WORDS):
        one.against(0.6, "words such as issue or order stand beside it")
    else:
        if place.beside_strong or is_named:
            one.sure += 0.2 if not digits.isalpha() or is_named else 0.1
        one.why = "a number or a word as much as a color"


def _weigh_against(one: Candidate, before: str, words: str, is_spoken_for: bool) -> None:
    one.why = "numbers as much as a color"
    if one.kind != "run":
        if CODE_WORDS.search(words):
            one.against(0.6, "words for hashes or addresses stand beside it")
        return
    if SIZE_WORDS.search(words) or CODE_WORDS.search(words):
        one.against(0.3 if COLOR_WORDS.search(before) else 0.8, "words for sizes or counts stand beside it")
    if not is_spoken_for and not one.heading and one.sure >= SURE_ENOUGH:
        one.sure, one.why = SURE_ENOUGH - 0.05, "three numbers, and no word for a color"


def _segment(before: str) -> str:
    """What is said right before a find: back to the end of the statement before."""
    for mark in (";", "|", ". ", ", ", "} "):
        before = before.rpartition(mark)[2]
    return before[-60:]


def _codes_of_eight(ones: list[Candidate], kind: str) -> list[tuple[Candidate, str]]:
    """Finds of one kind that have eight digits, with their digits in lower case."""
    digits = [(one, one.text.lower().removeprefix("0x").removeprefix("#").rstrip("ul")) for one in ones if one.kind == kind]
    return [(one, code) for one, code in digits if len(code) == 8]


def _settle_alpha(ones: list[Candidate]) -> None:
    """Codes of eight digits: alpha stands last behind `#` and bare, first behind `0x`, but where the codes say otherwise."""
    for kind in ("hash", "bare", "prefixed"):
        long = _codes_of_eight(ones, kind)
        first = sum(code.startswith("ff") for _, code in long)
        last = sum(code.endswith("ff") for _, code in long)
        if kind == "prefixed":
            is_first = not last == len(long) > first
        else:
            is_first = first > last or all(code.endswith("00") for _, code in long)
        for one, code in long:
            alpha, red, green, blue = bytes.fromhex(code if is_first else code[6:] + code[:6])
            one.color = Color.from_bytes(red, green, blue, alpha)


def _label(said: str, is_behind: bool) -> str:
    """A name in the words beside a color: their clause next to it, without words that only join."""
    near = said[: 4 * LONGEST_LABEL] if is_behind else said[-4 * LONGEST_LABEL :]
    clauses = [clause for clause in re.split(r"[;,.(] ", near) if clause.strip(_EDGES)]
    words = clauses[0 if is_behind else -1].strip(_EDGES).split() if clauses else []
    while words and words[-1].lower() in JOINING_WORDS:
        words.pop()
    while words and words[0].lower() in JOINING_WORDS:
        words.pop(0)
    label = " ".join(words).strip(_EDGES)
    return (label[:LONGEST_LABEL] if is_behind else label[-LONGEST_LABEL:]).strip()


def candidates(text: str) -> list[Candidate]:
    """All that may be colors, in order, each with how sure it is and its label."""
    lines: list[Line] = []
    begin, heading, count = 0, "", 0
    scopes: list[tuple[int, bool]] = []
    for number, words in enumerate(text.split("\n"), start=1):
        line = Line(words, begin)
        # Of a longer line, as in minified files, the beginning says nothing about the rest.
        plain = plain_words(words[:2_000])
        line.speaks_of_colors = COLOR_WORDS.search(plain) is not None
        line.speaks_of_codes = len(words) <= 2_000 and CODE_WORDS.search(plain) is not None
        line.found = _candidates(words, begin, number, heading)
        stripped = words.strip()
        if stripped:
            deep = len(words) - len(words.lstrip())
            is_heading = stripped[-1] in ":{[(" or (stripped[0] == "[" and stripped[-1] == "]")
            while scopes and (deep < scopes[-1][0] or (deep == scopes[-1][0] and is_heading)):
                scopes.pop()
            line.in_scope = bool(scopes) and scopes[-1][1]
            if is_heading and len(scopes) < MOST_SCOPES:
                scopes.append((deep, line.speaks_of_colors))
        if "cmyk" in plain and not line.found:
            heading = "cmyk"
        count += len(line.found)
        if count > MOST_FINDS:
            raise TooLarge(f"The text has more than {MOST_FINDS:,} numbers and words that may be colors. Split it first.")
        lines.append(line)
        begin += len(words) + 1
    _weigh(lines)
    found: list[Candidate] = []
    for line in lines:
        kept = [one for one in line.found if one.sure >= LEAST]
        # A color word beside another notation is a label.
        if any(one.kind != "name" for one in kept):
            kept = [one for one in kept if one.kind != "name" or one.sure >= 0.7]
        # A line that begins with a color has its names behind them, any other before.
        is_behind = bool(kept) and not line.text[: kept[0].begin - line.begin].strip(_EDGES)
        for place, one in enumerate(kept):
            before = kept[place - 1].end - line.begin if place else 0
            after = kept[place + 1].begin - line.begin if place + 1 < len(kept) else len(line.text)
            start, end = one.begin - line.begin, one.end - line.begin
            one.label = _label(line.text[end:after] if is_behind else line.text[before:start], is_behind)
            if not one.label and place + 1 == len(kept) and not is_behind:
                one.label = _label(line.text[end:after], True)
        found += kept
    _settle_alpha(found)
    for one in found:
        one.sure = min(one.sure, 1.0)
    return found


def sniff(data: bytes) -> float:
    if not is_probably_text(data):
        return 0.0
    return 0.1 if len(data) > LOOKED_AT or candidates(decode_text(data)) else 0.0


def read(data: bytes) -> Found:
    """Everything that may be a color; leave out what was not meant."""
    found = candidates(decode_text(data))
    made = SwatchList()
    for one in found:
        if one.color is not None:
            made.add(one.color, one.label)
    if not made:
        raise NoColor("There is no color in that text. Codes, functions such as oklch(), CSS names and number triples are found.")
    count = len(made)
    doubtful = sum(one.sure < SURE_ENOUGH for one in found)
    note = f"Found by scanning the text: {count:,} {'color' if count == 1 else 'colors'}"
    note += f", {doubtful:,} of them doubtful and not ticked." if doubtful else ". Leave out what was not meant as one."
    return Found(
        made.palette(), (note,), marks=tuple((one.begin, one.end) for one in found), sure=tuple(round(one.sure, 2) for one in found),
        doubts=tuple(one.why if one.sure < SURE_ENOUGH else "" for one in found),
    )  # fmt: skip


FORMATS.register(
    Format(
        "text-scan", (".txt", ".md", ".html", ".xml", ".js", ".py"), "any text", "code", "text/plain; charset=utf-8",
        Keeps(names=True, alpha="all"), "Finds every color in any text.", is_text=True, is_scan=True,
        limits=Limits(700_000, (Count(b"\n", 60_000, "lines"),)),
        sniff=sniff, read=read,
    )
)  # fmt: skip
