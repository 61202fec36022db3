"""Plain suggested names from lightness, chroma and hue, so that every swatch has one before the artist names it."""

from collections.abc import Iterable, Sequence

from huvren.core.color.convert import srgb_to_oklch
from huvren.core.color.value import Color, srgb_of

# Upper hue bounds in OKLCh degrees; the words are everyday ones, found by looking at sRGB hue circles.
_HUES = (
    (12, "pink"), (35, "red"), (65, "orange"), (95, "amber"), (112, "yellow"), (130, "lime"), (158, "green"),
    (185, "sea green"), (212, "teal"), (240, "sky"), (278, "blue"), (300, "indigo"), (326, "violet"), (345, "magenta"),
    (360, "pink"),
)  # fmt: skip
_GRAYS = ((0.12, "black"), (0.38, "charcoal"), (0.66, "gray"), (0.78, "silver"), (0.96, "pale gray"), (9, "white"))
_LIGHTNESS = ((0.24, "ink"), (0.40, "deep"), (0.54, "dark"), (0.72, ""), (0.84, "light"), (9, "pale"))


def suggest_names(colors: Sequence[Color]) -> list[str]:
    """One to three words for each color, for example “Deep teal” or “Muted orange”."""
    if not colors:
        return []
    oklch = srgb_to_oklch(srgb_of(colors)[0]).tolist()
    return [
        "Transparent" if color.alpha == 0 else _word(lightness, chroma, hue)
        for color, (lightness, chroma, hue) in zip(colors, oklch, strict=True)
    ]


def suggest_name(color: Color) -> str:
    """One to three words for one color."""
    return suggest_names([color])[0]


def _word(lightness: float, chroma: float, hue: float) -> str:
    if chroma < 0.012 or lightness < 0.08 or lightness > 0.992:
        return next(word for bound, word in _GRAYS if lightness < bound).capitalize()
    word = next(word for bound, word in _HUES if hue <= bound)
    if word in ("orange", "amber", "red") and lightness < 0.62 and chroma < 0.12:
        word = "brown"
    elif word in ("amber", "yellow", "orange") and lightness >= 0.62 and chroma < 0.075:
        word = "sand"
    elif word in ("yellow", "lime") and lightness < 0.6:
        word = "olive"
    elif word in ("pink", "magenta") and lightness < 0.45:
        word = "plum"
    tone = next(tone for bound, tone in _LIGHTNESS if lightness < bound)
    purity = "grayish" if chroma < 0.035 and word != "sand" else "vivid" if chroma > 0.19 else ""
    return " ".join(part for part in (tone, purity, word) if part).capitalize()


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
