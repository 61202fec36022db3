"""File formats: the registry, and one file a format.

A codec declares its id, endings, kind, media type, what it keeps and its limits, then `read` and `write` where it
has them. Nothing else lists formats: menus, accepted endings, the command line and the tests derive from here.
"""

from collections.abc import Callable
from dataclasses import dataclass, field

from huvren.core.color.arrays import Bytes
from huvren.core.errors import BadFile
from huvren.core.palette.values import Palette
from huvren.core.registry import Registry


@dataclass(frozen=True)
class Keeps:
    """What a format holds of a palette."""

    names: bool = False
    groups: bool = False
    alpha: bool = False
    ids: bool = False
    locks: bool = False
    spaces: tuple[str, ...] = ("srgb",)
    depth_bits: int | None = 8
    most: int | None = None


@dataclass(frozen=True)
class Document:
    """What is written: a palette and, for picture formats, an (h, w) index map into its swatches."""

    palette: Palette
    indices: Bytes | None = None


@dataclass(frozen=True)
class Found:
    """What was read, with notes for a person."""

    palette: Palette
    notes: tuple[str, ...] = ()


@dataclass(frozen=True)
class Format:
    id: str
    endings: tuple[str, ...]
    kind: str
    media_type: str
    keeps: Keeps
    use: str
    needs_picture: bool = False
    fixed_lines: int = 0
    """Lines every such file begins with; a preview of the text leaves them out."""
    sniff: Callable[[bytes], float] = field(default=lambda data: 0.0)
    """Confidence 0..1 that these bytes are of this format."""
    read: Callable[[bytes], Found] | None = None
    write: Callable[[Document], bytes] | None = None

    @property
    def label(self) -> str:
        return f"{self.endings[0]} {self.kind}"


FORMATS: Registry[Format] = Registry("format")


def read_palette(data: bytes, name: str = "the file") -> tuple[Format, Found]:
    """Read a palette file by its contents. Raises `BadFile`."""
    if not data:
        raise BadFile(f"“{name}” is empty: it has no bytes.")
    best = max((entry for entry in FORMATS if entry.read), key=lambda entry: entry.sniff(data))
    if best.sniff(data) <= 0 or best.read is None:
        endings = ", ".join(entry.endings[0] for entry in FORMATS if entry.read)
        raise BadFile(f"“{name}” is not a palette that can be read. These work: {endings}.")
    return best, best.read(data)


def decode_text(data: bytes) -> str:
    """UTF-8 with or without a mark, else Latin-1, with line ends made plain."""
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = data.decode("latin-1")
    return text.replace("\r\n", "\n").replace("\r", "\n")


from huvren.core.formats import gpl, hex_list, huvren_json, indexed_png  # noqa: E402, F401
