"""The shelf: cards of everything that the artist may see, and the trash."""

from datetime import datetime
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from ninja import Router
from pydantic import BaseModel, Field

from huvren.studio.services import library
from huvren.studio.services.cards import strip_hexes

router = Router(tags=["shelf"])


class PaletteCard(BaseModel):
    id: UUID
    name: str
    updated: datetime
    trashed: bool
    hexes: list[str]
    count: int
    picture: UUID | None
    favorite: bool
    tags: list[str]
    near: float | None = Field(description="ΔEOK×100 from the color asked for to its nearest swatch")


class PictureCard(BaseModel):
    id: UUID
    name: str
    format: str
    width: int
    height: int
    distinct: int
    created: datetime
    trashed: bool
    favorite: bool
    palettes: list[UUID]


class ShelfOut(BaseModel):
    palettes: list[PaletteCard]
    pictures: list[PictureCard]


class RemovedOut(BaseModel):
    """How much was removed for good."""

    palettes: int
    pictures: int


@router.get("/shelf", response=ShelfOut)
def shelf(request: HttpRequest, trash: bool = False, near: str = "") -> HttpResponse:
    """Everything the artist may see, newest first, or what is in the trash; `near` asks how near each palette is to a color."""
    found = library.shelf(request.user, trash=trash, near=near)
    made = found.palettes_of()
    # Written here at once: checking two thousand cards again would take longer than finding them.
    answer = ShelfOut.model_construct(
        palettes=[
            PaletteCard.model_construct(
                id=row.id, name=row.name, updated=row.updated, trashed=trash, count=row.count, hexes=strip_hexes(row),
                picture=row.painted[0] if row.painted else None, favorite=row.favorite, tags=row.tags, near=found.near.get(row.id),
            )
            for row in found.palettes
        ],
        pictures=[
            PictureCard.model_construct(
                id=row.id, name=row.name, format=row.format, width=row.width, height=row.height, distinct=row.distinct,
                created=row.created, trashed=trash, favorite=row.favorite, palettes=made.get(str(row.id), []),
            )
            for row in found.pictures
        ],
    )  # fmt: skip
    return HttpResponse(answer.model_dump_json(warnings=False), content_type="application/json")


@router.delete("/trash", response=RemovedOut)
def empty_trash(request: HttpRequest) -> RemovedOut:
    """Remove for good what is in the trash. A picture that a palette on the shelf still paints stays."""
    removed = library.empty_trash(request.user)
    return RemovedOut(palettes=removed.palettes, pictures=removed.pictures)
