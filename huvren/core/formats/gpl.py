"""`.gpl` text palette: a fixed first line, `Name:` and `Columns:`, then `R G B<tab>name` rows, 0–255, UTF-8.

Groups have no place in the format; they are written as comments of the form `# group: name` and read back.
"""

import re

from huvren.core.color.value import Color
from huvren.core.errors import BadFile
from huvren.core.formats import FORMATS, Document, Format, Found, Keeps, SwatchList, decode_text, sections

FIRST_LINE = "GIMP Palette"
_ROW = re.compile(r"\s*(\d+)\s+(\d+)\s+(\d+)(?:\s+(.*?))?\s*")
_GROUP = re.compile(r"#\s*group:\s*(.*?)\s*", re.IGNORECASE)
_NO_GROUP = "# group:"


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
        if match := _GROUP.fullmatch(line):
            made.open_group(match.group(1))
        elif line.lstrip().startswith("#"):
            continue
        elif line.startswith("Name:"):
            title = line[5:].strip()
        elif line.startswith("Columns:"):
            value = line[8:].strip()
            if not value.isdigit():
                raise BadFile(f"Line {number}: “Columns:” is followed by “{value[:20]}”; a whole number was expected.")
            columns = min(int(value[:9]), 256) or None
        elif match := _ROW.fullmatch(line):
            channels = [int(v[:9]) for v in match.groups()[:3]]
            if max(channels) > 255:
                raise BadFile(f"Line {number}: {max(channels)} is more than 255.")
            made.add(Color.from_bytes(*channels), match.group(4) or "")
        else:
            raise BadFile(f"Line {number}: “{line.strip()[:40]}” is no row of three numbers and a name.")
    return Found(made.palette(title, columns, "A .gpl text palette has rows such as “232  84  33  Eye-spot”."))


def write(document: Document) -> bytes:
    """Rows in palette order; alpha is not written."""
    palette = document.palette
    lines = [FIRST_LINE, f"Name: {palette.name}", f"Columns: {palette.columns or 0}", "#"]
    for place, (group, run) in enumerate(sections(palette)):
        if group or place:
            lines.append(f"{_NO_GROUP} {group}".rstrip())
        for _, swatch in run:
            red, green, blue, _ = swatch.color.bytes
            lines.append(f"{red:3d} {green:3d} {blue:3d}\t{swatch.name}")
    return ("\n".join(lines) + "\n").encode()


FORMATS.register(
    Format(
        "gpl", (".gpl",), "text palette", "palette", "text/plain; charset=utf-8",
        Keeps(title=True, names=True, groups=True, columns=True),
        "Names and order as plain text; painting programs read it.", is_text=True, fixed_lines=1, sniff=sniff, read=read, write=write,
    )
)  # fmt: skip
