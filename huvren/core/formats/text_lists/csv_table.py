"""`.csv` table: one row a swatch, lossless with Huvren's own columns; tables of others are read by their headings.

Headings may come in any order and case, quoted, with `,`, `;` or tab between cells. What a number means (0..1, percent, 0..255) is
told by its whole column, never by one cell.
"""

import csv
import io
import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from huvren.core.color.notation import parse_color
from huvren.core.color.spaces import SPACES
from huvren.core.color.value import Color
from huvren.core.errors import BadFile, BadInput, HuvrenError
from huvren.core.formats.format import FORMATS, Document, Format, Found, Keeps, decode_text, is_probably_text
from huvren.core.formats.reading_limits import LINES, ReadingLimits
from huvren.core.formats.swatch_list import SwatchList

COLUMNS = ("index", "id", "name", "group", "locked", "hex", "space", "c1", "c2", "c3", "c4", "alpha")
SEPARATORS = ",;\t|"
CODES = ("hex", "code", "html", "web", "css", "value", "color", "colour")
NAMES = ("name", "label", "title", "swatch", "color", "colour", "description")
GROUPS = ("group", "folder", "set", "category")
ALPHAS = ("alpha", "opacity", "a")
HEAD_BYTES = 4000
MOST_NOTES = 6
MOST_BAD_FIRST = 2_000
MOST_HEADINGS = 1_000

Scale = Callable[[Sequence[float], bool], float]
"""The numbers of a column (or of several that belong together), and whether they are percent → what they are divided by."""


def _of_byte(values: Sequence[float], percent: bool) -> float:
    top = max(values, default=0.0)
    return 100.0 if percent else 1.0 if top <= 1 else 255.0


def _of_share(values: Sequence[float], percent: bool) -> float:
    top = max(values, default=0.0)
    return 100.0 if percent or 1 < top <= 100 else 1.0 if top <= 1 else 255.0


def _as_it_is(values: Sequence[float], percent: bool) -> float:
    return 1.0


@dataclass(frozen=True)
class Channels:
    """Columns that make a color together. names : for each, the headings that mean it; scales : columns of one scale share it."""

    space: str
    """Of the columns."""
    names: tuple[tuple[str, ...], ...]
    scales: tuple[Scale, ...]


KNOWN = (
    Channels("srgb", (("r", "red"), ("g", "green"), ("b", "blue")), (_of_byte,) * 3),
    Channels("cmyk", (("c", "cyan"), ("m", "magenta"), ("y", "yellow"), ("k", "black", "key")), (_of_share,) * 4),
    Channels("hsl", (("h", "hue"), ("s", "sat", "saturation"), ("l", "lightness", "light")), (_as_it_is, _of_share, _of_share)),
    Channels("hsv", (("h", "hue"), ("s", "sat", "saturation"), ("v", "b", "brightness")), (_as_it_is, _of_share, _of_share)),
    Channels("lab", (("l", "l*", "lightness"), ("a", "a*"), ("b", "b*")), (_as_it_is,) * 3),
    Channels("lch", (("l", "l*", "lightness"), ("c", "c*", "chroma"), ("h", "hue")), (_as_it_is,) * 3),
)
"""In the order in which they are looked for."""


@dataclass(frozen=True)
class Table:
    """A heading row by what each heading means, and the rows with the lines that they begin on."""

    at: Mapping[str, int]
    """Place of each column."""
    rows: tuple[tuple[int, list[str]], ...]
    """Number and cells of each line."""
    separator: str
    """Between cells."""

    def cell(self, row: Sequence[str], *names: str) -> str:
        return next((row[self.at[name]].strip() for name in names if name in self.at and self.at[name] < len(row)), "")

    def number(self, text: str) -> float:
        """A cell as a number: percent signs are left out, a comma is a decimal one where it does not part cells."""
        word = text.strip().rstrip("%°").strip()
        if self.separator != ",":
            word = word.replace(",", ".")
        try:
            value = float(word)
        except ValueError:
            raise BadInput(f"“{text[:20]}” is no number." if text else "a number is missing.") from None
        if value != value or abs(value) == float("inf"):
            raise BadInput(f"“{text[:20]}” is no ordinary number.")
        return value


