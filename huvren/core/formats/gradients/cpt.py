"""`.cpt` color table for maps and grids: slices `z0 color z1 color`, then B, F and N lines; or categories `key color ;label`."""

from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from huvren.core.color.eight_bits import to_eight_bits
from huvren.core.color.notation import parse_color
from huvren.core.color.spaces import convert
from huvren.core.color.value import Color, srgb_of
from huvren.core.errors import BadColor, BadFile
from huvren.core.formats.format import (
    FORMATS,
    Document,
    Format,
    Found,
    Keeps,
    Option,
    RampKeeps,
    decode_text,
    is_probably_text,
    whole_number,
)
from huvren.core.formats.holding import held_palette
from huvren.core.formats.reading_limits import LINES, ReadingLimits
from huvren.core.formats.swatch_list import SwatchList
from huvren.core.palette.values import Palette
from huvren.core.ramp.baking import Baked, bake, stepped
from huvren.core.ramp.fewest import by_splitting
from huvren.core.ramp.plan import PlanStop, RampPlan, plain_only
from huvren.core.ramp.stops import MOST_STOPS

FORM = Option("form", "laid out as", (("steps", "even steps"), ("continuous", "one continuous ramp"), ("categories", "categories")))
NO_DATA = "128/128/128"
ENDS = ("B", "F", "N")
MODELS = {"RGB": "rgb", "HSV": "hsv", "CMYK": "cmyk"}
SAME = 1e-9
MOST_SLICES = 20_000
MOST_SLICES_OF_A_RAMP = 2_000
STATEMENTS = ("COLOR_MODEL=", "HINGE=", "RANGE=", "CYCLIC=")
CONTINUOUS = "# one continuous ramp"


def held_ramp(plan: RampPlan, options: Mapping[str, str]) -> Baked:
    ramp = plan.ramp(plain_only)
    return bake(ramp, 0.3) if plan.steps is None else stepped(ramp, plan.steps)


def _write_ramp(document: Document) -> bytes:
    """Slices over 0..1: between baked stops, or one flat slice a step."""
    name, plan, _ = document.ramp
    baked = held_ramp(plan.untied(document.palette.color_of), document.options)
    codes = ["/".join(map(str, row)) for row in to_eight_bits(baked.srgb).tolist()]
    places = baked.places.tolist()
    lines = [f"# {' '.join(name.split())}", "# COLOR_MODEL = RGB"]
    for left, right, low, high in zip(places[:-1], places[1:], codes[:-1], codes[1:], strict=True):
        if right > left:
            lines.append(f"{left:.6g}\t{low}\t{right:.6g}\t{high}")
    return ("\n".join([*lines, f"B\t{codes[0]}", f"F\t{codes[-1]}", f"N\t{NO_DATA}"]) + "\n").encode()


def _title(text: str) -> str:
    """A title that is no statement about the table."""
    return "" if _says(f"# {text}") or f"# {text}" == CONTINUOUS else text


def hold(document: Document) -> Palette:
    """A continuous table has no place for names: its colors lie between slices."""
    is_continuous = WRITER.option(document, "form") == "continuous"
    return held_palette(document.palette, replace(KEEPS, names=False) if is_continuous else KEEPS, title=_title)


def write(document: Document) -> bytes:
    """Slices over 0..1, or category rows with labels. Below, above and no data: first color, last color, gray."""
    if document.ramps:
        return _write_ramp(document)
    swatches = document.palette.swatches
    if not swatches:
        raise BadFile("There is no swatch to write. Add one first.")
    codes = ["{}/{}/{}".format(*swatch.color.bytes[:3]) for swatch in swatches]
    form = WRITER.option(document, "form")
    lines = [f"# {document.palette.name}", "# COLOR_MODEL = RGB"]
    if form == "categories":
        lines += [f"{place}\t{code}\t;{s.name}" for place, (code, s) in enumerate(zip(codes, swatches, strict=True))]
        return ("\n".join([*lines, f"N\t{NO_DATA}"]) + "\n").encode()
    if form == "continuous":
        if len(codes) < 2:
            raise BadFile("A continuous table needs two colors or more.")
        lines.append(CONTINUOUS)
        slices, ends = list(zip(codes[:-1], codes[1:], strict=True)), len(codes) - 1
    else:
        slices, ends = [(code, code) for code in codes], len(codes)
    for place, (low, high) in enumerate(slices):
        label = f"\t;{swatches[place].name}" if form == "steps" else ""
        lines.append(f"{place / ends:.6g}\t{low}\t{(place + 1) / ends:.6g}\t{high}{label}")
    lines += [f"B\t{codes[0]}", f"F\t{codes[-1]}", f"N\t{NO_DATA}"]
    return ("\n".join(lines) + "\n").encode()


