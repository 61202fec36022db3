"""`.gpl` text palette: a fixed first line, `Name:` and `Columns:`, then `R G B<tab>name` rows, 0–255, UTF-8.

Groups have no place in the format; they are written as comments of the form `# group: name` and read back.
"""

from dataclasses import replace

from huvren.core.color.value import Color
from huvren.core.errors import BadFile
from huvren.core.formats.format import FORMATS, Document, Format, Found, Keeps, decode_text, sections, whole_number
from huvren.core.formats.holding import held_palette
from huvren.core.formats.reading_limits import LINES, ReadingLimits
from huvren.core.formats.swatch_list import SwatchList
from huvren.core.palette.values import Palette

FIRST_LINE = "GIMP Palette"
_GROUP_PREFIX = "# group:"
MOST_COLUMNS = 256


def sniff(data: bytes) -> float:
    return 1.0 if decode_text(data[:64]).lstrip().startswith(FIRST_LINE) else 0.0


def read(data: bytes) -> Found:
    """Read what real files hold: comments anywhere, tabs, missing names, CR line ends, Latin-1 names."""
    lines = decode_text(data).split("\n")
    if lines[0].strip() != FIRST_LINE:
        raise BadFile("Line 1: the fixed first line of a .gpl text palette is missing.")
    title, columns = "", None
    made = SwatchList()
    for number, line in enumerate(lines[1:], start=2):
        if not line.strip():
            continue
        if line.lstrip().startswith("#"):
            said = line.lstrip()[1:].lstrip()
            if said[:6].lower() == "group:":
                made.open_group(said[6:].strip())
            continue
        if line.startswith("Name:"):
            title = line[5:].strip()
        elif line.startswith("Columns:"):
            count = whole_number(line[8:])
            if count is None:
                raise BadFile(f"Line {number}: “Columns:” is followed by “{line[8:].strip()[:20]}”; a whole number was expected.")
            columns = min(count, MOST_COLUMNS) or None
        else:
            words = line.split(None, 3)
            red, green, blue = (whole_number(word) for word in (words + ["", "", ""])[:3])
            if red is None or green is None or blue is None:
                raise BadFile(f"Line {number}: “{line.strip()[:40]}” is no row of three numbers and a name.")
            if max(red, green, blue) > 255:
                raise BadFile(f"Line {number}: {max(red, green, blue)} is more than 255.")
            made.add(Color.from_bytes(red, green, blue), words[3].strip() if len(words) > 3 else "")
    return Found(made.palette(title, columns, "A .gpl text palette has rows such as “232  84  33  Eye-spot”."), made.doubled_names())


def write(document: Document) -> bytes:
    """Rows in palette order; alpha is not written."""
    palette = document.palette
    lines = [FIRST_LINE, f"Name: {palette.name}", f"Columns: {palette.columns or 0}", "#"]
    for place, (group, run) in enumerate(sections(palette)):
        if group or place:
            lines.append(f"{_GROUP_PREFIX} {group}".rstrip())
        for _, swatch in run:
            red, green, blue, _ = swatch.color.bytes
            lines.append(f"{red:3d} {green:3d} {blue:3d}\t{swatch.name}")
    return ("\n".join(lines) + "\n").encode()


def hold(document: Document) -> Palette:
    """Columns up to the most that readers take."""
    held = held_palette(document.palette, KEEPS)
    return replace(held, columns=min(held.columns, MOST_COLUMNS)) if held.columns else held


KEEPS = Keeps(title=True, names=True, groups=True, fields=frozenset({"palette.columns"}))
FORMATS.register(
    Format(
        "gpl", (".gpl",), "text palette", "palette", "text/plain; charset=utf-8", KEEPS,
        "Names and order as plain text; painting programs read it.", is_text=True, fixed_lines=1,
        limits=ReadingLimits(12_000_000, LINES), sniff=sniff, read=read, hold=hold, write=write,
    )
)  # fmt: skip
