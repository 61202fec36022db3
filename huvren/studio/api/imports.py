"""Imports: look into a file. Nothing is stored; the palettes found are sent back to be brought in by an operation."""

from collections.abc import Sequence
from typing import Any

from django.http import HttpRequest, HttpResponse
from ninja import File, Form, Router
from ninja.files import UploadedFile
from pydantic import BaseModel, Field
from typing_extensions import TypedDict

from huvren.core.errors import TooLarge
from huvren.core.formats import Columns
from huvren.core.formats.text_lists.table_columns import MEANINGS
from huvren.core.palette import values
from huvren.core.palette.document import palette_to_document
from huvren.core.palette.values import clean_name
from huvren.core.reduction.recipe import MOST
from huvren.studio.api.parts import rates
from huvren.studio.api.parts.palette_out import GroupOut, groups_out
from huvren.studio.services.files import imports
from huvren.studio.services.shelf.cards import card_strip, hexes_of

MOST_LETTERS = 200_000
"""Of a text that is shown beside what was found in it."""
MOST_SHOWN = 4_096
router = Router(tags=["imports"])


class FoundSwatchOut(TypedDict):
    """What is shown of a swatch before anything is decided; the document holds the rest."""

    id: str
    name: str
    group: str | None
    hex: str
    alpha: float


class FoundRampOut(BaseModel):
    id: str
    name: str
    strip: str = Field(description="64 colors, rrggbbaa one after the other")


class MeaningOut(BaseModel):
    id: str
    label: str


class ColumnsOut(BaseModel):
    """The columns of a table, to be corrected."""

    head: list[str]
    rows: list[list[str]] = Field(description="the first ones")
    meanings: list[str] = Field(description="of each column; empty where it is left out")
    choices: list[MeaningOut]


class ReadingOut(BaseModel):
    label: str = Field(description="the format it was read as, or “reduction”")
    is_reduction: bool
    title: str
    swatches: list[FoundSwatchOut]
    groups: list[GroupOut]
    ramps: list[FoundRampOut]
    notes: list[str]
    doubts: list[str] = Field(description="by swatch, why it may be no color; empty where it is sure, and where nothing is in doubt")
    areas: list[tuple[int, int, int, int]] = Field(
        description="by swatch, left, top, width and height in pixels of what it was read from; empty where that is no picture"
    )
    marks: list[tuple[int, int]] = Field(
        description="by swatch, begin and end in `text` of what it was read from, in UTF-16 units; empty where there is no text"
    )
    document: dict[str, Any]
    columns: ColumnsOut | None = Field(description="of a table whose columns may be read otherwise")


class PictureFactsOut(BaseModel):
    width: int
    height: int
    distinct: int


class ImportOut(BaseModel):
    name: str
    readings: list[ReadingOut]
    text: str = Field(description="the beginning of a text file, as it was read")
    picture: PictureFactsOut | None


def found_swatches_out(palette: values.Palette) -> list[FoundSwatchOut]:
    """Swatches of a file that was only looked into."""
    codes = hexes_of([swatch.color for swatch in palette.swatches])
    return [
        FoundSwatchOut(id=swatch.id, name=swatch.name, group=swatch.group, hex=code, alpha=swatch.color.alpha)
        for swatch, code in zip(palette.swatches, codes, strict=True)
    ]


def _marks(text: str, marks: Sequence[tuple[int, int]]) -> list[tuple[int, int]]:
    """Places in the letters of a text as places in UTF-16, which a browser counts in."""
    if not marks or all(letter <= "\uffff" for letter in text):
        return list(marks)
    before = [0]
    for letter in text:
        before.append(before[-1] + (2 if letter > "\uffff" else 1))
    return [(before[begin], before[end]) for begin, end in marks]


def _columns(columns: Columns | None) -> ColumnsOut | None:
    if columns is None:
        return None
    choices = [MeaningOut(id=meaning.id, label=meaning.label) for meaning in MEANINGS]
    return ColumnsOut(
        head=list(columns.head), rows=[list(row) for row in columns.rows], meanings=list(columns.meanings), choices=choices
    )


@router.post("", response=ImportOut, throttle=rates.IMPORTS)
def look(request: HttpRequest, file: File[UploadedFile], colors: Form[int] = 16, columns: Form[str] = "") -> HttpResponse:
    """Every way a file can be read as a palette, the likeliest first; `colors` is for pictures that must be reduced,
    `columns` for tables: the meanings of their columns with commas between, empty for one that is left out."""
    name = clean_name((file.name or "The file").replace("\\", "/").rsplit("/", 1)[-1][:200]) or "The file"
    if (file.size or 0) > imports.MOST_FILE_BYTES:
        raise TooLarge(f"“{name}” has more than {imports.MOST_FILE_BYTES // 1048576} MB, the most that can be taken.")
    looked = imports.read_file(file.read(), name, min(max(colors, 2), MOST), columns.split(",") if columns else ())
    readings = []
    for reading in looked.readings:
        palette = reading.found.palette
        document: dict[str, Any] = palette_to_document(palette)
        readings.append(
            ReadingOut(
                label=reading.label, is_reduction=reading.is_reduction, title=palette.name, swatches=found_swatches_out(palette),
                groups=groups_out(palette), notes=list(reading.found.notes), document=document,
                doubts=list(reading.found.doubts) if any(reading.found.doubts) else [], areas=list(reading.found.areas[:MOST_SHOWN]),
                marks=_marks(looked.text, reading.found.marks),
                columns=_columns(reading.found.columns),
                ramps=[FoundRampOut(id=r.id, name=r.name, strip=card_strip(r, palette).hex()) for r in palette.ramps],
            )
        )  # fmt: skip
    picture = looked.picture
    facts = PictureFactsOut(width=picture.width, height=picture.height, distinct=picture.distinct) if picture else None
    answer = ImportOut(name=looked.name, readings=readings, text=looked.text[:MOST_LETTERS], picture=facts)
    return HttpResponse(answer.model_dump_json(), content_type="application/json")
