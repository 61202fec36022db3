"""Themes of office documents: the twelve colors of ISO/IEC 29500-1 §20.1.6.2, and a workbook's indexed colors. Read only."""

import io
import re
import xml.etree.ElementTree as ElementTree
from collections.abc import Iterable

from huvren.core.color.notation import parse_color
from huvren.core.errors import BadColor, BadFile, TooLarge
from huvren.core.formats.documents.office_color import local, office_color
from huvren.core.formats.format import FORMATS, Format, Found, Keeps
from huvren.core.formats.swatch_list import SwatchList
from huvren.core.unpacking import Unpacking

STYLES = "xl/styles.xml"
NAMES = {
    "dk1": "Dark 1", "lt1": "Light 1", "dk2": "Dark 2", "lt2": "Light 2", **{f"accent{n}": f"Accent {n}" for n in range(1, 7)},
    "hlink": "Link", "folHlink": "Followed link",
}  # fmt: skip
MOST_BYTES = 4 * 1024 * 1024
FIRST_INDEX = 8
"""Indices 0 to 7 repeat 8 to 15."""
HEX = frozenset("0123456789abcdefABCDEF")
MOST_UNPACKED_BYTES = 64 * 1024 * 1024
MOST_THEMES = 50
_THEME = re.compile(r"(?:^|/)theme/[^/]{1,100}\.xml\Z")
_DECLARED = tuple(mark.encode(coding) for mark in ("<!ENTITY", "<!DOCTYPE") for coding in ("ascii", "utf-16-le", "utf-16-be"))


def _themes(names: Iterable[str]) -> list[str]:
    """The parts that are themes, whatever their file is called."""
    return sorted(name for name in names if _THEME.search(name))[:MOST_THEMES]


def _unpacking(data: bytes) -> Unpacking:
    return Unpacking(io.BytesIO(data), "document", MOST_UNPACKED_BYTES)


def _part(document: Unpacking, name: str) -> ElementTree.Element | None:
    if name not in document.names():
        return None
    data = document.read(name, MOST_BYTES)
    if any(mark in data for mark in _DECLARED):
        raise BadFile(f"The part {name} of the document declares a document type, which is not read.")
    try:
        return ElementTree.fromstring(data)
    except (ElementTree.ParseError, LookupError, ValueError) as error:
        raise BadFile(f"The part {name} of the document is not sound XML.") from error


def sniff(data: bytes) -> float:
    if data[:4] != b"PK\x03\x04":
        return 0.0
    try:
        names = _unpacking(data).names()
    except (BadFile, TooLarge):
        return 0.0
    return 0.9 if _themes(names) or STYLES in names else 0.0


def _take(made: SwatchList, color: ElementTree.Element | None, name: str, notes: list[str]) -> None:
    """One color, or a note that says why there is none."""
    try:
        if color is None:
            raise BadColor("it holds no color.")
        made.add(office_color(color), name)
    except BadColor as error:
        notes.append(f"{name} was left out: {error}")


def _read_theme(made: SwatchList, theme: ElementTree.Element, label: str, notes: list[str]) -> str:
    """The color scheme of a theme as a group, and its custom colors as another; returns the scheme's name."""
    schemes = [part for part in theme.iter() if local(part) == "clrScheme"]
    for scheme in schemes[:1]:
        made.open_group(label)
        for entry in scheme:
            if local(entry) in NAMES:
                _take(made, next(iter(entry), None), NAMES[local(entry)], notes)
    custom = [part for part in theme.iter() if local(part) == "custClr"]
    if custom:
        made.open_group(f"{label}, custom")
        for number, entry in enumerate(custom, start=1):
            _take(made, next(iter(entry), None), entry.get("name", "") or f"Custom {number}", notes)
    return schemes[0].get("name", "") if schemes else ""


def read(data: bytes) -> Found:
    """Each theme as a group, the indexed colors as another. Raises `BadFile` where there is none."""
    document = _unpacking(data)
    themes = [part for name in _themes(document.names()) if (part := _part(document, name)) is not None]
    styles = _part(document, STYLES)
    made = SwatchList()
    titles: list[str] = []
    notes: list[str] = []
    for number, theme in enumerate(themes, start=1):
        titles.append(_read_theme(made, theme, "Theme" if len(themes) == 1 else f"Theme {number}", notes))
    indexed = [] if styles is None else [part for part in styles.iter() if local(part) == "indexedColors"]
    if indexed:
        made.open_group("Indexed")
        for number, entry in enumerate(indexed[0]):
            value = entry.get("rgb", "")
            if number < FIRST_INDEX:
                continue
            if len(value) in (6, 8) and HEX.issuperset(value):
                made.add(parse_color(f"#{value[-6:]}"), f"Index {number}")
            else:
                notes.append(f"Index {number} was left out: “{value[:20]}” is no color.")
    if not made:
        raise BadFile("The document has no theme and no colors of its own.")
    return Found(made.palette(next(filter(None, titles), "")), tuple(notes))


FORMATS.register(
    Format(
        "document-theme", (".docx", ".xlsx", ".pptx"), "document theme", "code", "application/zip", Keeps(names=True, groups=True),
        "The theme of a text document, workbook or slide deck.", contents=frozenset({"palette", "theme"}), sniff=sniff, read=read,
    )
)  # fmt: skip