def _number(word: str) -> float | None:
    try:
        value = float(word)
    except ValueError:
        return None
    return value if value == value and abs(value) < 1e30 else None


def _take_color(words: list[str], count: int, model: str, line: int, known: dict[str, Color]) -> Color:
    """Read one color off the front of `words`: `count` separate numbers, or one word: `r/g/b`, `h-s-v`, `c/m/y/k`, a gray, a hex
    code or a name. known : words that were read before."""
    if count > 1:
        numbers = [_number(word) for word in words[:count]]
        if len(numbers) < count or None in numbers:
            raise BadFile(f"Line {line}: {count} numbers were expected for a color.")
        del words[:count]
        return _color([number for number in numbers if number is not None], model, line)
    word = words.pop(0).split("@")[0] if words else ""
    if word not in known:
        known[word] = _of_word(word, line)
    return known[word]


def _of_word(word: str, line: int) -> Color:
    channels = [whole_number(part) for part in word.split("/")]
    if len(channels) == 3 and all(channel is not None and channel <= 255 for channel in channels):
        return Color.from_bytes(*(channel or 0 for channel in channels))
    for mark in ("/", "-"):
        parts = word.split(mark)
        if len(parts) in (3, 4) and all(_number(part) is not None for part in parts):
            return _color([float(part) for part in parts], "hsv" if mark == "-" else "cmyk" if len(parts) == 4 else "rgb", line)
    if (gray := _number(word)) is not None:
        return _color([gray] * 3, "rgb", line)
    try:
        return parse_color(word)
    except BadColor as error:
        raise BadFile(f"Line {line}: “{word[:40]}” is no color.") from error


def _color(numbers: list[float], model: str, line: int) -> Color:
    if model == "hsv":
        hue, saturation, value = numbers
        return Color("srgb", Color("hsv", (hue % 360, min(max(saturation, 0.0), 1.0), min(max(value, 0.0), 1.0))).srgb)
    if model == "cmyk":
        cyan, magenta, yellow, black = (min(max(value / 100, 0.0), 1.0) for value in numbers)
        return Color("cmyk", (cyan, magenta, yellow, black))
    if not all(0 <= value <= 255 for value in numbers):
        raise BadFile(f"Line {line}: a channel is not from 0 to 255.")
    red, green, blue = (value / 255 for value in numbers)
    return Color("srgb", (red, green, blue))


def _says(line: str) -> str:
    """What a comment states, such as `COLOR_MODEL=RGB`, without blanks and in capitals; empty for plain words."""
    said = line.lstrip("# \t").replace(" ", "").upper()
    return said if said.startswith(STATEMENTS) else ""


