"""Text scan: every color in any text, with the nearest label on its line and how sure it is that a color is meant.

What may be a color is found form by form (`text_forms.py`). What is no color in itself (`#123`, `10 20 30`, `red`) counts by what
stands around it (`text_weighing.py`). Finds below one half are offered unticked, with the reason.
"""

import re

from huvren.core.color.value import Color
from huvren.core.errors import TooLarge
from huvren.core.formats.format import FORMATS, SURE_ENOUGH, Format, Found, Keeps, NoColor, decode_text, is_probably_text
from huvren.core.formats.reading_limits import Count, ReadingLimits
from huvren.core.formats.scan.text_forms import EDGES, MOST_FINDS, Candidate, candidates_of
from huvren.core.formats.scan.text_weighing import Line, weigh
from huvren.core.formats.scan.text_words import CODE_WORDS, COLOR_WORDS, JOINING_WORDS, plain_words
from huvren.core.formats.swatch_list import SwatchList
from huvren.core.progress import look_up

LONGEST_LABEL = 80
LEAST = 0.15
"""What is less sure is not offered at all."""
LOOKED_AT = 20_000
"""Bytes of a text in which something must be found before all of it is scanned; of longer ones that is tried at once."""
MOST_SCOPES = 40


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
    clauses = [clause for clause in re.split(r"[;,.(] ", near) if clause.strip(EDGES)]
    words = clauses[0 if is_behind else -1].strip(EDGES).split() if clauses else []
    while words and words[-1].lower() in JOINING_WORDS:
        words.pop()
    while words and words[0].lower() in JOINING_WORDS:
        words.pop(0)
    label = " ".join(words).strip(EDGES)
    return (label[:LONGEST_LABEL] if is_behind else label[-LONGEST_LABEL:]).strip()


def candidates(text: str) -> list[Candidate]:
    """All that may be colors, in order, each with how sure it is (0..1) and its label. Raises `TooLarge` for too many."""
    lines: list[Line] = []
    begin, heading, count = 0, "", 0
    scopes: list[tuple[int, bool]] = []
    for number, words in enumerate(text.split("\n"), start=1):
        look_up()
        line = Line(words, begin)
        # Of a longer line, as in minified files, the beginning says nothing about the rest.
        plain = plain_words(words[:2_000])
        line.speaks_of_colors = COLOR_WORDS.search(plain) is not None
        line.speaks_of_codes = len(words) <= 2_000 and CODE_WORDS.search(plain) is not None
        line.found = candidates_of(words, begin, number, heading)
        stripped = words.strip()
        if stripped:
            deep = len(words) - len(words.lstrip())
            is_heading = stripped[-1] in ":{[(" or (stripped[0] == "[" and stripped[-1] == "]")
            while scopes and (deep < scopes[-1][0] or (deep == scopes[-1][0] and is_heading)):
                scopes.pop()
            line.in_scope = bool(scopes) and scopes[-1][1]
            if is_heading and len(scopes) < MOST_SCOPES:
                scopes.append((deep, line.speaks_of_colors))
        if not line.found:
            # The heading of rows of numbers says what they are, until another one does.
            heading = "cmyk" if "cmyk" in plain else "" if re.search(r"rgb|hs[lvb]|(?<![a-z])lab(?![a-z])", plain) else heading
        count += len(line.found)
        if count > MOST_FINDS:
            raise TooLarge(f"The text has more than {MOST_FINDS:,} numbers and words that may be colors. Split it first.")
        lines.append(line)
        begin += len(words) + 1
    weigh(lines)
    found: list[Candidate] = []
    for line in lines:
        look_up()
        kept = [one for one in line.found if one.sure >= LEAST]
        # A color word beside another notation is a label.
        if any(one.kind != "name" for one in kept):
            kept = [one for one in kept if one.kind != "name" or one.sure >= 0.7]
        # A line that begins with a color has its names behind them, any other before.
        is_behind = bool(kept) and not line.text[: kept[0].begin - line.begin].strip(EDGES)
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
        one.sure = round(min(one.sure, 1.0), 2)
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
        made.palette(), (note,), marks=tuple((one.begin, one.end) for one in found), sure=tuple(one.sure for one in found),
        doubts=tuple(one.why if one.sure < SURE_ENOUGH else "" for one in found),
    )  # fmt: skip


FORMATS.register(
    Format(
        "text-scan", (".txt", ".md", ".html", ".xml", ".js", ".py"), "any text", "code", "text/plain; charset=utf-8",
        Keeps(names=True, alpha="all"), "Finds every color in any text.", is_text=True, is_scan=True,
        limits=ReadingLimits(700_000, (Count(b"\n", 60_000, "lines"),)),
        sniff=sniff, read=read,
    )
)  # fmt: skip
