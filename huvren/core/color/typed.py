"""Colors as people type and paste them: lines, each of them a color with its name, or nothing but colors.

A line with one code is that color, and the rest of it is its name. Color words without a code are colors only where nothing else
stands in the line. A line that is neither stays whole, with what is wrong in it marked.
"""

import re
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property
from itertools import islice

from huvren.core.color.notation import FUNCTION_SPACES, PREFIXED, WAYS, css_names, parse_color
from huvren.core.color.value import Color
from huvren.core.errors import BadColor

MOST_AT_ONCE = 20_000
"""Colors in one text; longer lists come as files."""
MOST_WORDS = 100_000
"""Words that are looked at, colors or not."""
MOST_MARKED = 50
"""Words of a line that are marked as what is wrong."""
LONGEST_TEXT = 4_000_000
"""Letters of a text that is read at once."""

# What has matched is never given back, and no place is tried that lies inside a run of letters: so each letter is looked at a few
# times at most, whatever the text.
_TOKEN = re.compile(r"[a-z]++\([^()\n]*+\)?+|[^\s,;|]++", re.IGNORECASE)
_SEPARATOR = re.compile(r"[,;|\t]")
_AROUND_NAMES = " \t:;,=-–—\"'“”|/*"
_LOOKS_LIKE_A_CODE = re.compile(r"#|0x[0-9a-f]", re.IGNORECASE)
_BARE_HEX = re.compile(r"[0-9a-f]+", re.IGNORECASE)
_LONG_HEX = (6, 8)


class TooMany(BadColor):
    """More colors in a text than are read at once."""


def _may_be_color(word: str) -> bool:
    """Whether a word of letters alone is a color's name or base-sixteen digits."""
    return word in css_names() or word == "transparent" or _BARE_HEX.fullmatch(word) is not None


@dataclass(frozen=True)
class _Word:
    """A piece of a line between separators, and what color it is, if it is one."""

    text: str
    begin: int
    end: int

    @cached_property
    def color(self) -> Color | None:
        """What it is by itself."""
        if self.text.isalpha() and not _may_be_color(self.text.lower()):
            return None  # most words of names, told apart without a sentence each
        try:
            return parse_color(self.text)
        except BadColor:
            return None

    @property
    def problem(self) -> str:
        """Why it is no color, without the ways that there are: they stand where a text is typed."""
        try:
            parse_color(self.text)
        except BadColor as problem:
            return str(problem).removesuffix(WAYS).rstrip()
        return ""

    @property
    def is_code(self) -> bool:
        """A color that is no plain word. “Bad” and “facade” are base-sixteen digits as well, and stay words."""
        return self.color is not None and not self.text.isalpha()

    @property
    def certainty(self) -> int:
        """How surely it is a code: 0 none, 1 three or four bare digits, 2 six or eight, or a share of black, 3 function or prefix."""
        if not self.is_code:
            return 0
        if "(" in self.text or PREFIXED.match(self.text):
            return 3
        return 2 if len(self.text) in _LONG_HEX or not _BARE_HEX.fullmatch(self.text) else 1

    @property
    def is_broken(self) -> bool:
        """What was meant as a code and is none."""
        function, bracket, _ = self.text.partition("(")
        is_function = bool(bracket) and (function.lower() in FUNCTION_SPACES or function.lower() == "color")
        return self.color is None and (is_function or _LOOKS_LIKE_A_CODE.match(self.text) is not None)


@dataclass(frozen=True)
class WrongLine:
    """A line that is no color and no list of colors; what is wrong in it is looked for when it is asked."""

    text: str
    """Whole, as it was typed."""
    words: tuple[_Word, ...]
    """Its pieces between separators."""

    @cached_property
    def _marked(self) -> tuple[list[_Word], str]:
        """Codes that are none, else words between several codes, else words that are no colors; and why."""
        if wrong := [word for word in self.words if word.is_broken]:
            return wrong, wrong[0].problem
        if any(word.certainty > 1 for word in self.words):
            why = "Several codes stand in this line, and words among them. Give each color with a name a line of its own."
            return [word for word in self.words if not word.is_code], why
        wrong = [word for word in self.words if word.color is None]
        return wrong, wrong[0].problem

    @property
    def why(self) -> str:
        """A sentence for a person."""
        return self._marked[1]

    @property
    def parts(self) -> list[tuple[str, bool]]:
        """The line in pieces, each with whether it is what is wrong; the first `MOST_MARKED` are told apart."""
        parts, at = [], 0
        for word in self._marked[0][:MOST_MARKED]:
            parts += [(self.text[at : word.begin], False), (word.text, True)]
            at = word.end
        return [(text, is_wrong) for text, is_wrong in [*parts, (self.text[at:], False)] if text]


