"""`.csv` table: one row a swatch, lossless with Huvren's own columns; tables of others are read by what their columns mean.

Headings may come in any order, case and several languages, or be missing, quoted, with `,`, `;`, tab or `|` between cells; a first
line `sep=;` says which. What a number means (0..1, percent, 0..255) is told by its whole column, never by one cell.
"""

import csv
import io
from collections.abc import Callable, Sequence

from huvren.core.color.spaces import SPACES
from huvren.core.color.value import Color
from huvren.core.errors import BadFile, BadInput, HuvrenError
from huvren.core.formats.format import FORMATS, Columns, Document, Format, Found, Keeps, decode_text, is_probably_text
from huvren.core.formats.reading_limits import LINES, ReadingLimits
from huvren.core.formats.swatch_list import SwatchList
from huvren.core.formats.table_cells import as_text, from_text
from huvren.core.formats.text_lists.table_columns import MEANINGS, Row, Table, color_reader, guess, headings, is_readable, name_places
from huvren.core.palette.values import LONGEST_NOTE, Palette

COLUMNS = ("index", "id", "name", "group", "locked", "hex", "space", "c1", "c2", "c3", "c4", "alpha")
SEPARATORS = ",;\t|"
HEAD_BYTES = 4000
MOST_NOTES = 6
MOST_BAD_FIRST = 2_000
MOST_HEADINGS = 1_000
MOST_SHOWN = 6
"""Rows that are shown beside the meanings of their columns."""
LONGEST_SHOWN = 60
HEADED, BARE = 0.85, 0.45
"""How sure a table with headings, and one without, is of being one."""


def _parsed(text: str, separator: str) -> list[tuple[int, list[str]]]:
    """Rows that hold something, each with the line that it begins on."""
    reader = csv.reader(io.StringIO(text), delimiter=separator)
    rows, line = [], 1
    try:
        for row in reader:
            if any(cell.strip() for cell in row):
                rows.append((line, row))
            line = reader.line_num + 1
    except csv.Error as error:
        raise BadFile(f"Line {line}: the table cannot be read: {error}.") from error
    return rows


def _said_separator(text: str) -> tuple[str | None, str]:
    """The separator that a first line `sep=;` says, and the text with that line empty, so that lines keep their numbers."""
    first, end, rest = text.partition("\n")
    word = first.strip().strip('"')
    if word[:4].lower() == "sep=" and len(word) == 5 and word[4] in SEPARATORS:
        return word[4], end + rest
    return ("\t", end + rest) if first.strip("\r").lower() == "sep=\t" else (None, text)


def _cut(text: str) -> tuple[str, bool] | None:
    """What parts the cells, and whether the first row holds headings; None where this is no table of colors.

    Where headings are known, that which makes most cells of them; else that by which some rows are colors by place and range.
    """
    said, text = _said_separator(text)
    lines = [line for line in text.split("\n") if line.strip()]
    if not lines:
        return None
    marks = [said] if said else sorted(SEPARATORS, key=lambda mark: -lines[0].count(mark))
    for separator in marks:
        cells = _first_row(lines[0], separator)
        if len(cells) > 1 and is_readable(headings(cells)):
            return separator, True
    for separator in marks:
        rows = [_first_row(line, separator) for line in lines[:20]]
        if len(rows) > 1 and len({len(row) for row in rows}) == 1 and any(guess(Table((), tuple(enumerate(rows)), separator))):
            return separator, False
    return None


def _first_row(text: str, separator: str) -> list[str]:
    try:
        return next(csv.reader(io.StringIO(text), delimiter=separator), [])
    except csv.Error:
        return []


def sniff(data: bytes) -> float:
    if not is_probably_text(data):
        return 0.0
    cut = _cut(_beginning(decode_text(data[:HEAD_BYTES]), len(data) > HEAD_BYTES))
    return 0.0 if cut is None else HEADED if cut[1] else BARE


def _beginning(text: str, is_cut: bool) -> str:
    """What a table is known by: its first lines, without the last one where that is cut."""
    text = text[:HEAD_BYTES].lstrip("\n")
    return text.rpartition("\n")[0] or text if is_cut else text


def _own(table: Table) -> Callable[[Sequence[str]], Color]:
    """Huvren's own columns, exactly."""
    channels = {space.id: tuple(f"c{number + 1}" for number in range(len(space.channels))) for space in SPACES}
    at = headings(table.head)
    is_whole = {"space", "alpha", "c1", "c2", "c3", "c4"} <= at.keys()

    def cell(row: Sequence[str], name: str) -> str:
        return row[at[name]].strip() if name in at and at[name] < len(row) else ""

    def read_with_care(row: Sequence[str]) -> Color:
        space = cell(row, "space")
        if space not in channels:
            raise BadInput(f"there is no color space “{space[:30]}”.")
        coords = tuple(table.number(cell(row, name)) for name in channels[space])
        return Color(space, coords, table.number(cell(row, "alpha") or "1"))

    def read_at_once(row: Sequence[str]) -> Color:
        try:
            space = row[at["space"]]
            coords = tuple([float(row[at[name]]) for name in channels[space]])
            return Color(space, coords, float(row[at["alpha"]]))
        except (KeyError, IndexError, ValueError):
            return read_with_care(row)

    return read_at_once if is_whole else read_with_care


def _cells(places: Sequence[int]) -> Callable[[Row], str]:
    """The first cell of these columns that is not empty."""

    def cell(row: Row) -> str:
        for place in places:
            if place < len(row) and (word := row[place].strip()):
                return word
        return ""

    return cell


