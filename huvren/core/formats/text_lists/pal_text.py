"""`.pal` as text: a fixed first line, `0100`, the count, then `R G B` rows with CR LF."""

from huvren.core.color.value import Color
from huvren.core.errors import BadFile
from huvren.core.formats.format import FORMATS, Document, Format, Found, Keeps, decode_text, whole_number
from huvren.core.formats.reading_limits import LINES, ReadingLimits
from huvren.core.formats.swatch_list import SwatchList

FIRST_LINE = "JASC-PAL"
VERSION = "0100"


def sniff(data: bytes) -> float:
    return 1.0 if decode_text(data[:16]).startswith(FIRST_LINE) else 0.0


def read(data: bytes) -> Found:
    """Blank lines at the end are let pass; a fourth number in a row is left out."""
    lines = decode_text(data).rstrip().split("\n")
    if lines[0].strip() != FIRST_LINE:
        raise BadFile("Line 1: the fixed first line of a .pal text palette is missing.")
    if len(lines) < 3 or lines[1].strip() != VERSION:
        raise BadFile(f"Line 2: “{VERSION}” was expected, and the number of colors after it.")
    count = whole_number(lines[2])
    if count is None:
        raise BadFile(f"Line 3: “{lines[2].strip()[:20]}” is no number of colors.")
    rows = lines[3:]
    if len(rows) != count:
        raise BadFile(f"Line 3: it says {count:,} colors, but {len(rows):,} rows follow.")
    made = SwatchList()
    for number, line in enumerate(rows, start=4):
        red, green, blue = (whole_number(word) for word in (line.split(None, 3) + ["", "", ""])[:3])
        if red is None or green is None or blue is None or max(red, green, blue) > 255:
            raise BadFile(f"Line {number}: “{line.strip()[:40]}” is no row of three numbers from 0 to 255.")
        made.add(Color.from_bytes(red, green, blue))
    return Found(made.palette(example="It has no row."))


def write(document: Document) -> bytes:
    """Rows in palette order; nothing but the 8-bit colors is written."""
    swatches = document.palette.swatches
    rows = ["{} {} {}".format(*swatch.color.bytes[:3]) for swatch in swatches]
    return ("\r\n".join([FIRST_LINE, VERSION, str(len(swatches)), *rows]) + "\r\n").encode("ascii")


FORMATS.register(
    Format(
        "pal-text", (".pal",), "text color table", "palette", "text/plain; charset=utf-8", Keeps(places="index"),
        "Order alone, as numbered rows; older painting programs read it.", is_text=True, fixed_lines=1,
        limits=ReadingLimits(4_000_000, LINES), sniff=sniff, read=read, write=write,
    )
)  # fmt: skip
