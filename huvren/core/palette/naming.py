"""Plain suggested names from lightness, chroma and hue, so that every swatch has one before the artist names it."""

import re
from collections.abc import Iterable, Sequence

import numpy as np

from huvren.core.color.arrays import Flags, Floats, Integers
from huvren.core.color.convert import srgb_to_oklch
from huvren.core.color.value import Color, srgb_of
from huvren.core.progress import look_up

# Upper hue bounds in OKLCh degrees; the words are everyday ones, found by looking at sRGB hue circles.
_HUES = (
    (12, "pink"), (35, "red"), (65, "orange"), (95, "amber"), (112, "yellow"), (130, "lime"), (158, "green"),
    (185, "sea green"), (212, "teal"), (240, "sky"), (278, "blue"), (300, "indigo"), (326, "violet"), (345, "magenta"),
    (360, "pink"),
)  # fmt: skip
_GRAYS = ((0.12, "black"), (0.38, "charcoal"), (0.66, "gray"), (0.78, "silver"), (0.96, "pale gray"), (9, "white"))
_GIVEN_BY_US = re.compile(r"(?: copy| [0-9]+)*\Z")
"""What duplicating and telling apart put behind a name."""
_PURITIES = ("", "grayish", "vivid")
_LIGHTNESS = ((0.24, "ink"), (0.40, "deep"), (0.54, "dark"), (0.72, ""), (0.84, "light"), (9, "pale"))
_TONES = tuple(word for _, word in _LIGHTNESS)
_WORDS = tuple(dict.fromkeys(word for _, word in _HUES)) + ("brown", "sand", "olive", "plum")
_WORD_OF_HUE = np.array([_WORDS.index(word) for _, word in _HUES])
_HUE_BOUNDS, _GRAY_BOUNDS, _TONE_BOUNDS = (np.array([bound for bound, _ in rows]) for rows in (_HUES, _GRAYS, _LIGHTNESS))


def suggest_names(colors: Sequence[Color]) -> list[str]:
    """One to three words for each color, for example “Deep teal” or “Grayish orange”."""
    if not colors:
        return []
    said: dict[tuple[int, ...], str] = {}
    names = []
    for color, row in zip(colors, _codes(srgb_to_oklch(srgb_of(colors)[0])).tolist(), strict=True):
        code = tuple(row)
        name = said.get(code)
        if name is None:
            look_up()
            name = said[code] = _said(*code)
        names.append("Transparent" if color.alpha == 0 else name)
    return names


def says_no_more(name: str, word: str) -> bool:
    """Whether a name is a suggested word that nobody gave: as it is, or as a copy, or numbered so that it is another's no more."""
    return name.startswith(word) and _GIVEN_BY_US.match(name, len(word)) is not None


def suggest_name(color: Color) -> str:
    """One to three words for one color."""
    return suggest_names([color])[0]


def _codes(oklch: Floats) -> Integers:
    """(n, 3) OKLCh → (n, 3) places in the lists of tones, of purities and of words; −1 in the first for grays."""
    lightness, chroma, hue = oklch.T
    word = _WORD_OF_HUE[np.searchsorted(_HUE_BOUNDS, hue, side="left").clip(0, len(_HUES) - 1)]

    def among(*words: str) -> Flags:
        return np.isin(word, [place for place, entry in enumerate(_WORDS) if entry in words])

    # In this order: what is one of the first is none of those after it.
    changes = [
        (among("orange", "amber", "red") & (lightness < 0.62) & (chroma < 0.12), "brown"),
        (among("amber", "yellow", "orange") & (lightness >= 0.62) & (chroma < 0.075), "sand"),
        (among("yellow", "lime") & (lightness < 0.6), "olive"),
        (among("pink", "magenta") & (lightness < 0.45), "plum"),
    ]
    word = np.select([change for change, _ in changes], [_WORDS.index(name) for _, name in changes], word)
    tone = np.searchsorted(_TONE_BOUNDS, lightness, side="right")
    is_dull = (chroma < 0.035) & (word != _WORDS.index("sand"))
    purity = np.where(is_dull, _PURITIES.index("grayish"), np.where(chroma > 0.19, _PURITIES.index("vivid"), 0))
    # What is vivid is neither pale nor dark to the eye; what is deep is not vivid.
    is_deep = tone < _TONES.index("dark")
    is_vivid = purity == _PURITIES.index("vivid")
    purity = np.where(is_vivid & is_deep, 0, purity)
    tone = np.where(is_vivid & ~is_deep, _TONES.index(""), tone)
    is_gray = (chroma < 0.012) | (lightness < 0.08) | (lightness > 0.992)
    gray = np.searchsorted(_GRAY_BOUNDS, lightness, side="right")
    return np.stack([np.where(is_gray, -1, tone), np.where(is_gray, 0, purity), np.where(is_gray, gray, word)], axis=1)


def _said(tone: int, purity: int, word: int) -> str:
    if tone < 0:
        return _GRAYS[word][1].capitalize()
    return " ".join(part for part in (_LIGHTNESS[tone][1], _PURITIES[purity], _WORDS[word]) if part).capitalize()


class Namer:
    """Gives out names that nobody has: the wanted one, or `wanted 2`, `wanted 3` … where it is taken."""

    def __init__(self, taken: Iterable[str] = ()) -> None:
        self._taken = set(taken)
        self._next: dict[str, int] = {}

    def keep(self, name: str) -> None:
        """Count a name as taken."""
        self._taken.add(name)

    def give(self, wanted: str) -> str:
        name, number = wanted, self._next.get(wanted, 2)
        while name in self._taken:
            name, number = f"{wanted} {number}", number + 1
        self._next[wanted] = number
        self._taken.add(name)
        return name


def unused_name(wanted: str, taken: Iterable[str]) -> str:
    """`wanted`, or `wanted 2`, `wanted 3` … where it is taken."""
    return Namer(taken).give(wanted)