def _meaning(heading: str) -> str:
    """A heading without its case, quotes and units: “R (0–255)”, “red_8bit” and “ Hex code ” are r, red and hex."""
    word = heading.strip().strip("\"'").strip().lower()
    return re.split(r"[\s_(\[/%°-]", word, maxsplit=1)[0] or word


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


def _headings(head: Sequence[str]) -> dict[str, int]:
    return {_meaning(cell): place for place, cell in reversed(list(enumerate(head)))}


def _channels(at: Mapping[str, int]) -> tuple[Channels, tuple[str, ...]] | None:
    """The first kind of color whose every column is there, and the headings that stand for its columns."""
    for kind in KNOWN:
        found = [next((name for name in names if name in at), None) for names in kind.names]
        if all(found) and len({at[name] for name in found if name}) == len(found):
            return kind, tuple(name for name in found if name)
    return None


def _is_readable(at: Mapping[str, int]) -> bool:
    return any(code in at for code in CODES) or _channels(at) is not None or {"space", "c1"} <= at.keys()


def _separator(text: str) -> str | None:
    """What parts the cells of the heading row so that colors can be found, the one that makes most cells first."""
    head = text[:HEAD_BYTES].split("\n", 1)[0]
    for separator in sorted(SEPARATORS, key=lambda mark: -head.count(mark)):
        try:
            cells = next(csv.reader(io.StringIO(head), delimiter=separator), [])
        except csv.Error:
            continue
        if len(cells) > 1 and _is_readable(_headings(cells)):
            return separator
    return None


def sniff(data: bytes) -> float:
    if not is_probably_text(data):
        return 0.0
    return 0.85 if _separator(decode_text(data[:HEAD_BYTES]).lstrip("\n")) else 0.0


def _code_column(table: Table) -> str | None:
    """The heading whose cells are colors most of the time: “Color” may as well hold names."""
    for code in CODES:
        cells = [table.cell(row, code) for _, row in table.rows[:200]] if code in table.at else []
        if cells and sum(_is_color(cell) for cell in cells) * 2 > len(cells):
            return code
    return None


def _is_color(text: str) -> bool:
    try:
        parse_color(text)
    except HuvrenError:
        return False
    return True


def _divisors(table: Table, kind: Channels, names: Sequence[str]) -> list[float]:
    """What each column is divided by: columns of one kind of scale are looked at together."""
    columns: list[list[float]] = []
    percent = []
    for name in names:
        cells = [table.cell(row, name) for _, row in table.rows]
        percent.append(any(cell.endswith("%") for cell in cells))
        numbers = []
        for cell in cells:
            try:
                numbers.append(table.number(cell))
            except BadInput:
                continue
        columns.append(numbers)
    made = []
    for scale in kind.scales:
        together = [place for place, other in enumerate(kind.scales) if other is scale]
        values = [value for place in together for value in columns[place]]
        made.append(scale(values, any(percent[place] for place in together)))
    return made


def _reader(table: Table) -> Callable[[Sequence[str]], Color]:
    """How a row becomes a color. Raises `BadFile` where no heading says."""
    if {"space", "c1"} <= table.at.keys():
        return _own(table)
    found, code = _channels(table.at), _code_column(table)
    alphas = [name for name in ALPHAS if name in table.at and not (found and name in found[1])]
    opaque = _opacity(table, alphas[0] if alphas else None)
    if found and code is None:
        kind, names = found
        divide = _divisors(table, kind, names)

        def of_numbers(row: Sequence[str]) -> Color:
            numbers = [table.number(table.cell(row, name)) / by for name, by in zip(names, divide, strict=True)]
            if kind.space == "srgb" and not 0 <= min(numbers) <= max(numbers) <= 1:
                raise BadInput(f"a channel is not from 0 to {divide[0]:g}.")
            return Color(kind.space, tuple(numbers), opaque(row))

        return of_numbers
    if code is None:
        code = next((name for name in CODES if name in table.at), None)
    if code is None:
        raise BadFile("Line 1: headings such as “name,hex” or “name,r,g,b” were expected.")

    def of_code(row: Sequence[str], code: str = code) -> Color:
        color = parse_color(table.cell(row, code))
        return color.with_alpha(opaque(row)) if alphas and table.cell(row, alphas[0]) else color

    return of_code


