"""Reading a file by its contents: every way it can be taken as a palette, the likeliest first."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from huvren.core.errors import BadFile, HuvrenError
from huvren.core.formats.format import FORMATS, Format, Found, Keeps, NoColor, TooManyColors, is_picture


@dataclass(frozen=True)
class Reading:
    """One way to take a file; `is_reduction` where colors were chosen for a picture rather than read: then it has no format."""

    format: Format | None
    """That reads it so; None for a reduction of its pixels."""
    found: Found
    """What was read."""
    way: str = ""
    """How it was taken, where the file can be taken in several ways, such as “alpha first”."""

    @property
    def is_reduction(self) -> bool:
        return self.format is None

    @property
    def label(self) -> str:
        label = self.format.label if self.format else "reduction"
        return f"{label}, {self.way}" if self.way else label

    @property
    def keeps(self) -> Keeps:
        """What the source could hold: identities that it never had cannot be lost."""
        return self.format.keeps if self.format else Keeps()


def _named(found: Found, name: str) -> Found:
    title = name.rsplit("/", 1)[-1].rsplit(".", 1)[0].strip()[:200]
    if found.palette.name != "Untitled" or not title or not title.isprintable():
        return found
    return replace(found, palette=replace(found.palette, name=title))


def _by_ending(name: str) -> Format | None:
    ending = "." + name.rsplit(".", 1)[-1].lower() if "." in name else ""
    return next((entry for entry in FORMATS if entry.read and ending in entry.endings), None)


def _may_hold_more(first: Reading) -> bool:
    """Whether a scan of a file that was read may add something: not where its reader accounts for all of it."""
    return first.format is not None and first.format.is_partial and not first.keeps.ids


def _says_nothing_new(second: Reading, first: Reading) -> bool:
    """Whether a scan of the text found no color that the file was not read as already."""
    found, known = ({swatch.color for swatch in reading.found.without_doubtful().palette.swatches} for reading in (second, first))
    return found <= known


def read_palettes(data: bytes, name: str = "the file") -> list[Reading]:
    """Every reading, at least one; a picture may have several (its color table, its own colors, a grid of squares).

    Raises `BadFile` with the likeliest reader's own words when none succeeds.
    """
    if not data:
        raise BadFile(f"“{name}” is empty: it has no bytes.")
    if not is_picture(data):
        return _read(data, name)
    from huvren.core.pictures import decoded_once

    with decoded_once():
        return _read(data, name)


def _read(data: bytes, name: str) -> list[Reading]:
    readers = [(entry.sniff(data), entry) for entry in FORMATS if entry.read]
    likely = [entry for confidence, entry in sorted(readers, key=lambda row: -row[0]) if confidence > 0]
    known = None if is_picture(data) else _by_ending(name)
    if known is not None and (known.is_unmarked or not likely):
        likely = [known, *(entry for entry in likely if entry is not known)]
    readings: list[Reading] = []
    first_problem: HuvrenError | None = None
    for entry in likely:
        is_second_scan = bool(readings) and entry.is_scan and _may_hold_more(readings[0])
        if readings and not is_picture(data) and not is_second_scan:
            continue
        try:
            for way, found in entry.taken(data).items():
                reading = Reading(entry, _named(found, name), way)
                if not (is_second_scan and _says_nothing_new(reading, readings[0])):
                    readings.append(reading)
        except HuvrenError as problem:
            if is_second_scan:
                continue
            first_problem = first_problem or problem
            may_be_another = is_picture(data) or entry.is_unmarked or isinstance(problem, NoColor)
            if not may_be_another:
                break
    if readings:
        return readings
    if first_problem is not None:
        raise type(first_problem)(f"“{name}” cannot be read as {likely[0].label}. {first_problem}") from first_problem
    if is_picture(data):
        from huvren.core.pictures import is_small, read_picture

        if is_small(data, name):
            read_picture(data, name)  # says what is wrong with a damaged one
        raise TooManyColors(f"“{name}” has too many colors of its own to be a palette. Reduce it first.")
    endings = ", ".join(dict.fromkeys(entry.endings[0] for entry in FORMATS if entry.read))
    raise BadFile(f"“{name}” is not a palette that can be read. These work: {endings}.")


def by_columns(data: bytes, name: str, meanings: Sequence[str]) -> list[Reading]:
    """A table by the meanings of its columns as they were chosen, in place of the guess; what else it can be read as stays."""
    from huvren.core.formats.text_lists.csv_table import read_by

    table = FORMATS["csv"]
    table.limits.check(data, table.label)
    try:
        others = read_palettes(data, name)
    except BadFile:
        others = []
    chosen = Reading(table, _named(read_by(data, meanings), name))
    if not any(other.format is table for other in others):
        return [chosen, *others]
    return [chosen if other.format is table else other for other in others]


def read_palette(data: bytes, name: str = "the file") -> tuple[Format, Found]:
    """The likeliest reading alone. Raises `BadFile`."""
    best = read_palettes(data, name)[0]
    assert best.format is not None
    return best.format, best.found
