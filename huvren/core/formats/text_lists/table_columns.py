"""What the columns of a table mean: guessed by their headings in several languages, by their place and by the range of their
numbers, and chosen otherwise by the artist. A color is read from the columns that make one.
"""

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from huvren.core.color.notation import parse_color
from huvren.core.color.value import Color
from huvren.core.errors import BadFile, BadInput, HuvrenError
from huvren.core.formats.text_lists.heading_words import ENGLISH
from huvren.core.registry import Registry

CODES = ("hex", "code", "html", "web", "css", "value", "color", "colour")
NAMES = ("name", "label", "title", "swatch", "color", "colour", "description")
GROUPS = ("group", "folder", "set", "category")
ALPHAS = ("alpha", "opacity", "a")
LONGEST_24 = 8
"""Digits of a color of 24 bits as a number."""
MOST_LOOKED_AT = 200
"""Rows that a guess looks at."""
WHITE_24, RED_24 = 0xFFFFFF, 0x10000
"""The most that a color of 24 bits is as a number, and the least that has any red in it."""

Row = Sequence[str]
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
    label: str
    """As menus call the space."""
    names: tuple[tuple[str, ...], ...]
    scales: tuple[Scale, ...]
    limits: tuple[float, ...] = ()
    """For each column, the most that its numbers may be for it to be this kind; none where any will do."""

    @property
    def meanings(self) -> tuple[str, ...]:
        """Ids of the meanings of its columns."""
        return tuple(f"{self.space}.{place + 1}" for place in range(len(self.names)))


_LIGHT, _HUE, _SATURATION = ("l", "l*", "lightness"), ("h", "hue"), ("s", "sat", "saturation")
KNOWN = (
    Channels("srgb", "RGB", (("r", "red"), ("g", "green"), ("b", "blue")), (_of_byte,) * 3),
    Channels("cmyk", "CMYK", (("c", "cyan"), ("m", "magenta"), ("y", "yellow"), ("k", "black", "key")), (_of_share,) * 4),
    Channels("hsl", "HSL", (_HUE, _SATURATION, ("l", "lightness", "light")), (_as_it_is, _of_share, _of_share)),
    Channels("hsv", "HSV", (_HUE, _SATURATION, ("v", "b", "brightness")), (_as_it_is, _of_share, _of_share)),
    # Lightness to 1 with small opponents is the newer pair of spaces; CIELAB goes to 100.
    Channels("oklab", "OKLab", (_LIGHT, ("a", "a*"), ("b", "b*")), (_as_it_is,) * 3, (1.0, 0.5, 0.5)),
    Channels("lab", "CIELAB", (_LIGHT, ("a", "a*"), ("b", "b*")), (_as_it_is,) * 3),
    Channels("oklch", "OKLCh", (_LIGHT, ("c", "c*", "chroma"), _HUE), (_as_it_is,) * 3, (1.0, 0.5, float("inf"))),
    Channels("lch", "LCh", (_LIGHT, ("c", "c*", "chroma"), _HUE), (_as_it_is,) * 3),
)
"""In the order in which they are looked for."""


@dataclass(frozen=True)
class Meaning:
    """What a column may mean."""

    id: str
    """By which it is named in the interface; that of a channel is `space.place`."""
    label: str
    """As menus call it."""


MEANINGS: Registry[Meaning] = Registry("meaning of a column")
for _id, _label in (
    ("name", "name"), ("group", "group"), ("note", "note"), ("code", "color as text, such as #e85421"),
    ("number", "color as one whole number"), ("alpha", "opacity"), ("id", "id"), ("locked", "locked"),
):  # fmt: skip
    MEANINGS.register(Meaning(_id, _label))
for _kind in KNOWN:
    for _meaning_id, _names in zip(_kind.meanings, _kind.names, strict=True):
        MEANINGS.register(Meaning(_meaning_id, f"{_kind.label} {_names[-1] if len(_names[-1]) > 2 else _names[0].upper()}"))


@dataclass(frozen=True)
class Table:
    """Rows with the lines that they begin on, and what parts their cells."""

    head: tuple[str, ...]
    """Headings; none where the first row is one of colors already."""
    rows: tuple[tuple[int, list[str]], ...]
    """Number and cells of each line."""
    separator: str
    """Between cells."""

    @property
    def width(self) -> int:
        """Columns of the heading row, or of the first; what stands beyond them in a row has no meaning."""
        return len(self.head) or (len(self.rows[0][1]) if self.rows else 0)

    def column(self, place: int, most: int | None = None) -> list[str]:
        return [row[place].strip() if place < len(row) else "" for _, row in self.rows[:most]]

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

    def numbers(self, place: int, most: int | None = None) -> list[float]:
        """The numbers of a column; what is none is left out."""
        made = []
        for cell in self.column(place, most):
            try:
                made.append(self.number(cell))
            except BadInput:
                continue
        return made


