"""What a file format is, what it holds and what is found in it, and the registry of formats."""

import gc
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field, replace
from typing import Literal

from huvren.core.color.arrays import Bytes
from huvren.core.errors import BadFile, BadInput
from huvren.core.formats.holding import held_palette
from huvren.core.formats.keeping import Keeps as Keeps
from huvren.core.formats.keeping import RampKeeps as RampKeeps
from huvren.core.formats.reading_limits import ReadingLimits
from huvren.core.formats.swatch_list import SwatchList as SwatchList
from huvren.core.palette.values import Palette, Swatch
from huvren.core.picture_kinds import is_picture as is_picture
from huvren.core.ramp.plan import RampPlan
from huvren.core.ramp.values import Ramp
from huvren.core.registry import Registry

Family = Literal["palette", "picture", "code", "chart"]
Content = Literal["palette", "ramps", "picture", "frames", "theme"]
"""What a file may hold: swatches, ramps, the pixels of a picture or of several frames, a theme of roles."""


@dataclass(frozen=True)
class Option:
    """A choice that a writer offers; the first is taken where none is made."""

    id: str
    """By which it is named in documents, addresses and commands."""
    label: str
    """As menus call it."""
    choices: tuple[tuple[str, str], ...]
    """Ids and labels, the usual one first."""


@dataclass(frozen=True)
class Document:
    """What is written: a palette with whatever goes with it; options by id.

    frames : (h, w) index maps into its swatches, one for a picture; ramps : by name, with plain colors.
    """

    palette: Palette
    """What is written."""
    frames: tuple[Bytes, ...] = ()
    options: Mapping[str, str] = field(default_factory=dict)
    """Choices by the id of their option."""
    ramps: tuple[tuple[str, RampPlan], ...] = ()

    @property
    def ramp(self) -> tuple[str, RampPlan, Ramp]:
        """The name, the plan and the ramp of a document that is about one. Raises `BadInput` where there is none."""
        if not self.ramps:
            raise BadInput("This kind of file holds a ramp. Choose one first.")
        name, plan = self.ramps[0]
        return name, plan, plan.ramp(self.palette.color_of)


@dataclass(frozen=True)
class Columns:
    """The columns of a table as they were read, to be shown and corrected."""

    head: tuple[str, ...]
    """Headings, empty ones where the table has none."""
    rows: tuple[tuple[str, ...], ...]
    """The first rows."""
    meanings: tuple[str, ...]
    """Of each column, the id of a meaning; empty for one that is left out."""


@dataclass(frozen=True)
class Found:
    """What was read, with notes for a person; ramps that were found are kept with the palette. frames : (h, w, 4) uint8."""

    palette: Palette
    """What was read."""
    notes: tuple[str, ...] = ()
    """Sentences for the artist."""
    frames: tuple[Bytes, ...] = ()
    areas: tuple[tuple[int, ...], ...] = ()
    """Left, top, width and height in pixels of what each swatch was read from, where that is a picture."""
    marks: tuple[tuple[int, int], ...] = ()
    """Begin and end, in letters, of what each swatch was read from, where that is a text."""
    sure: tuple[float, ...] = ()
    """How sure each find is, 0..1, where that is in doubt at all; with `doubts`, the reason in words."""
    doubts: tuple[str, ...] = ()
    """Ids of swatches that may be none."""
    columns: Columns | None = None
    """Of a table whose columns may be read otherwise; None of anything else."""

    def without_doubtful(self) -> "Found":
        """The finds that come in ticked, with a note about the others; all of them where none is sure."""
        if not self.doubts or not any(self.doubts) or all(self.doubts):
            return self
        kept = [place for place, doubt in enumerate(self.doubts) if not doubt]
        palette = self.palette.with_swatches(self.palette.swatches[place] for place in kept)
        count = len(self.doubts) - len(kept)
        note = f"{count:,} doubtful {'find was' if count == 1 else 'finds were'} left out."
        return replace(
            self, palette=palette, notes=(*self.notes, note), marks=tuple(self.marks[place] for place in kept),
            sure=tuple(self.sure[place] for place in kept), doubts=("",) * len(kept),
        )  # fmt: skip


