"""Text scan: every color in any text, with the nearest label on its line."""

import re

from huvren.core.color.notation import css_names, parse_color
from huvren.core.color.value import Color
from huvren.core.errors import BadColor, BadFile
from huvren.core.formats import FORMATS, Format, Found, Keeps, SwatchList, decode_text, is_probably_text

_COLOR = re.compile(
    r"(?P<code>(?:\#|\b0x)(?:[0-9a-f]{8}|[0-9a-f]{6}|[0-9a-f]{4}|[0-9a-f]{3})(?![0-9a-z_]))"
    r"|(?P<function>\b(?:rgba?|hsla?|hwb|hsv|lab|lch|oklab|oklch|color|cmyk)\([^()\n]*\))"
    r"|(?P<bare>(?<![\w.#-])(?=[0-9a-f]*[0-9])(?:[0-9a-f]{8}|[0-9a-f]{6})(?![\w.]))"
    r"|(?P<shares>(?<![\w.-])(?:0?\.\d+|1\.0*|0\.0*)(?:[ \t]*[, \t][ \t]*(?:0?\.\d+|1\.0*|0\.0*)){2}(?![\w.]))"
    r"|(?P<bytes>(?<![\w.-])\d{1,3}(?:[ \t]*[,/ \t][ \t]*\d{1,3}){2}(?![ \t]*[,/][ \t]*\d)(?![\w.%]))"
    r"|(?P<name>(?<![\w.#-])[a-z]{3,}(?![\w-]))",
    re.IGNORECASE,
)
_EDGES = " \t\"'`,;:=|/*#()[]{}<>–—-.$@_"


def _color(match: re.Match[str]) -> Color | None:
    text = match.group()
    try:
        if match["name"]:
            return parse_color(text) if text.lower() in css_names() else None
        if match["shares"]:
            red, green, blue = (float(v) for v in re.split(r"[,\s]+", text))
            return Color("srgb", (red, green, blue)) if max(red, green, blue) <= 1 else None
        if match["bytes"]:
            channels = [int(v) for v in re.split(r"[,/\s]+", text)]
            return Color.from_bytes(*channels) if max(channels) <= 255 else None
        return parse_color(text)
    except BadColor:
        return None


def _label(line: str, before: int, start: int, end: int, after: int) -> str:
    """What stands before a color since the one before it, else what follows."""
    return line[before:start].strip(_EDGES)[-80:].strip() or line[end:after].strip(_EDGES)[:80].strip()


def scan(text: str) -> SwatchList:
    """All colors of a text in order. A color word counts only where its line has no other notation: there it is a label."""
    made = SwatchList()
    for line in text.split("\n"):
        if len(line) > 1_000_000:
            line = line[:1_000_000]
        found = [(match, color) for match in _COLOR.finditer(line) if (color := _color(match)) is not None]
        if any(not match["name"] for match, _ in found):
            found = [(match, color) for match, color in found if not match["name"]]
        for place, (match, color) in enumerate(found):
            before = found[place - 1][0].end() if place else 0
            after = found[place + 1][0].start() if place + 1 < len(found) else len(line)
            made.add(color, _label(line, before, match.start(), match.end(), after))
    return made


def sniff(data: bytes) -> float:
    if not is_probably_text(data):
        return 0.0
    text = decode_text(data[:200_000])
    return 0.1 if any(_color(match) for match in _COLOR.finditer(text)) or len(data) > 200_000 else 0.0


def read(data: bytes) -> Found:
    """Everything that looks like a color; leave out what was not meant."""
    made = scan(decode_text(data))
    if not made.swatches:
        raise BadFile("There is no color in that text. Codes, functions such as oklch(), CSS names and number triples are found.")
    count = len(made.swatches)
    note = f"Found by scanning the text: {count:,} {'color' if count == 1 else 'colors'}. Leave out what was not meant as one."
    return Found(made.palette(), (note,))


FORMATS.register(
    Format(
        "text-scan", (".txt", ".md", ".html", ".xml", ".js", ".py"), "any text", "code", "text/plain; charset=utf-8",
        Keeps(names=True, alpha="all"), "Finds every color in any text.", is_text=True, is_scan=True, sniff=sniff, read=read,
    )
)  # fmt: skip
