"""CSS custom properties; also reads the variables and maps of SCSS and LESS.

Style sheets are read by `style_sheet.py` and `css_values.py`; what is laid out plainly, a declaration a line as we write it, is read
line by line, which is many times faster. A test makes sure that both say the same.
"""

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field

import numpy as np
import tinycss2

from huvren.core.color.arrays import Floats
from huvren.core.color.notation import parse_color
from huvren.core.color.spaces import SPACES, convert
from huvren.core.color.value import ALPHA, Color, srgb_of
from huvren.core.errors import BadColor, HuvrenError
from huvren.core.formats.format import (
    FORMATS,
    Document,
    Format,
    Found,
    Keeps,
    NoColor,
    Option,
    decode_text,
    is_probably_text,
    sections,
)
from huvren.core.formats.holding import held_palette, in_depth, shortest
from huvren.core.formats.reading_limits import Count, ReadingLimits
from huvren.core.formats.style_sheets.css_values import (
    Effort,
    Tokens,
    Unresolved,
    Values,
    look_over_chains,
    plain,
    split_at,
    without_flags,
)
from huvren.core.formats.style_sheets.gradient_css import MARK, gradients_in
from huvren.core.formats.style_sheets.style_sheet import Block, GroupMark, Variable, variables
from huvren.core.formats.swatch_list import SwatchList
from huvren.core.palette.values import Palette

NOTATION = Option("notation", "written as", (("hex", "hex codes"), ("rgb", "rgb()"), ("hsl", "hsl()"), ("oklch", "oklch()")))
FINE = {"hsl": (((1, 1, 1), (2, 2, 2), (3, 4, 4), (4, 6, 6)), (1, 100, 100)), "oklch": (((4, 4, 2), (6, 6, 4)), (1, 1, 1))}
"""Decimals of each channel as they are written, the fewest first, and what a channel is multiplied by: more where rounding shows."""
ROUNDED_BY = 0.004
"""ΔEOK×100 that rounding may cost; the report begins to speak at 0.005."""
NAMES_SAID = 12
ALPHA_DECIMALS = 4
SHEET = ReadingLimits(
    1_200_000,
    (
        Count(b";", 30_000, "declarations"), Count(b":", 45_000, "declarations"), Count(b"{", 20_000, "rules"),
        Count(b"-mix(", 1_500, "mixtures"),
    ),
)  # fmt: skip
"""Of sheets that are not laid out plainly, which take longer to be read."""
_VARIABLE = re.compile(r"(?:(?<![\w-])--(?=[^\s:;{}()-])|\$|@)[^\s:;{}()]{1,200}+\s{0,20}+:")
_PLAIN = re.compile(r"\s*+--(?P<slug>[\w-]++):\s?+(?P<value>[\w#.%/ ()-]++);(?:\s?+/\*(?P<said>(?:[^*]|\*(?!/))*+)\*/)?+\s*+")
_GROUP = re.compile(r"\s*+/\* group:(?P<name>(?:[^*]|\*(?!/))*+)\*/\s*+")
_WORKED_OUT = ("var(", "calc(", "from ", "color-mix(", "light-dark(", "currentcolor")


_NOWHERE = Block()


def sniff(data: bytes) -> float:
    if not is_probably_text(data):
        return 0.0
    return 0.7 if _VARIABLE.search(decode_text(data[:20_000])) else 0.0


@dataclass
class _Left:
    """Variables that gave no swatch, by name: those that hold something else, and those that could not be worked out."""

    others: list[str] = field(default_factory=list)
    unresolved: list[str] = field(default_factory=list)

    def notes(self) -> list[str]:
        notes = []
        if self.others:
            count = len(self.others)
            what = "1 variable that holds no color was" if count == 1 else f"{count:,} variables that hold no color were"
            notes.append(f"{what} left out: {_listed(self.others, ', ')}.")
        if self.unresolved:
            notes.append(f"Not worked out: {_listed(self.unresolved, '; ')}.")
        return notes


def _listed(names: Sequence[str], mark: str) -> str:
    more = f"{mark}and {len(names) - NAMES_SAID:,} more" if len(names) > NAMES_SAID else ""
    return mark.join(names[:NAMES_SAID]) + more