def _opacity(table: Table, name: str | None) -> Callable[[Sequence[str]], float]:
    if name is None:
        return lambda row: 1.0
    kind = Channels("", ((name,),), (_of_share,))
    (divide,) = _divisors(table, kind, (name,))

    def opaque(row: Sequence[str]) -> float:
        cell = table.cell(row, name)
        value = table.number(cell) / divide if cell else 1.0
        if not 0 <= value <= 1:
            raise BadInput(f"an alpha is not from 0 to {divide:g}.")
        return value

    return opaque


def _own(table: Table) -> Callable[[Sequence[str]], Color]:
    """Huvren's own columns, exactly."""
    channels = {space.id: tuple(f"c{number + 1}" for number in range(len(space.channels))) for space in SPACES}
    at = table.at
    is_whole = {"space", "alpha", "c1", "c2", "c3", "c4"} <= at.keys()

    def read_with_care(row: Sequence[str]) -> Color:
        space = table.cell(row, "space")
        if space not in channels:
            raise BadInput(f"there is no color space “{space[:30]}”.")
        coords = tuple(table.number(table.cell(row, name)) for name in channels[space])
        return Color(space, coords, table.number(table.cell(row, "alpha") or "1"))

    def read_at_once(row: Sequence[str]) -> Color:
        try:
            space = row[at["space"]]
            coords = tuple([float(row[at[name]]) for name in channels[space]])
            return Color(space, coords, float(row[at["alpha"]]))
        except (KeyError, IndexError, ValueError):
            return read_with_care(row)

    return read_at_once if is_whole else read_with_care


def _cells(table: Table, *names: str) -> Callable[[Sequence[str]], str]:
    """The first cell under any of these headings that is not empty."""
    places = [table.at[name] for name in names if name in table.at]

    def cell(row: Sequence[str]) -> str:
        for place in places:
            if place < len(row) and (word := row[place].strip()):
                return word
        return ""

    return cell


def read(data: bytes) -> Found:
    """A heading row, then rows; a row whose color cannot be read is left out with a note that has its line."""
    text = decode_text(data)
    separator = _separator(text.lstrip("\n"))
    rows = _parsed(text, separator) if separator else []
    if rows and len(rows[0][1]) > MOST_HEADINGS:
        raise BadFile(f"Line 1: the table has {len(rows[0][1]):,} columns; {MOST_HEADINGS:,} are the most that are read.")
    if not separator or not rows:
        raise BadFile("Line 1: headings such as “name,hex” or “name,r,g,b” were expected.")
    table = Table(_headings(rows[0][1]), tuple(rows[1:]), separator)
    color_of, code = _reader(table), _code_column(table)
    # Not the column that the color is read from.
    name_of, group_of = _cells(table, *(name for name in NAMES if name != code)), _cells(table, *GROUPS)
    id_of, locked_of = _cells(table, "id"), _cells(table, "locked")
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
        made.add(color, name_of(row), swatch_id=swatch_id[:80] or None, locked=locked_of(row).lower() in ("yes", "true", "1"))
    if bad and not made:
        raise BadFile(bad[0])
    notes = bad[:MOST_NOTES] + ([f"{len(bad) - MOST_NOTES:,} more lines like these."] if len(bad) > MOST_NOTES else [])
    palette = made.palette(example="No row follows the headings.")
    return Found(palette, (*notes, *made.doubled_names()))


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
        "csv", (".csv", ".tsv"), "table", "palette", "text/csv; charset=utf-8",
        Keeps(names=True, groups=True, joins_groups=True, alpha="all", ids=True,
            fields=frozenset({"swatch.locked"}), spaces=SPACES.ids(), depth_bits=None,
        ),
        "One row a swatch: id, name, group, lock and color, for spreadsheets and scripts.", is_text=True, is_partial=True,
        limits=ReadingLimits(24_000_000, LINES), sniff=sniff, read=read, write=write,
    )
)  # fmt: skip