def meaning_of(heading: str) -> str:
    """A heading without its case, quotes and units, in English: “R (0–255)”, “red_8bit” and “ Rot ” are r, red and red."""
    word = heading.strip().strip("\"'").strip().lower()
    word = ENGLISH.get(word, word)
    word = re.split(r"[\s_(\[/%°-]", word, maxsplit=1)[0] or word
    return ENGLISH.get(word, word)


def headings(head: Row) -> dict[str, int]:
    """What each heading means → its place, the first of several."""
    return {meaning_of(cell): place for place, cell in reversed(list(enumerate(head)))}


def _found(at: Mapping[str, int], kind: Channels) -> tuple[int, ...] | None:
    """The places of the columns of a kind, where every one is there."""
    names = [next((name for name in names if name in at), None) for names in kind.names]
    places = tuple(at[name] for name in names if name is not None)
    return places if len(set(places)) == len(kind.names) else None


def is_readable(at: Mapping[str, int]) -> bool:
    """Whether a table with these headings holds colors."""
    return any(code in at for code in CODES) or any(_found(at, kind) for kind in KNOWN) or {"space", "c1"} <= at.keys()


def _is_color(text: str) -> bool:
    try:
        parse_color(text)
    except HuvrenError:
        return False
    return True


def _are_whole_numbers(cells: Sequence[str]) -> bool:
    """Whether cells are colors as one number each, red · 65536 + green · 256 + blue: whole numbers alone, not six digits each, and
    some of them with red in it. Small numbers alone are amounts."""
    filled = [cell for cell in cells if cell]
    if not filled or not all(re.fullmatch(r"[-+]?[0-9]+", cell) for cell in filled) or all(len(cell) == 6 for cell in filled):
        return False
    return any(len(cell) <= LONGEST_24 and int(cell) >= RED_24 for cell in filled)


def _code_of(cells: Sequence[str]) -> str:
    """`code`, `number` or nothing: what most cells of a column are."""
    filled = [cell for cell in cells if cell]
    if _are_whole_numbers(filled):
        return "number"
    return "code" if filled and sum(map(_is_color, filled)) * 2 > len(filled) else ""


def _fits(table: Table, kind: Channels, places: Sequence[int]) -> bool:
    """Whether the numbers of these columns may be those of this kind."""
    tops = (max(map(abs, table.numbers(place, MOST_LOOKED_AT)), default=0.0) for place in places)
    return not kind.limits or all(top <= most for top, most in zip(tops, kind.limits, strict=True))


def _by_headings(table: Table) -> list[str]:
    at, made = headings(table.head), [""] * table.width
    looked_at = ((at[word], _code_of(table.column(at[word], MOST_LOOKED_AT))) for word in CODES if word in at)
    code = next(((place, kind) for place, kind in looked_at if kind), None)
    whole = [(kind, places) for kind in KNOWN if (places := _found(at, kind))]
    found = next(((kind, places) for kind, places in whole if _fits(table, kind, places)), None)
    # Where a code is the color, the channels beside it say the same once more, and are nothing else: no “a” of Lab is an alpha.
    channels = {place for _, places in whole for place in places}
    if code is not None:
        made[code[0]] = code[1]
    elif found is not None:
        for place, meaning in zip(found[1], found[0].meanings, strict=True):
            made[place] = meaning
    elif (first := next((at[word] for word in CODES if word in at), None)) is not None:
        made[first] = "code"
    named = [at[word] for word in NAMES if word in at and not made[at[word]]]
    for place in named:
        made[place] = "name" if place == named[0] or meaning_of(table.head[place]) != "description" else "note"
    for meaning, words in (("group", GROUPS), ("alpha", ALPHAS), ("id", ("id",)), ("locked", ("locked",)), ("note", ("note",))):
        free = [at[word] for word in words if word in at and not made[at[word]] and at[word] not in channels]
        if free and meaning not in made:
            made[free[0]] = meaning
    return made


def name_places(table: Table, meanings: Sequence[str]) -> list[int]:
    """The columns that hold names, the first choice first: where a heading says “name” it counts before “title” and “swatch”."""

    def rank(place: int) -> int:
        word = meaning_of(table.head[place]) if place < len(table.head) else ""
        return NAMES.index(word) if word in NAMES else -1

    return sorted((place for place, meaning in enumerate(meanings) if meaning == "name"), key=rank)


def _is_byte(cell: str) -> bool:
    return re.fullmatch(r"[0-9]{1,3}", cell) is not None and int(cell) < 256


def _counts_up(cells: Sequence[str]) -> bool:
    """Whether a column numbers its rows."""
    numbers = [int(cell) for cell in cells]
    return all(after - before == 1 for before, after in zip(numbers, numbers[1:], strict=False))


