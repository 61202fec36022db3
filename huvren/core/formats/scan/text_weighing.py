"""How sure it is that a color is meant: each find of a text weighed by its own line, the lines around it and its like in the text."""

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field

from huvren.core.formats.format import SURE_ENOUGH
from huvren.core.formats.scan.text_forms import EDGES, NUMBERS, Candidate
from huvren.core.formats.scan.text_words import CODE_WORDS, COLOR_WORDS, HEX_WORDS, HUES, SIZE_WORDS, plain_words

NEAR_LINES = 3
FEW = 3
_BRACKETS = " \t,()[]{}"


@dataclass
class Line:
    """A line with what may be a color in it, and what its words say. begin : letters before it in the text."""

    text: str
    """Of the line."""
    begin: int
    found: list[Candidate] = field(default_factory=list)
    """In it."""
    speaks_of_colors: bool = False
    """Whether it has words of color."""
    speaks_of_codes: bool = False
    """Whether it has words of other codes."""
    in_scope: bool = False
    """Whether it stands below a heading about colors."""


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
    return len(one.text) if one.kind in ("bare", "prefixed") else len(NUMBERS.findall(one.text))


def _says_the_same(one: Candidate, other: Candidate) -> bool:
    # The name of a color beside its code is a label.
    is_of_codes = bool({one.kind, other.kind} & {"hash", "bare"}) and "name" not in (one.kind, other.kind)
    return is_of_codes and one.color is not None and other.color is not None and one.color.bytes == other.color.bytes


def weigh(lines: Sequence[Line]) -> None:
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
            is_at_rim = not one.before.strip(EDGES) or not one.after.strip(EDGES)
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