def _unslugged(name: str) -> str:
    return name.lstrip("-$@").replace("-", " ").replace("_", " ").strip().capitalize()


def read(data: bytes) -> Found:
    """Every variable whose value is a color; a comment behind it is its name, `/* group: … */` its group, a map a group too."""
    text = decode_text(data)
    made, left = SwatchList(), _Left()
    if not _read_plain(text, made):
        made = SwatchList()
        _read_sheet(text, made, left)
    if not made:
        why = f" {left.notes()[-1]}" if left.unresolved else ""
        raise NoColor(f"None of its variables is a color. One such as “--eye-spot: #e85421;” was expected.{why}")
    found, said = gradients_in(text) if MARK in text else ([], [])
    for name, plan in found:
        made.add_ramp(plan, name)
    return Found(made.palette(), (*left.notes(), *said, *made.doubled_names()))


def _read_plain(text: str, made: SwatchList) -> bool:
    """Read a sheet whose every line is one plain declaration, a group, or a brace of `:root`. False for any other."""
    if any(word in text for word in _WORKED_OUT) or "//" in text:
        return False
    is_open = False
    for line in text.split("\n"):
        match = _PLAIN.fullmatch(line)
        if match and is_open:
            try:
                color = parse_color(match["value"]) if match["value"][:1] == "#" or "(" in match["value"] else None
            except BadColor:
                return False
            if color is None:
                return False
            made.add(color, (match["said"] or "").strip() or _unslugged(match["slug"]))
        elif group := _GROUP.fullmatch(line):
            made.open_group(group["name"].strip() or None)
        elif line.strip() == ":root {" and not is_open:
            is_open = True
        elif line.strip() == "}" and is_open:
            is_open = False
        elif line.strip():
            return False
    return True


def _read_sheet(text: str, made: SwatchList, left: _Left) -> None:
    SHEET.check(text.encode(), "a style sheet")
    look_over_chains(text)
    entries, within = variables(text)
    effort = Effort()
    for entry in entries:
        if isinstance(entry, GroupMark):
            made.open_group(entry.name or None)
        else:
            values = Values(within(entry.block), effort=effort)
            if not _read_map(entry.name, entry.tokens, values, made, left, _unslugged(entry.name)):
                _read_value(entry, values, made, left)
        effort.check()


def _read_value(variable: Variable, values: Values, made: SwatchList, left: _Left) -> None:
    name = variable.said or _unslugged(variable.name)
    try:
        made.add(values.color(variable.tokens), name)
    except Unresolved as problem:
        left.unresolved.append(f"{variable.name} ({str(problem).rstrip('.')})")
    except HuvrenError:
        colors = _several(variable.tokens, values)
        for number, color in enumerate(colors, start=1):
            made.add(color, f"{name} {number}")
        if not colors:
            left.others.append(variable.name)


def _several(tokens: Tokens, values: Values) -> list[Color]:
    """The colors of a list of nothing else, of two or more."""
    found = without_flags(tokens)
    parts = split_at(found, ",") if "," in found else [[token] for token in found]
    try:
        return [values.color(part) for part in parts if part] if len(parts) > 1 else []
    except HuvrenError:
        return []


def _pairs(tokens: Tokens) -> Iterator[tuple[str, list[object]]]:
    """Key and value of each entry of a map; nothing where it is none."""
    for part in split_at(plain(tokens), ","):
        if ":" in part:
            at = part.index(":")
            yield tinycss2.serialize(part[:at]).strip("\"' "), part[at + 1 :]


def _read_map(name: str, tokens: Tokens, values: Values, made: SwatchList, left: _Left, group: str, deep: int = 0) -> bool:
    """Read a map, and maps within it, as groups. False for what is none."""
    found = without_flags(tokens)
    if len(found) != 1 or found[0].type != "() block" or deep > 8:
        return False
    pairs = list(_pairs(found[0].content))
    if not pairs:
        return False
    made.open_group(group)
    for key, value in pairs:
        full = f"{name} {key}"
        if _read_map(full, value, values, made, left, f"{group} / {_unslugged(key)}", deep + 1):
            made.open_group(group)
        else:
            _read_value(Variable(full, value, 0, _NOWHERE, _unslugged(key)), values, made, left)
    made.open_group(None)
    return True