def _by_range(table: Table) -> list[str]:
    """For a table without headings that can be read in one way: a column of words beside one of codes, or beside three of whole
    numbers to 255, which may stand behind the number of the row. Anything else is left to those that read any text."""
    cells = [table.column(place, MOST_LOOKED_AT) for place in range(table.width)]
    made = [""] * table.width
    codes = [place for place, column in enumerate(cells) if all(cell.startswith("#") and _is_color(cell) for cell in column)]
    numbers = [place for place, column in enumerate(cells) if all(map(_is_byte, column))]
    if len(numbers) == 4 and _counts_up(cells[numbers[0]]):
        numbers = numbers[1:]
    words = [
        place
        for place, column in enumerate(cells)
        if place not in codes
        and not all(re.fullmatch(r"[0-9.,]+", cell) for cell in column)
        and any(map(str.isalpha, "".join(column)))
    ]
    if not words or (len(codes), len(numbers)) not in ((1, 0), (0, 3)):
        return made
    if codes:
        made[codes[0]] = "code"
    else:
        for place, meaning in zip(numbers, KNOWN[0].meanings, strict=True):
            made[place] = meaning
    made[words[0]] = "name"
    return made


def guess(table: Table) -> tuple[str, ...]:
    """What each column means, as far as it can be told."""
    return tuple(_by_headings(table) if table.head else _by_range(table))


def color_reader(table: Table, meanings: Sequence[str]) -> Callable[[Row], Color]:
    """How a row becomes a color. Raises `BadFile` where the meanings make none, or more than one."""
    places = {meaning: place for place, meaning in reversed(list(enumerate(meanings))) if meaning}
    alpha = _opacity(table, places.get("alpha"))
    if "number" in places:
        return lambda row: _of_whole_number(_cell(row, places["number"])).with_alpha(alpha(row))
    if "code" in places:
        return lambda row: _of_code(_cell(row, places["code"]), row, alpha if "alpha" in places else None)
    begun = [kind for kind in KNOWN if any(meaning in places for meaning in kind.meanings)]
    if not begun:
        raise BadFile("No column is chosen for the color. Choose one for its code, or one for each channel.")
    if len(begun) > 1:
        raise BadFile(f"Columns of {begun[0].label} and of {begun[1].label} are chosen. A color is read from one of them.")
    (kind,) = begun
    if missing := [meaning for meaning in kind.meanings if meaning not in places]:
        raise BadFile(f"No column is chosen for {MEANINGS[missing[0]].label}.")
    columns = [places[meaning] for meaning in kind.meanings]
    divide = _divisors(table, kind.scales, columns)

    def of_numbers(row: Row) -> Color:
        numbers = [table.number(_cell(row, place)) / by for place, by in zip(columns, divide, strict=True)]
        if kind.space == "srgb" and not 0 <= min(numbers) <= max(numbers) <= 1:
            raise BadInput(f"a channel is not from 0 to {divide[0]:g}.")
        return Color(kind.space, tuple(numbers), alpha(row))

    return of_numbers


def _cell(row: Row, place: int) -> str:
    return row[place].strip() if place < len(row) else ""


def _of_whole_number(text: str) -> Color:
    if not (text.isascii() and text.isdigit() and len(text) <= LONGEST_24 and int(text) <= WHITE_24):
        raise BadInput(f"“{text[:20]}” is no whole number from 0 to {WHITE_24}.")
    return Color.from_bytes(int(text) >> 16, (int(text) >> 8) & 255, int(text) & 255)


def _of_code(text: str, row: Row, alpha: Callable[[Row], float] | None) -> Color:
    color = parse_color(text)
    return color if alpha is None else color.with_alpha(alpha(row))


def _divisors(table: Table, scales: Sequence[Scale], places: Sequence[int]) -> list[float]:
    """What each column is divided by: columns of one kind of scale are looked at together."""
    columns = [table.numbers(place) for place in places]
    percent = [any(cell.endswith("%") for cell in table.column(place)) for place in places]
    made = []
    for scale in scales:
        together = [place for place, other in enumerate(scales) if other is scale]
        made.append(scale([value for place in together for value in columns[place]], any(percent[place] for place in together)))
    return made


def _opacity(table: Table, place: int | None) -> Callable[[Row], float]:
    if place is None:
        return lambda row: 1.0
    (divide,) = _divisors(table, (_of_share,), (place,))

    def opaque(row: Row) -> float:
        cell = _cell(row, place)
        value = table.number(cell) / divide if cell else 1.0
        if not 0 <= value <= 1:
            raise BadInput(f"an alpha is not from 0 to {divide:g}.")
        return value

    return opaque
