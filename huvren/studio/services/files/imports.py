"""Bringing files in: what a file holds, shown before anything is stored."""

from collections.abc import Sequence
from dataclasses import dataclass

from huvren.core.errors import BadFile, HuvrenError, TooLarge
from huvren.core.formats import Found, decode_text, is_picture
from huvren.core.formats.marking import marked
from huvren.core.formats.reading_limits import MOST_BYTES
from huvren.core.formats.readings import Reading, by_columns, read_palettes
from huvren.core.palette.values import Palette, clean_name
from huvren.core.pictures import read_picture, scale_down
from huvren.core.reduction.adopt import adopt
from huvren.core.reduction.histogram import count_distinct
from huvren.core.reduction.recipe import ReduceRecipe
from huvren.core.reduction.reduce import reduce_picture
from huvren.studio.services.bench.pictures import DECODING_BYTES, MOST_PIXELS, PREVIEW_PIXELS, pixels_of
from huvren.studio.services.load.gate import GATE

MOST_TEXT_BYTES = 300_000
"""Of a text that is shown with its finds marked."""
MOST_FILE_BYTES = MOST_BYTES


@dataclass(frozen=True)
class PictureFacts:
    """A picture among the files: it may also go to a bench of its own."""

    width: int
    height: int
    distinct: int


@dataclass(frozen=True)
class Looked:
    """What was found in a file: at least one reading."""

    name: str
    readings: tuple[Reading, ...]
    picture: PictureFacts | None
    text: str = ""
    """What a text file says, as its readers were given it."""


def _reduced(data: bytes, name: str, colors: int) -> tuple[Reading, PictureFacts]:
    picture = read_picture(data, name, MOST_PIXELS)
    distinct = count_distinct(picture.rgba, 1)
    recipe = ReduceRecipe(colors=colors)
    reduction = reduce_picture(scale_down(picture.rgba, PREVIEW_PIXELS), recipe)
    title = clean_name(name.rsplit(".", 1)[0][:200]) or "Untitled"
    palette = adopt(Palette(title), reduction, recipe, name).palette
    note = f"{len(palette.swatches)} colors chosen by perceptual split out of {distinct:,}."
    found = Found(palette, (note, *picture.notes))
    return Reading(None, found), PictureFacts(picture.width, picture.height, distinct)


def read_file(data: bytes, name: str, colors: int, columns: Sequence[str] = ()) -> Looked:
    """Read a file by its contents. A picture is also offered reduced to `colors`; a table is read by the meanings of its columns
    where they are chosen. Raises `BadFile`, `TooLarge` or `Unknown`."""
    if len(data) > MOST_FILE_BYTES:
        raise TooLarge(f"“{name}” has more than {MOST_FILE_BYTES // 1048576} MB, the most that can be taken.")
    if not is_picture(data):
        readings = tuple(read_palettes(data, name) if not columns else by_columns(data, name, columns))
        if not any(reading.format and reading.format.is_text for reading in readings) or len(data) > MOST_TEXT_BYTES:
            return Looked(name, readings, None)
        text = decode_text(data)
        return Looked(name, tuple(marked(reading, text) for reading in readings), None, text)
    with GATE.enter(pixels_of(data, name) * DECODING_BYTES):
        reduced, facts = _reduced(data, name, colors)
    try:
        own = read_palettes(data, name)
    except BadFile:
        own = []
    except HuvrenError as error:
        raise BadFile(f"“{name}” cannot be read. {error}") from error
    return Looked(name, (*own, reduced) if facts.distinct > colors or not own else tuple(own), facts)