@dataclass(frozen=True)
class Format:
    """A codec. contents : what a file of it can hold; is_text : whether a person can read it in an editor; is_scan : whether
    it only looks for colors in what may be anything."""

    id: str
    """By which it is named in documents, addresses and commands."""
    endings: tuple[str, ...]
    """Of file names, with the dot."""
    kind: str
    """What such files are called."""
    family: Family
    """The menu that it stands in."""
    media_type: str
    """For downloads."""
    keeps: Keeps
    """What it keeps of a palette."""
    use: str
    """What it is for, in one sentence."""
    contents: frozenset[Content] = frozenset({"palette"})
    ramp: RampKeeps | None = None
    """What it keeps of a ramp; None where it holds none."""
    is_text: bool = False
    is_scan: bool = False
    is_unmarked: bool = False
    """Whether nothing in its bytes need tell it apart: a file of its ending is tried as one first."""
    is_partial: bool = False
    """Whether a file may hold colors that its reader passes over, so that scanning it as text may add some."""
    fixed_lines: int = 0
    """Lines every such file begins with; a preview of the text leaves them out."""
    options: tuple[Option, ...] = ()
    """Choices that its writer offers."""
    sniff: Callable[[bytes], float] = field(default=lambda data: 0.0)
    """Confidence 0..1 that these bytes are of this format."""
    read: Callable[[bytes], Found] | None = None
    """Contents → what is found; None where it is only written."""
    read_ways: Callable[[bytes], Mapping[str, Found]] | None = None
    """For files that can be taken in several ways: each with its name, the likeliest first."""
    limits: ReadingLimits = field(default_factory=ReadingLimits)
    """What is refused before work begins."""
    hold: Callable[[Document], Palette] | None = None
    """What of a palette a file holds, where that is not all that it declares to keep."""
    write: Callable[[Document], bytes] | None = None
    """From what is held, of which nothing is lost any more; `written` sees to both."""

    write_variants: Callable[[Sequence[tuple[str, Document]]], bytes] | None = None
    """Several variants of one palette, by name, in one file; from what is held of each. None where a file holds one."""

    @property
    def joins_variants(self) -> bool:
        """Whether one file may hold all variants: by a way of its own, or since it holds everything anyway."""
        return self.write_variants is not None or self.keeps.everything

    @property
    def label(self) -> str:
        return f"{self.endings[0]} {self.kind}"

    @property
    def needs_picture(self) -> bool:
        """Whether there is nothing to write without pixels."""
        return "picture" in self.contents

    @property
    def is_of_palettes(self) -> bool:
        """Whether a palette alone can be written."""
        return self.write is not None and "palette" in self.contents and not self.needs_picture

    def palette_as_held(self, document: Document) -> Palette:
        """The palette as a file of this format holds it: what is lost is lost here. A document about a ramp stays as it is."""
        if document.ramps:
            return document.palette
        with collector_at_rest():
            return self.hold(document) if self.hold else held_palette(document.palette, self.keeps)

    def written(self, document: Document, held: Palette | None = None) -> bytes:
        """The file; held : what it holds, where that is known already. Raises `BadInput` for a format that is only read."""
        if self.write is None:
            raise BadInput(f"{self.label} can be read but not written.")
        with collector_at_rest():
            return self.write(replace(document, palette=held or self.palette_as_held(document)))

    def taken(self, data: bytes) -> Mapping[str, Found]:
        """A file read, in every way that it can be taken, the likeliest first. Raises `BadFile`, and `TooLarge` by its limits."""
        if self.read is None:
            raise BadInput(f"{self.label} can be written but not read.")
        self.limits.check(data, self.label)
        with collector_at_rest():
            return self.read_ways(data) if self.read_ways else {"": self.read(data)}

    def option(self, document: Document, option_id: str) -> str:
        """The choice made for an option. Raises `BadFile` for one that is not offered."""
        option = next(entry for entry in self.options if entry.id == option_id)
        known = [choice for choice, _ in option.choices]
        chosen = document.options.get(option_id, known[0])
        if chosen not in known:
            raise BadFile(f"“{chosen}” is no choice for {option.label}. Choose one of: {', '.join(known)}.")
        return chosen


SURE_ENOUGH = 0.5
"""Finds that are less sure than this come in unticked."""

FORMATS: Registry[Format] = Registry("format")


def writers_of(content: Content) -> list[Format]:
    """Formats that can be written and hold this, in menu order; the first is the usual one."""
    return [entry for entry in FORMATS if entry.write and content in entry.contents]


class TooManyColors(BadFile):
    """A picture whose colors are too many to be a palette by themselves; it can be reduced."""

    code = "too_many_colors"


class NoColor(BadFile):
    """A file that is sound, as far as it goes, and holds nothing of what a reader looks for: another may find something."""


def sections(palette: Palette) -> Iterable[tuple[str, list[tuple[int, Swatch]]]]:
    """Runs of one group in order: the group's name (empty for none), and its swatches with their indices."""
    names = {group.id: group.name for group in palette.groups}
    run: list[tuple[int, Swatch]] = []
    for index, swatch in enumerate(palette.swatches):
        if run and swatch.group != run[-1][1].group:
            yield names.get(run[-1][1].group or "", ""), run
            run = []
        run.append((index, swatch))
    if run:
        yield names.get(run[-1][1].group or "", ""), run


@contextmanager
def collector_at_rest() -> Iterator[None]:
    """Reading makes tens of thousands of objects that all stay; the collector of cycles would look at all of them time and again."""
    was_awake = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if was_awake:
            gc.enable()


DIGITS = frozenset("0123456789")
UTF16_MARKS = (b"\xff\xfe", b"\xfe\xff")


def whole_number(text: str) -> int | None:
    """Digits 0 to 9 alone as a number, of which nine count; other digits of Unicode are none."""
    word = text.strip()
    return int(word[:9]) if word and DIGITS.issuperset(word) else None


def decode_text(data: bytes) -> str:
    """UTF-16 with a mark, UTF-8 with or without one, else Latin-1, with line ends made plain."""
    if data[:2] in UTF16_MARKS:
        text = data[: len(data) // 2 * 2].decode("utf-16", errors="replace")
    else:
        try:
            text = data.decode("utf-8-sig")
        except UnicodeDecodeError:
            text = data.decode("latin-1")
    return text.replace("\r\n", "\n").replace("\r", "\n")


def is_probably_text(data: bytes) -> bool:
    """Whether the beginning holds no bytes that text never has."""
    if data[:2] in UTF16_MARKS:
        return True
    return not any(byte < 9 or 13 < byte < 27 for byte in data[:4096])
