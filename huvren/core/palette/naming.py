"""Plain suggested names from lightness, chroma and hue, so that every swatch has one before the artist names it."""

from collections.abc import Iterable

from huvren.core.color.value import Color

# Upper hue bounds in OKLCh degrees; the words are everyday ones, found by looking at sRGB hue circles.
_HUES = (
    (12, "pink"), (35, "red"), (65, "orange"), (95, "amber"), (112, "yellow"), (130, "lime"), (158, "green"),
    (185, "sea green"), (212, "teal"), (240, "sky"), (278, "blue"), (300, "indigo"), (326, "violet"), (345, "magenta"),
    (360, "pink"),
)  # fmt: skip
_GRAYS = ((0.12, "black"), (0.38, "charcoal"), (0.66, "gray"), (0.78, "silver"), (0.96, "pale gray"), (9, "white"))
_LIGHTNESS = ((0.24, "ink"), (0.40, "deep"), (0.54, "dark"), (0.72, ""), (0.84, "light"), (9, "pale"))


def suggest_name(color: Color) -> str:
    """One to three words for a color, for example “Deep teal” or “Muted orange”."""
    if color.alpha == 0:
        return "Transparent"
    lightness, chroma, hue = Color("srgb", color.srgb).to("oklch")
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


def unused_name(wanted: str, taken: Iterable[str]) -> str:
    """`wanted`, or `wanted 2`, `wanted 3` … where it is taken."""
    names = set(taken)
    if wanted not in names:
        return wanted
    number = 2
    while f"{wanted} {number}" in names:
        number += 1
    return f"{wanted} {number}"
