"""What words around a number say: that it is a color, or that it is something else. For the text scan."""

import re

COLOR_WORDS = re.compile(
    r"colou?r|palette|swatch|(?<![a-z])(?:argb|bgra?|rgba?|hsla?|hsv|cmyk|oklch|oklab|hex|hues?|inks?|dyes?|pigments?|paint(?:s|ed)?|tints?|tones?"
    r"|shades?|gamut|accent|foreground|background|fill|stroke|theme|lamps?|leds?)(?![a-z])"
)
"""On lower-case text in which capitals within a word have been parted."""
HUES = re.compile(
    r"(?<![a-z])(?:red|orange|amber|yellow|gold|lime|green|teal|cyan|sky|blue|navy|indigo|violet|purple|magenta|pink|plum|brown|tan|sand"
    r"|black|white|gr[ae]y|silver|cream|paper|dusk|dawn)(?![a-z])"
)
SIZE_WORDS = re.compile(
    r"(?<![a-z])(?:paddings?|margins?|sizes?|width|heights?|inset|grids?|gaps?|radius|offsets?|pos|positions?|translate|scale|rotate|matrix"
    r"|transform|version|pages?|steps?|lines?|rows?|cols?|columns?|index|indices|counts?|ports?|dates?|times?|delay|queue|load|shape|points?"
    r"|weights?|ratios?|ids?|dir|direction|normal|dot|lut|formats?|temperatures?|pieces|sheets|phone|rooms?|vector\d?|move|scroll|rect(?:angle)?|arc|ellipse|shift|skip|copies|dims|dimensions)(?![a-z])"
)
CODE_WORDS = re.compile(
    r"(?<![a-z])(?:issues?|pr|pull|bugs?|tickets?|fix(?:es|ed)?|closes|commit|sha\d*|hash|checksum|md5|uuid|id|ids|addr|address|ptr|pointer|masks?"
    r"|flags?|errors?|errno|code at|version|builds?|batch|orders?|invoice|items?|serial|refs?|key|seed|request|irq|base|dead"
    r"|git|show|checkout|merge|isbn)(?![a-z])"
)
HEX_WORDS = frozenset(
    [
        "add",
        "bad",
        "bed",
        "bee",
        "cab",
        "dab",
        "dad",
        "ace",
        "fed",
        "ebb",
        "bade",
        "bead",
        "beef",
        "cafe",
        "cede",
        "dace",
        "dead",
        "deaf",
        "deed",
        "face",
        "fade",
        "feed",
        "accede",
        "beaded",
        "decade",
        "decade",
        "deface",
        "efface",
        "facade",
        "decaf",
    ]
)
"""English words that are hex digits alone, of the lengths that codes have."""
JOINING_WORDS = frozenset(
    [
        "a",
        "an",
        "and",
        "are",
        "around",
        "as",
        "at",
        "be",
        "by",
        "far",
        "for",
        "from",
        "goes",
        "in",
        "into",
        "is",
        "it",
        "its",
        "not",
        "of",
        "on",
        "or",
        "our",
        "that",
        "the",
        "then",
        "this",
        "to",
        "today",
        "was",
        "with",
    ]
)
"""Words that are no part of a name at either end of it."""
_PARTED = re.compile(r"(?<=[a-z0-9])(?=[A-Z])")


def plain_words(text: str) -> str:
    """Lower case, with `lampColor` and `COLOR_EYE` parted into their words."""
    return _PARTED.sub(" ", text).replace("_", " ").replace("-", " ").lower()
