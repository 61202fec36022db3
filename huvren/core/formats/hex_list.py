"""`.hex` list: one `rrggbb` a line."""

import re

from huvren.core.color.value import Color
from huvren.core.errors import BadFile
from huvren.core.formats import FORMATS, Document, Format, Found, Keeps, SwatchList, decode_text

_CODE = re.compile(r"\s*(?:#|0x)?([0-9a-fA-F]{6}|[0-9a-fA-F]{3})\s*")


def sniff(data: bytes) -> float:
    lines = [line for line in decode_text(data[:2048]).split("\n") if line.strip()]
    if len(data) > 2048 and lines:
        lines.pop()
    return 0.8 if lines and all(_CODE.fullmatch(line) for line in lines) else 0.0


def read(data: bytes) -> Found:
    """One code a line, blank lines skipped."""
    made = SwatchList()
    for number, line in enumerate(decode_text(data).split("\n"), start=1):
        if not line.strip():
            continue
        match = _CODE.fullmatch(line)
        if not match:
            raise BadFile(f"Line {number}: “{line.strip()[:40]}” is no code of six hex digits.")
        digits = match.group(1)
        made.add(Color.from_bytes(*bytes.fromhex(digits if len(digits) == 6 else "".join(d * 2 for d in digits))))
    return Found(made.palette(example="A .hex list has one code such as “e55521” a line."))


def write(document: Document) -> bytes:
    """Lower-case codes in palette order; names and alpha are not written."""
    return "".join(swatch.color.hex[1:7] + "\n" for swatch in document.palette.swatches).encode()


FORMATS.register(
    Format(
        "hex", (".hex",), "code list", "palette", "text/plain; charset=utf-8", Keeps(),
        "Bare codes, one a line, for pasting and pixel programs.", is_text=True, sniff=sniff, read=read, write=write,
    )
)  # fmt: skip
