"""`.hex` list: one code a line, `rrggbb`, or eight digits with alpha, which stands last in some programs and first in others."""

from collections.abc import Mapping

from huvren.core.color.value import Color
from huvren.core.errors import BadFile
from huvren.core.formats.format import FORMATS, Document, Format, Found, Keeps, decode_text
from huvren.core.formats.reading_limits import LINES, ReadingLimits
from huvren.core.formats.swatch_list import SwatchList

HEX = frozenset("0123456789abcdefABCDEF")
LENGTHS = (3, 6, 8)
LAST, FIRST = "alpha last", "alpha first"


def _digits(line: str) -> str:
    """The hex digits of a line, empty for anything else."""
    word = line.strip()
    word = word[1:] if word[:1] == "#" else word[2:] if word[:2] in ("0x", "0X") else word
    return word if len(word) in LENGTHS and HEX.issuperset(word) else ""


def sniff(data: bytes) -> float:
    lines = [line for line in decode_text(data[:2048]).split("\n") if line.strip()]
    if len(data) > 2048 and lines:
        lines.pop()
    return 0.8 if lines and all(_digits(line) for line in lines) else 0.0


def _codes(data: bytes) -> list[str]:
    codes = []
    for number, line in enumerate(decode_text(data).split("\n"), start=1):
        if not line.strip():
            continue
        digits = _digits(line)
        if not digits:
            raise BadFile(f"Line {number}: “{line.strip()[:40]}” is no code of six or eight hex digits.")
        codes.append(digits)
    return codes


def _found(codes: list[str], way: str) -> Found:
    made = SwatchList()
    for digits in codes:
        if len(digits) == 8:
            alpha, red, green, blue = bytes.fromhex(digits if way == FIRST else digits[6:] + digits[:6])
            made.add(Color.from_bytes(red, green, blue, alpha))
        else:
            made.add(Color.from_bytes(*bytes.fromhex(digits if len(digits) == 6 else "".join(d * 2 for d in digits))))
    return Found(made.palette(example="A .hex list has one code such as “e55521” a line."))


def read_ways(data: bytes) -> Mapping[str, Found]:
    """One code a line, blank lines skipped. Codes of eight digits give two readings.

    Alpha is likelier first where read last it would make every color clear, or where more codes, half of them at least, are
    opaque with it first.
    """
    codes = _codes(data)
    long = [code.lower() for code in codes if len(code) == 8]
    if not long:
        return {"": _found(codes, LAST)}
    all_clear = all(code.endswith("00") for code in long)
    first, last = sum(code.startswith("ff") for code in long), sum(code.endswith("ff") for code in long)
    opaque_first = len(long) > 1 and first * 2 >= len(long) and first > last
    ways = (FIRST, LAST) if all_clear or opaque_first else (LAST, FIRST)
    return {way: _found(codes, way) for way in ways}


def read(data: bytes) -> Found:
    """The likeliest reading."""
    return next(iter(read_ways(data).values()))


def write(document: Document) -> bytes:
    """Lower-case codes in palette order; names and alpha are not written."""
    return "".join(swatch.color.hex[1:7] + "\n" for swatch in document.palette.swatches).encode()


FORMATS.register(
    Format(
        "hex", (".hex",), "code list", "palette", "text/plain; charset=utf-8", Keeps(),
        "Bare codes, one a line, for pasting and pixel programs.", is_text=True,
        limits=ReadingLimits(4_000_000, LINES), sniff=sniff, read=read, read_ways=read_ways,
        write=write,
    )
)  # fmt: skip
