"""Files of the command line: read, written, and the format that an ending or an id names."""

import sys
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

from huvren.core.errors import BadInput
from huvren.core.formats import FORMATS, Format
from huvren.core.formats.readings import Reading, read_palettes
from huvren.core.formats.report import Loss
from huvren.core.palette.values import Palette
from huvren.core.progress import Watch, unwatched

if TYPE_CHECKING:
    from huvren.core.pictures import Picture


def read_bytes(path: Path) -> bytes:
    try:
        return path.read_bytes()
    except IsADirectoryError:
        raise BadInput(f"“{path}” is a folder; a file was expected.") from None
    except OSError as error:
        raise BadInput(f"“{path}” cannot be read: {error.strerror}.") from error


def write_bytes(path: Path, data: bytes) -> None:
    try:
        path.write_bytes(data)
    except OSError as error:
        raise BadInput(f"“{path}” cannot be written: {error.strerror}.") from error


def read_likeliest(path: Path) -> Reading:
    """The likeliest reading of a palette file, without finds that are in doubt."""
    reading = read_palettes(read_bytes(path), path.name)[0]
    return replace(reading, found=reading.found.without_doubtful())


def read_picture_file(path: Path) -> "Picture":
    from huvren.core.pictures import read_picture

    return read_picture(read_bytes(path), path.name)


def loss_said(loss: Loss) -> dict[str, Any]:
    """One loss for `--json`."""
    return {"code": loss.code, "text": loss.text, "count": loss.count, "worst": None if loss.worst is None else round(loss.worst, 4)}


def palette_writers() -> list[Format]:
    """Formats that a palette alone can be written in."""
    return [entry for entry in FORMATS if entry.is_of_palettes]


def writer_for(path: Path) -> Format:
    """The format that the ending of an output file stands for, the first of its kind. Raises `BadInput`."""
    ending = path.suffix.lower()
    for entry in palette_writers():
        if ending in entry.endings:
            return entry
    endings = ", ".join(dict.fromkeys(entry.endings[0] for entry in palette_writers()))
    raise BadInput(f"No palette can be written as “{ending}”. These endings work: {endings}.")


def listed(palette: Palette) -> list[dict[str, Any]]:
    """Swatches for `--json`."""
    return [{"hex": s.color.hex, "name": s.name, "group": palette.group_name(s.group) or None} for s in palette.swatches]


def progress_of(name: str) -> Watch:
    """Progress on one line of the terminal; nothing where standard error is no terminal."""
    if not sys.stderr.isatty():
        return unwatched

    def show(step: str, share: float) -> None:
        end = "\r\033[K" if share >= 1 else ""
        print(f"\r\033[K{name}: {step} {share:4.0%}{end}", end="", file=sys.stderr, flush=True)

    return show