def slug(name: str, taken: dict[str, int]) -> str:
    """Letters, digits and hyphens; a number is added where the name is taken. taken : by slug, the number to try next."""
    plain = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-") or "color"
    if plain[0].isdigit():
        plain = f"color-{plain}"
    wanted, number = plain, taken.get(plain, 2)
    while wanted in taken:
        wanted, number = f"{plain}-{number}", number + 1
    taken[plain] = number
    taken.setdefault(wanted, 2)
    return wanted


def _coords_in(notation: str, colors: Sequence[Color]) -> Floats:
    """(n, 3) coordinates in the space of a notation. What hsl() cannot say is mapped into sRGB first."""
    coords = np.empty((len(colors), 3))
    space = SPACES[notation]
    own = [place for place, color in enumerate(colors) if color.space == notation]
    if own:
        coords[own] = [colors[place].coords for place in own]
    by_space: dict[str, list[int]] = {}
    for place, color in enumerate(colors):
        # The sectors of hsl() hold all of sRGB and nothing else.
        is_within = color.space == notation and (notation == "oklch" or (0 <= color.coords[1] <= 1 and 0 <= color.coords[2] <= 1))
        if not is_within:
            by_space.setdefault(color.space if notation == "oklch" else "", []).append(place)
    for source, places in by_space.items():
        there = [colors[place] for place in places]
        coords[places] = convert([color.coords for color in there] if source else srgb_of(there)[0], source or "srgb", notation)
    assert space.hue is not None
    turned = coords[:, 1] < 0
    if turned.any():
        # CSS takes a negative strength for none; it means the opposite hue.
        base = space.base or notation
        coords[turned] = convert(convert(coords[turned], notation, base), base, notation)
    coords[:, space.hue] %= 360
    if notation == "oklch":
        coords[:, 0] = np.clip(coords[:, 0], 0, 1)
    return coords


def _meant(notation: str, colors: Sequence[Color]) -> Floats:
    """(n, 3) coordinates as they come back from hsl() or oklch(), with as few decimals as keep the color."""
    decimals, scale = FINE[notation]
    meant = shortest(_coords_in(notation, colors), notation, decimals, scale, ROUNDED_BY)
    meant[:, SPACES[notation].hue] %= 360
    return meant


def _rounded(notation: str, colors: Sequence[Color]) -> list[Color]:
    """Colors as they come back from a notation."""
    if notation == "hex" or not colors:
        return in_depth(colors, 8)
    alphas = [round(color.alpha, ALPHA_DECIMALS) for color in colors]
    if notation == "rgb":
        held = zip(in_depth(colors, 8), alphas, strict=True)
        return [color if color.alpha == alpha else color.with_alpha(alpha) for color, alpha in held]
    made = []
    for color, row, alpha in zip(colors, _meant(notation, colors).tolist(), alphas, strict=True):
        gone = color.missing if color.space == notation else ()
        made.append(
            Color(notation, tuple(0.0 if at in gone else value for at, value in enumerate(row)) if gone else tuple(row), alpha, gone)
        )
    return made


def _texts(notation: str, colors: Sequence[Color]) -> list[str]:
    """Held colors in a notation."""
    if notation == "hex" or not colors:
        return [color.hex for color in colors]
    alphas = ["" if color.alpha == 1 else f" / {color.alpha:g}" for color in colors]
    if notation == "rgb":
        return ["rgb({} {} {}{})".format(*color.bytes[:3], alpha) for color, alpha in zip(colors, alphas, strict=True)]
    marks = [("%" if each != 1 else "") for each in FINE[notation][1]]
    made = []
    scale = FINE[notation][1]
    for color, alpha in zip(colors, alphas, strict=True):
        # What is held lies on the decimals that it was rounded to: the zeros behind them go.
        words = [
            f"{value * each:.6f}".rstrip("0").rstrip(".") + mark for value, each, mark in zip(color.coords, scale, marks, strict=True)
        ]
        if color.missing:
            words = ["none" if at in color.missing else word for at, word in enumerate(words)]
            alpha = " / none" if ALPHA in color.missing else alpha
        made.append(f"{notation}({words[0]} {words[1]} {words[2]}{alpha})")
    return made


