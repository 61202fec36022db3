"""The shelf: cards of everything that the artist may see, and the trash."""

from datetime import datetime
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from ninja import Query, Router
from pydantic import BaseModel, Field
from pydantic_core import to_json

from huvren.studio.services.shelf import library

router = Router(tags=["shelf"])


class PaletteCard(BaseModel):
    id: UUID
    name: str
    updated: datetime
    trashed: bool
    strip: str = Field(description="the first swatches, at most 64, as rrggbbaa one after the other")
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


class RampCard(BaseModel):
    """A ramp that a palette keeps."""

    id: str
    palette: UUID
    palette_name: str
    updated: datetime
    name: str
    tags: list[str]
    strip: str = Field(description="64 colors, rrggbbaa one after the other")
    near: float | None = Field(description="ΔEOK×100 from the color asked for to its nearest step")


class ShelfOut(BaseModel):
    palettes: list[PaletteCard]
    ramps: list[RampCard]
    pictures: list[PictureCard]


class RemovedOut(BaseModel):
    """How much was removed for good."""

    palettes: int
    pictures: int


@router.get("/shelf", response=ShelfOut)
def shelf(request: HttpRequest, trash: bool = False, near: str = "") -> HttpResponse:
    """Everything the artist may see, newest first, or what is in the trash; `near` asks how near each palette is to a color."""
    found = library.shelf(request.user, trash=trash, near=near)
    # Written here at once: checking two thousand cards again would take longer than finding them.
    cards = {
        "palettes": [card | {"trashed": trash} for card in found.palettes],
        "ramps": found.ramps,
        "pictures": [card | {"trashed": trash} for card in found.pictures],
    }
    return HttpResponse(to_json(cards), content_type="application/json")


class HoldingOut(BaseModel):
    """A word of a search, and the palettes that have a swatch whose name holds it."""

    word: str
    palettes: list[UUID]


@router.get("/shelf/holding", response=list[HoldingOut])
def holding(request: HttpRequest, words: Query[list[str]], trash: bool = False) -> list[HoldingOut]:
    """Which palettes have swatches whose names hold the words of a search."""
    found = library.holding(request.user, words, trash=trash)
    return [HoldingOut(word=word, palettes=palettes) for word, palettes in found.items()]


@router.delete("/trash", response=RemovedOut)
def empty_trash(request: HttpRequest) -> RemovedOut:
    """Remove for good what is in the trash. A picture that a palette on the shelf still paints stays."""
    removed = library.empty_trash(request.user)
    return RemovedOut(palettes=removed.palettes, pictures=removed.pictures)