def sniff(data: bytes) -> float:
    if not is_probably_text(data):
        return 0.0
    text = decode_text(data[:4000])
    if "COLOR_MODEL" in text and text.lstrip().startswith("#"):
        return 0.9
    rows = [line.split() for line in text.split("\n")[:-1] if line.strip() and not line.startswith("#")]
    ends = sum(row[0] in ENDS for row in rows)
    slices = sum(len(row) in (4, 8) and all(_number(row[at]) is not None for at in (0, len(row) // 2)) for row in rows)
    return 0.75 if slices >= 1 and slices + ends >= len(rows) - 1 and ends else 0.0


class _Slice:
    def __init__(self, low: float, first: Color, high: float, last: Color, label: str) -> None:
        self.low, self.first, self.high, self.last, self.label = low, first, high, last, label
        self.is_flat = first is last or first == last


def _rows(text: str) -> tuple[list[_Slice], list[tuple[str, Color, str]], str, list[str]]:
    """Slices, categories, the color model, and notes."""
    model, notes, slices, categories = "rgb", [], [], []
    known: dict[str, Color] = {}
    for number, raw in enumerate(text.split("\n"), start=1):
        line = raw.strip()
        if line.startswith("#"):
            head = _says(line)
            if head.startswith("COLOR_MODEL="):
                wanted = head.partition("=")[2].lstrip("+")
                if wanted not in MODELS:
                    raise BadFile(f"Line {number}: the color model “{wanted[:40]}” is not known; RGB, HSV and CMYK are.")
                model = MODELS[wanted]
            elif head.startswith("HINGE="):
                notes.append("Its hinge was left out: the ramp runs evenly over the values.")
            continue
        body, _, label = line.partition(";")
        words = body.split()
        if not words or words[0] in ENDS:
            continue
        key = words.pop(0)
        low = _number(key)
        if len(words) > 1 and words[-1] in ("L", "U", "B"):
            words.pop()
        if not words:
            raise BadFile(f"Line {number} is neither a slice nor a category.")
        if len(words) == 1 or low is None:
            categories.append((key, _take_color(words, 1, model, number, known), label.strip()))
            continue
        # A color is one word, or as many numbers as its model has: how many words there are says which.
        count = {7: 3, 9: 4}.get(len(words), 1)
        first = _take_color(words, count, model, number, known)
        high = _number(words.pop(0)) if words else None
        if high is None or not words:
            raise BadFile(f"Line {number}: a slice is “low color high color”; this one ends too soon.")
        slices.append(_Slice(low, first, high, _take_color(words, count, model, number, known), label.strip()))
    return slices, categories, model, notes


def _ramp(slices: list[_Slice], model: str, notes: list[str]) -> RampPlan | None:
    low, span = slices[0].low, slices[-1].high - slices[0].low
    if span == 0:
        return None
    flat = all(part.is_flat for part in slices)
    widths = [part.high - part.low for part in slices]
    if flat and max(widths) - min(widths) <= 1e-3 * abs(span) and 2 <= len(slices) <= MOST_STOPS:
        # Flat slices of one width are the steps of a ramp.
        count = len(slices)
        return RampPlan(tuple(PlanStop(part.first, position=at / (count - 1)) for at, part in enumerate(slices)), count, space="srgb")
    stops: list[PlanStop] = []
    for part in slices:
        left, right = (part.low - low) / span, (part.high - low) / span
        last = stops[-1] if stops else None
        if last is None or last.color != part.first or abs((last.position or 0.0) - left) > SAME:
            stops.append(PlanStop(part.first, position=min(max(left, 0.0), 1.0)))
        stops.append(PlanStop(part.last, position=min(max(right, 0.0), 1.0)))
    if len(stops) > MOST_STOPS:
        rows = convert(srgb_of([stop.color for stop in stops if stop.color])[0], "srgb", "oklab")
        places = np.array([stop.position or 0.0 for stop in stops]) + np.arange(len(stops)) * 1e-9
        kept = by_splitting(rows, places, 0.0, MOST_STOPS)
        notes.append(f"Of its {len(stops):,} stops the {MOST_STOPS} that matter most were taken.")
        stops = [stops[place] for place in kept]
    return RampPlan(tuple(stops), None, space="hsv" if model == "hsv" else "srgb")


def _swatches(slices: list[_Slice], is_continuous: bool) -> list[tuple[Color, str]]:
    """A color for each flat slice; of others both ends, but what one begins with only where the one before ends otherwise.

    is_continuous : as we write it, so that neighbors of one color stay two.
    """
    if is_continuous:
        return [(part.first, "") for part in slices[:1]] + [(part.last, "") for part in slices]
    made: list[tuple[Color, str]] = []
    all_flat = all(part.is_flat for part in slices)
    for part in slices:
        if all_flat or not made or made[-1][0] != part.first:
            made.append((part.first, part.label))
        if not part.is_flat:
            made.append((part.last, ""))
    return made


def read(data: bytes) -> Found:
    """Its slices as a ramp and its colors as swatches, labels as names. Raises `BadFile` with the line that is wrong."""
    text = decode_text(data)
    slices, categories, model, notes = _rows(text)
    made = SwatchList()
    if not slices and not categories:
        raise BadFile("The table has neither slices nor categories.")
    if len(slices) > MOST_SLICES:
        raise BadFile(f"The table has {len(slices):,} slices; {MOST_SLICES:,} is the most that can be read.")
    if slices and slices[-1].high < slices[0].low:
        slices = [_Slice(part.high, part.last, part.low, part.first, part.label) for part in reversed(slices)]
    for color, label in _swatches(slices, any(line.rstrip() == CONTINUOUS for line in text.split("\n"))):
        made.add(color, label)
    for key, color, label in categories:
        made.add(color, label or key)
    titles = (line for line in text.split("\n") if line.startswith("#") and line.strip("# \t") and not _says(line))
    title = next((line[2:].strip() if line.startswith("# ") else line.strip("# \t") for line in titles), "")
    if len(slices) > MOST_SLICES_OF_A_RAMP:
        notes.append(f"Of more than {MOST_SLICES_OF_A_RAMP:,} slices no ramp is made; their colors are swatches.")
    elif slices and (plan := _ramp(slices, model, notes)) is not None:
        made.add_ramp(plan, title or "Color table")
        notes.insert(0, f"One ramp of {len(slices):,} slices, from {slices[0].low:g} to {slices[-1].high:g}.")
    return Found(made.palette(title), tuple(notes))


KEEPS = Keeps(title=True, names=True)
WRITER = FORMATS.register(
    Format(
        "cpt", (".cpt",), "map color table", "chart", "text/plain; charset=utf-8", KEEPS,
        "Colors by value for maps and grids.", contents=frozenset({"palette", "ramps"}),
        ramp=RampKeeps("baked", held_ramp, alpha=False, steps=True), is_text=True, options=(FORM,),
        limits=ReadingLimits(4_000_000, LINES), sniff=sniff, read=read, hold=hold, write=write,
    )
)  # fmt: skip