def _said(text: str) -> str:
    """A name as a comment can hold it, and not as a mark of a group."""
    plain_text = text.replace("*/", "* /")
    return f"group {plain_text[6:].strip()}" if plain_text[:6].lower() == "group:" else plain_text


def hold(document: Document) -> Palette:
    """Colors as they come back from the chosen notation, alpha to four decimals; names as a comment can hold them."""
    notation = WRITER.option(document, "notation")
    return held_palette(document.palette, KEEPS, lambda colors: _rounded(notation, colors), _said)


def write(document: Document) -> bytes:
    """One `:root` rule; the name as it was follows in a comment."""
    palette = document.palette
    texts = _texts(WRITER.option(document, "notation"), [swatch.color for swatch in palette.swatches])
    lines = [":root {"]
    taken: dict[str, int] = {}
    for place, (group, run) in enumerate(sections(palette)):
        if group or place:
            lines.append(f"  /* group: {group} */" if group else "  /* group: */")
        lines += [f"  --{slug(swatch.name, taken)}: {texts[at]}; /* {swatch.name} */" for at, swatch in run]
    return ("\n".join([*lines, "}"]) + "\n").encode()


DARK_NAMES = ("dark", "night", "dusk", "nacht", "nuit", "noche", "notte")
DARKER_BY = 0.05
"""In mean lightness of OKLab: a variant darker than the first by as much is the one for a dark screen."""


def _dark_one(variants: Sequence[tuple[str, Document]]) -> int | None:
    """The place of the variant for a dark screen: one that says so, else the darkest, where that is darker than the first."""
    for place, (name, _) in enumerate(variants):
        if place and any(word in name.lower() for word in DARK_NAMES):
            return place
    means = [
        float(convert(srgb_of([swatch.color for swatch in document.palette.swatches])[0], "srgb", "oklab")[:, 0].mean())
        for _, document in variants
        if document.palette.swatches
    ]
    darkest = int(np.argmin(means)) if len(means) == len(variants) else 0
    return darkest if darkest and means[0] - means[darkest] > DARKER_BY else None


def write_variants(variants: Sequence[tuple[str, Document]]) -> bytes:
    """The first variant as `:root`; every other as a class that changes what differs in it; the one for a dark screen also where
    a reader prefers that, unless a class says otherwise."""
    notation = WRITER.option(variants[0][1], "notation")
    taken: dict[str, int] = {}
    # The same names in every variant, as they are the same swatches in the same order.
    names = [slug(swatch.name, taken) for _, run in sections(variants[0][1].palette) for _, swatch in run]
    texts = [_texts(notation, [swatch.color for swatch in document.palette.swatches]) for _, document in variants]
    classes: dict[str, int] = {}
    marks = [slug(name, classes) for name, _ in variants]
    dark = _dark_one(variants)

    def changed(place: int, indent: str) -> list[str]:
        rows = zip(names, texts[place], texts[0], strict=True)
        return [f"{indent}--{name}: {text};" for name, text, first in rows if text != first]

    parts = [write(variants[0][1]).decode().rstrip("\n")]
    if dark is not None and (lines := changed(dark, "    ")):
        others = "".join(f":not(.{mark})" for place, mark in enumerate(marks) if place != dark)
        parts.append("\n".join(["@media (prefers-color-scheme: dark) {", f"  :root{others} {{", *lines, "  }", "}"]))
    for place in range(1, len(variants)):
        parts.append("\n".join([f".{marks[place]} {{ /* {_said(variants[place][0])} */", *changed(place, "  "), "}"]))
    return ("\n\n".join(parts) + "\n").encode()


KEEPS = Keeps(names=True, groups=True, alpha="all", missing=True)
WRITER = FORMATS.register(
    Format(
        "css", (".css", ".scss", ".less"), "custom properties", "code", "text/css; charset=utf-8", KEEPS,
        "Variables for a style sheet; variables and maps of SCSS and LESS are read as well.", is_text=True,
        is_partial=True, options=(NOTATION,),
        limits=ReadingLimits(8_000_000), sniff=sniff, read=read, hold=hold, write=write, write_variants=write_variants,
    )
)  # fmt: skip
