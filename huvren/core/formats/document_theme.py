"""Themes of office documents: the twelve colors of ISO/IEC 29500-1 §20.1.6.2, and a workbook's indexed colors. Read only."""

import io
import lzma
import struct
import xml.etree.ElementTree as ElementTree
import zipfile
import zlib

from huvren.core.color.notation import parse_color
from huvren.core.errors import BadFile
from huvren.core.formats import FORMATS, Format, Found, Keeps, SwatchList

THEMES = ("word/theme/theme1.xml", "xl/theme/theme1.xml", "ppt/theme/theme1.xml")
STYLES = "xl/styles.xml"
NAMES = {
    "dk1": "Dark 1", "lt1": "Light 1", "dk2": "Dark 2", "lt2": "Light 2", **{f"accent{n}": f"Accent {n}" for n in range(1, 7)},
    "hlink": "Link", "folHlink": "Followed link",
}  # fmt: skip
MOST_BYTES = 4 * 1024 * 1024
DAMAGE = (
    zipfile.BadZipFile, zipfile.LargeZipFile, EOFError, OSError, NotImplementedError, RuntimeError, ValueError, LookupError,
    zlib.error, struct.error, lzma.LZMAError,
)  # fmt: skip
"""What unpacking raises for bytes that are not what they say."""


def _part(archive: zipfile.ZipFile, name: str) -> ElementTree.Element | None:
    try:
        info = archive.getinfo(name)
    except KeyError:
        return None
    if info.file_size > MOST_BYTES:
        raise BadFile(f"The part {name} of the document is too large to be a theme.")
    data = archive.read(info)
    if b"<!ENTITY" in data or b"<!DOCTYPE" in data:
        raise BadFile(f"The part {name} of the document declares a document type, which is not read.")
    try:
        return ElementTree.fromstring(data)
    except ElementTree.ParseError as error:
        raise BadFile(f"The part {name} of the document is not sound XML.") from error


def _local(element: ElementTree.Element) -> str:
    return element.tag.rsplit("}", 1)[-1]


def sniff(data: bytes) -> float:
    if data[:4] != b"PK\x03\x04":
        return 0.0
    try:
        names = set(zipfile.ZipFile(io.BytesIO(data)).namelist())
    except DAMAGE:
        return 0.0
    return 0.9 if names & {*THEMES, STYLES} else 0.0


def read(data: bytes) -> Found:
    """The theme as one group, the indexed colors as another. Raises `BadFile` where there is neither."""
    try:
        archive = zipfile.ZipFile(io.BytesIO(data))
        theme = next((part for name in THEMES if (part := _part(archive, name)) is not None), None)
        styles = _part(archive, STYLES)
    except DAMAGE as error:
        raise BadFile("The document is damaged: its parts cannot be unpacked.") from error
    made, title = SwatchList(), ""
    schemes = [] if theme is None else [part for part in theme.iter() if _local(part) == "clrScheme"]
    if schemes:
        title = schemes[0].get("name", "")
        made.open_group("Theme")
        for entry in schemes[0]:
            value = next((color.get("lastClr") or color.get("val") for color in entry), None)
            if _local(entry) in NAMES and value and len(value) == 6:
                made.add(parse_color(f"#{value}"), NAMES[_local(entry)])
    indexed = [] if styles is None else [part for part in styles.iter() if _local(part) == "indexedColors"]
    if indexed:
        made.open_group("Indexed")
        for number, entry in enumerate(indexed[0]):
            value = entry.get("rgb", "")
            if number >= 8 and len(value) in (6, 8):
                made.add(parse_color(f"#{value[-6:]}"), f"Index {number}")
    if not made.swatches:
        raise BadFile("The document has no theme and no colors of its own.")
    return Found(made.palette(title))


FORMATS.register(
    Format(
        "document-theme", (".docx", ".xlsx", ".pptx"), "document theme", "code", "application/zip", Keeps(names=True, groups=True),
        "The theme of a text document, workbook or slide deck.", contents=frozenset({"palette", "theme"}), sniff=sniff, read=read,
    )
)  # fmt: skip