def table_of(data: bytes) -> Table:
    """The table of a file. Raises `BadFile` where it is none."""
    text = decode_text(data)
    cut = _cut(_beginning(text, len(text) > HEAD_BYTES))
    rows = _parsed(_said_separator(text)[1], cut[0]) if cut else []
    if rows and len(rows[0][1]) > MOST_HEADINGS:
        raise BadFile(f"Line 1: the table has {len(rows[0][1]):,} columns; {MOST_HEADINGS:,} are the most that are read.")
    if not cut or not rows:
        raise BadFile("Line 1: headings such as “name,hex” or “name,r,g,b” were expected.")
    separator, has_head = cut
    return Table(tuple(rows[0][1]), tuple(rows[1:]), separator) if has_head else Table((), tuple(rows), separator)


def columns_of(table: Table, meanings: Sequence[str]) -> Columns:
    """The columns with their first rows, to be shown."""
    width = range(table.width)
    rows = [tuple((row[place] if place < len(row) else "")[:LONGEST_SHOWN] for place in width) for _, row in table.rows[:MOST_SHOWN]]
    return Columns(tuple(cell[:LONGEST_SHOWN] for cell in table.head), tuple(rows), tuple(meanings))


def read(data: bytes) -> Found:
    """Rows of colors; a row whose color cannot be read is left out with a note that has its line."""
    table = table_of(data)
    if {"space", "c1"} <= headings(table.head).keys():
        return _taken(table, _own(table), guess(table), None, from_text)
    meanings = guess(table)
    return _taken(table, color_reader(table, meanings), meanings, columns_of(table, meanings))


def read_by(data: bytes, meanings: Sequence[str]) -> Found:
    """The same with the meanings of the columns as they were chosen, an empty one for a column that is left out. What they make no
    color of is a note, so that another choice can be made. Raises `BadFile` where this is no table, `Unknown` for a meaning."""
    table = table_of(data)
    for meaning in filter(None, meanings):
        MEANINGS[meaning]
    chosen = [*meanings, *[""] * table.width][: table.width]
    columns = columns_of(table, chosen)
    try:
        return _taken(table, color_reader(table, chosen), chosen, columns)
    except BadFile as problem:
        return Found(Palette("Untitled"), (str(problem),), columns=columns)


def _taken(
    table: Table, color_of: Callable[[Row], Color], meanings: Sequence[str], columns: Columns | None, text: Callable[[str], str] = str
) -> Found:
    """text : what a cell of words says, where that is not what stands there."""

    def words(places: Sequence[int]) -> Callable[[Row], str]:
        cell = _cells(places)
        return lambda row: text(cell(row))

    name_of = words(name_places(table, meanings))
    group_of, note_of, id_of, locked_of = (
        words([place for place, other in enumerate(meanings) if other == meaning]) for meaning in ("group", "note", "id", "locked")
    )
    made, bad = SwatchList(), list[str]()
    ids: set[str] = set()
    for line, row in table.rows:
        try:
            color = color_of(row)
        except (HuvrenError, ValueError) as error:
            if not made and len(bad) >= MOST_BAD_FIRST:
                raise BadFile(f"{bad[0]} Nor do the {MOST_BAD_FIRST:,} lines after it hold a color.") from error
            # What to try instead need not be said line by line.
            bad.append(f"Line {line}: {str(error).partition(' Try ')[0].rstrip('.')}.")
            continue
        made.in_group(group_of(row) or None)
        swatch_id = id_of(row)
        if swatch_id in ids:
            bad.append(f"Line {line}: the id “{swatch_id[:40]}” stands in two rows; the second got its own.")
            swatch_id = ""
        ids |= {swatch_id} - {""}
        locked = locked_of(row).lower() in ("yes", "true", "1")
        made.add(color, name_of(row), swatch_id=swatch_id[:80] or None, locked=locked, note=note_of(row)[:LONGEST_NOTE])
    if bad and not made:
        raise BadFile(bad[0])
    notes = bad[:MOST_NOTES] + ([f"{len(bad) - MOST_NOTES:,} more lines like these."] if len(bad) > MOST_NOTES else [])
    palette = made.palette(example="No row follows the headings.")
    return Found(palette, (*notes, *made.doubled_names()), columns=columns)


def write(document: Document) -> bytes:
    """RFC 4180 with plain line ends; floating point in its shortest exact form; words that begin like formulas marked as text."""
    buffer = io.StringIO()
    table = csv.writer(buffer, lineterminator="\n")
    table.writerow(COLUMNS)
    palette = document.palette
    names = {group.id: group.name for group in palette.groups}
    for index, swatch in enumerate(palette.swatches):
        color = swatch.color
        coords = [repr(float(value)) for value in color.coords]
        table.writerow([
            index, as_text(swatch.id), as_text(swatch.name), as_text(names.get(swatch.group or "", "")),
            "yes" if swatch.locked else "no", color.hex,
            color.space, *coords, *[""] * (4 - len(coords)), repr(float(color.alpha)),
        ])  # fmt: skip
    return buffer.getvalue().encode()


FORMATS.register(
    Format(
        "csv", (".csv", ".tsv"), "table", "palette", "text/csv; charset=utf-8",
        Keeps(names=True, groups=True, joins_groups=True, alpha="all", ids=True,
            fields=frozenset({"swatch.locked"}), spaces=SPACES.ids(), depth_bits=None, marks_formulas=True,
        ),
        "One row a swatch: id, name, group, lock and color, for spreadsheets and scripts.", is_text=True, is_partial=True,
        limits=ReadingLimits(24_000_000, LINES, longest_line=1_000_000), sniff=sniff, read=read, write=write,
    )
)  # fmt: skip
