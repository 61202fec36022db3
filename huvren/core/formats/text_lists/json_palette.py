"""Huvren's own JSON: everything a palette holds, ids included, nothing lost.

The document's shapes are loaded when such a file is read or written: a command about other formats does not wait for them.
"""

import json

from huvren.core.color.spaces import SPACES
from huvren.core.errors import BadFile, BadInput
from huvren.core.formats.format import FORMATS, Document, Format, Found, Keeps, RampKeeps, decode_text
from huvren.core.formats.reading_limits import ReadingLimits
from huvren.core.palette.values import KeptRamp, Palette
from huvren.core.ramp.baking import bake
from huvren.core.ramp.plan import plain_only

MARK = "huvren-palette"


def sniff(data: bytes) -> float:
    return 1.0 if data.removeprefix(b"\xef\xbb\xbf").lstrip()[:1] == b"{" and f'"{MARK}"'.encode() in data[:400] else 0.0


def read(data: bytes) -> Found:
    """Read a document written by `write`; each swatch also carries its hex for other readers, which is ignored."""
    from huvren.core.palette.document import PALETTE, palette_from_document, understand_palette

    try:
        document = json.loads(decode_text(data))
    except json.JSONDecodeError as error:
        raise BadFile(f"The file is not sound JSON. Line {error.lineno}: {error.msg}.") from error
    except RecursionError as error:
        raise BadFile("The file is not sound JSON. It nests too deep.") from error
    except ValueError as error:
        raise BadFile("The JSON holds a number of thousands of digits, which is none.") from error
    if not isinstance(document, dict) or document.get("format") != MARK:
        raise BadFile(f"The JSON is no palette: its “format” is not “{MARK}”.")
    plain = {key: value for key, value in document.items() if key != "format"}
    if isinstance(plain.get("swatches"), list):
        for entry in plain["swatches"]:
            if isinstance(entry, dict):
                entry.pop("hex", None)
    try:
        if isinstance(plain.get("version"), int) and plain["version"] > PALETTE.version:
            understood = understand_palette(plain)
            return Found(understood.value, understood.problems)
        return Found(palette_from_document(plain))
    except BadInput as error:
        raise BadFile(str(error)) from error


def write(document: Document) -> bytes:
    """UTF-8, a line a swatch: the palette with its ramps, or the one ramp that the document is about."""
    from huvren.core.palette.document import palette_to_document

    palette = document.palette
    if document.ramps:
        name, plan, _ = document.ramp
        palette = Palette(name, ramps=(KeptRamp(name, plan),))
    body = palette_to_document(palette)
    for entry, swatch in zip(body["swatches"], palette.swatches, strict=True):
        entry["hex"] = swatch.color.hex
    parts = [f"  {json.dumps(key)}: {_laid_out(value)}" for key, value in {"format": MARK, **body}.items()]
    return ("{\n" + ",\n".join(parts) + "\n}\n").encode()


def _laid_out(value: object) -> str:
    """A value on one line, or a list of objects with a line for each: for people, and for tools that compare lines."""
    if isinstance(value, list) and value and isinstance(value[0], dict):
        return "[\n" + ",\n".join(f"    {json.dumps(entry, ensure_ascii=False)}" for entry in value) + "\n  ]"
    return json.dumps(value, ensure_ascii=False)


FORMATS.register(
    Format(
        "json", (".json",), "lossless palette", "palette", "application/json",
        Keeps(
            title=True, names=True, groups=True, alpha="all", ids=True, places="all", everything=True, missing=True,
            spaces=SPACES.ids(), depth_bits=None,
        ),
        "Everything, with nothing lost: for keeping and for scripts.", contents=frozenset({"palette", "ramps"}),
        ramp=RampKeeps("samples", lambda plan, options: bake(plan.ramp(plain_only), 0.1), lambda plan: True, steps=True),
        is_text=True, limits=ReadingLimits(40_000_000), sniff=sniff, read=read, write=write,
    )
)  # fmt: skip