@dataclass(frozen=True)
class Typed:
    """What was typed, line by line: the colors that are understood with their names, and the lines that are not.

    taken, left : the text of each, so that one can be added and the other stays to be mended.
    """

    named: tuple[tuple[Color, str], ...]
    """Colors with their names, in order; an empty name where the line says none."""
    wrong: tuple[WrongLine, ...]
    """Lines that could not be read."""
    taken: str
    left: str


def _words(line: str) -> Iterator[_Word]:
    return (_Word(match.group(), match.start(), match.end()) for match in _TOKEN.finditer(line))


def _segments(line: str, words: list[_Word]) -> list[list[_Word]]:
    """The words of a line between its commas, semicolons, bars and tabs."""
    made: list[list[_Word]] = []
    end = 0
    for word in words:
        if not made or _SEPARATOR.search(line, end, word.begin):
            made.append([])
        made[-1].append(word)
        end = word.end
    return made


def _list_of(words: list[_Word]) -> list[tuple[Color, str]] | None:
    """Nothing but codes, or nothing but color words; None where something else stands among them.

    Three bare digits beside longer codes are a number: “501 #aabbcc” is a paint with its code.
    """
    if any(word.color is None for word in words) or len({min(word.certainty, 2) for word in words}) > 1:
        return None
    return [(word.color, "") for word in words if word.color]


def _named(line: str, words: list[_Word]) -> list[tuple[Color, str]] | None:
    """One code and its name; None where there are several as certain, or one that went wrong.

    Three or four bare digits beside words are a number: “Titanium white 104” has no code.
    """
    surest = max(word.certainty for word in words)
    codes = [word for word in words if word.certainty == surest > 1]
    if len(codes) != 1 or any(word.is_broken for word in words):
        return None
    code = codes[0]
    assert code.color is not None
    before, after = line[words[0].begin : code.begin], line[code.end : words[-1].end]
    return [(code.color, " ".join(part for side in (before, after) if (part := side.strip(_AROUND_NAMES))))]


def _read(line: str, words: list[_Word]) -> list[tuple[Color, str]] | None:
    if (listed := _list_of(words)) is not None:
        return listed
    segments = _segments(line, words)
    # “red, #00ff00, blue” says three colors, and “Ivory black, #231f20” one with its name.
    if len(segments) > 2 and all(len(segment) == 1 and segment[0].color for segment in segments):
        return [(word.color, "") for word in words if word.color]
    if (named := _named(line, words)) is not None:
        return named
    if len(segments) == 1:
        return None
    made: list[tuple[Color, str]] = []
    for segment in segments:
        part = _list_of(segment) or _named(line, segment)
        if part is None:
            return None
        made += part
    return made


def understand_colors(text: str) -> Typed:
    """Read a text line by line; one wrong line holds back nothing else.

    Raises `TooMany` for more than `MOST_AT_ONCE` colors or `MOST_WORDS` words, and `BadColor` for a text over `LONGEST_TEXT` letters.
    """
    if len(text) > LONGEST_TEXT:
        raise BadColor("That is more text than can be read at once. Paste at most 4 MB.")
    named: list[tuple[Color, str]] = []
    wrong: list[WrongLine] = []
    taken: list[str] = []
    looked = 0
    for line in text.splitlines():
        words = list(islice(_words(line), MOST_WORDS + 1))
        looked += len(words)
        if looked > MOST_WORDS:
            raise TooMany(f"That text has more than {MOST_WORDS:,} words. Bring a list this long in as a file.")
        if not words:
            continue
        found = _read(line, words)
        if found is None:
            wrong.append(WrongLine(line, tuple(words)))
        else:
            named += found
            taken.append(line)
        _check_count(len(named))
    return Typed(tuple(named), tuple(wrong), "\n".join(taken), "\n".join(line.text for line in wrong))


def _check_count(found: int) -> None:
    if found > MOST_AT_ONCE:
        raise TooMany(f"That text holds more than {MOST_AT_ONCE:,} colors. Bring a list this long in as a file.")


def parse_named_colors(text: str) -> list[tuple[Color, str]]:
    """Read a text of which every line is understood: `Lamp core #ffcc66`, `#ffcc66 Lamp core`, `#fff #000`.

    Raises `BadColor` for the first line that is not, and where there is no color at all.
    """
    typed = understand_colors(text)
    if typed.wrong:
        raise BadColor(f"{typed.wrong[0].why} {WAYS}")
    if not typed.named:
        raise BadColor(f"There is no color in that text. {WAYS}")
    return list(typed.named)
