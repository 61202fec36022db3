"""`.csv` table: one row a swatch, lossless with Huvren's own columns; tables of others are read by their headings."""

import csv
import io

from huvren.core.color.notation import parse_color
from huvren.core.color.spaces import SPACES
from huvren.core.color.value import Color
from huvren.core.errors import BadFile, BadInput
from huvren.core.formats import FORMATS, Document, Format, Found, Keeps, SwatchList, decode_text, is_probably_text
from huvren.core.palette.values import Swatch, new_id

COLUMNS = ("index", "id", "name", "group", "locked", "hex", "space", "c1", "c2", "c3", "c4", "alpha")
_CODES = ("hex", "color", "colour", "code", "value")
_NAMES = ("name", "label", "title")
_CHANNELS = (("r", "g", "b"), ("red", "green", "blue"))


def _rows(data: bytes) -> list[list[str]]:
    text = decode_text(data)
    head = text.split("\n", 1)[0]
    separator = max(",;\t", key=head.count)
    try:
        return [row for row in csv.reader(io.StringIO(text), delimiter=separator) if any(cell.strip() for cell in row)]
    except csv.Error as error:
        raise BadFile(f"The table cannot be read: {error}.") from error


def _headings(head: list[str]) -> dict[str, int]:
    return {cell.strip().lower(): place for place, cell in reversed(list(enumerate(head)))}


def _is_readable(headings: dict[str, int]) -> bool:
    return any(code in headings for code in _CODES) or any(all(c in headings for c in trio) for trio in _CHANNELS)


def sniff(data: bytes) -> float:
    head = decode_text(data[:400]).split("\n", 1)[0]
    separator = max(",;\t", key=head.count)
    if head.count(separator) == 0 or not is_probably_text(data):
        return 0.0
    return 0.85 if _is_readable(_headings(head.split(separator))) else 0.0


def read(data: bytes) -> Found:
    """A heading row, then rows. Own files come back with ids, locks and spaces; others by hex or red, green, blue."""
    rows = _rows(data)
    if not rows or not _is_readable(at := _headings(rows[0])):
        raise BadFile("Line 1: headings such as “name,hex” or “name,r,g,b” were expected.")
    trio = next((t for t in _CHANNELS if all(c in at for c in t)), None)
    made = SwatchList()
    extra: list[tuple[str, bool]] = []
    ids: set[str] = set()
    for number, row in enumerate(rows[1:], start=2):

        def cell(*names: str, row: list[str] = row) -> str:
            return next((row[at[name]].strip() for name in names if name in at and at[name] < len(row)), "")

        try:
            if cell("space"):
                count = len(SPACES[cell("space")].channels)
                color = Color(cell("space"), tuple(float(cell(f"c{c + 1}")) for c in range(count)), float(cell("alpha") or 1))
            elif any(code in at for code in _CODES):
                color = parse_color(cell(*_CODES))
            else:
                red, green, blue = (int(cell(c)) for c in trio or ())
                if not 0 <= min(red, green, blue) <= max(red, green, blue) <= 255:
                    raise BadInput("a channel is not from 0 to 255.")
                color = Color.from_bytes(red, green, blue)
        except (ValueError, LookupError) as error:
            raise BadFile(f"Line {number}: {error}") from error
        made.open_group(cell("group") or None)
        made.add(color, cell(*_NAMES))
        swatch_id = cell("id")
        if swatch_id in ids:
            raise BadFile(f"Line {number}: the id “{swatch_id[:40]}” stands in two rows.")
        ids |= {swatch_id} - {""}
        extra.append((swatch_id[:80] or new_id(), cell("locked").lower() in ("yes", "true", "1")))
    made.swatches = [
        Swatch(swatch.color, swatch.name, swatch_id, locked, swatch.group)
        for swatch, (swatch_id, locked) in zip(made.swatches, extra, strict=True)
    ]
    return Found(made.palette(example="No row follows the headings."))


def write(document: Document) -> bytes:
    """RFC 4180 with plain line ends; floating point in its shortest exact form."""
    buffer = io.StringIO()
    table = csv.writer(buffer, lineterminator="\n")
    table.writerow(COLUMNS)
    palette = document.palette
    names = {group.id: group.name for group in palette.groups}
    for index, swatch in enumerate(palette.swatches):
        color = swatch.color
        coords = [repr(float(value)) for value in color.coords]
        table.writerow([
            index, swatch.id, swatch.name, names.get(swatch.group or "", ""), "yes" if swatch.locked else "no", color.hex,
            color.space, *coords, *[""] * (4 - len(coords)), repr(float(color.alpha)),
        ])  # fmt: skip
    return buffer.getvalue().encode()


FORMATS.register(
    Format(
        "csv", (".csv",), "table", "palette", "text/csv; charset=utf-8",
        Keeps(names=True, groups=True, alpha="all", ids=True, locks=True, spaces=SPACES.ids(), depth_bits=None),
        "One row a swatch with everything about it, for spreadsheets and scripts.", is_text=True, sniff=sniff, read=read, write=write,
    )
)  # fmt: skip
