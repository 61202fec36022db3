"""The shelf: cards of everything that the artist may see, and the trash."""

from datetime import datetime
from typing import Literal
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from ninja import Query, Router
from pydantic import BaseModel, Field
from pydantic_core import to_json

from huvren.core.bounded import Bounded
from huvren.core.errors import BadInput
from huvren.studio.access import find
from huvren.studio.models import Palette
from huvren.studio.services.shelf import library, pages

router = Router(tags=["shelf"])
MOST_NAMED = 100
MOST_MOVED = 20_000
"""Of a kind, into the trash in one request."""


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


class PageOut(BaseModel):
    """A page of cards."""

    next: str | None = Field(description="where the next page begins, for `cursor`; null where this is the last one")
    found: int = Field(description="cards that the search finds")
    all: int = Field(description="cards that there are in all")


class PalettePage(PageOut):
    cards: list[PaletteCard]


class RampPage(PageOut):
    cards: list[RampCard]


class PicturePage(PageOut):
    cards: list[PictureCard]


class FoundIds(BaseModel):
    palettes: list[UUID]
    pictures: list[UUID]


class Looking(Bounded):
    """What is looked for among the cards of a kind, and which page of it."""

    q: str = Field("", max_length=300, description="words, `tag:press`, `near #c48a3a within 5`, `>20`, `favorite`")
    sort: Literal["newest", "name", "count", "latest"] = Field(
        "newest", description="favorites stand before the others, but for `latest`"
    )
    trash: bool = False
    cursor: str = Field("", max_length=2000, description="`next` of the page before")
    limit: int = Field(60, ge=1, le=200)


def _page(request: HttpRequest, kind: str, looking: Looking) -> HttpResponse:
    found = pages.page(
        request.user, kind, search=looking.q, sorting=looking.sort, trash=looking.trash, after=looking.cursor, limit=looking.limit
    )
    # Written here at once: checking each card again would take longer than finding it.
    return HttpResponse(to_json(found), content_type="application/json")


def _pages_of(cards: list[pages.Card]) -> HttpResponse:
    return HttpResponse(to_json(pages.Page(cards, None, len(cards), len(cards))), content_type="application/json")


class RemovedOut(BaseModel):
    """How much was removed for good."""

    palettes: int
    pictures: int


@router.get("/shelf/palettes", response=PalettePage)
def palettes(request: HttpRequest, looking: Query[Looking]) -> HttpResponse:
    """A page of the palettes that the artist may see: favorites first, or the nearest where a color is looked for."""
    return _page(request, "palettes", looking)


@router.get("/shelf/ramps", response=RampPage)
def ramps(request: HttpRequest, looking: Query[Looking]) -> HttpResponse:
    """A page of the ramps that palettes keep."""
    return _page(request, "ramps", looking)


@router.get("/shelf/pictures", response=PicturePage)
def pictures(request: HttpRequest, looking: Query[Looking]) -> HttpResponse:
    """A page of the pictures."""
    return _page(request, "pictures", looking)


class Naming(Bounded):
    """Cards by their ids."""

    ids: str = Field(max_length=4000, description="at most 100 ids, parted by commas")

    @property
    def keys(self) -> list[UUID]:
        """Raises `BadInput`."""
        words = self.ids.split(",")
        if len(words) > MOST_NAMED:
            raise BadInput(f"At most {MOST_NAMED} cards are fetched at once, and {len(words)} were named.")
        try:
            return [UUID(word) for word in filter(None, words)]
        except ValueError:
            raise BadInput("One of these is no id of a card.") from None


@router.get("/shelf/palettes/named", response=PalettePage)
def palettes_named(request: HttpRequest, naming: Query[Naming]) -> HttpResponse:
    """The palettes of these ids that are on the shelf."""
    return _pages_of(pages.named(request.user, "palettes", naming.keys))


@router.get("/shelf/pictures/named", response=PicturePage)
def pictures_named(request: HttpRequest, naming: Query[Naming]) -> HttpResponse:
    """The pictures of these ids that are on the shelf."""
    return _pages_of(pages.named(request.user, "pictures", naming.keys))


@router.get("/shelf/palettes/{palette_id}/ramps", response=RampPage)
def ramps_of_palette(request: HttpRequest, palette_id: UUID) -> HttpResponse:
    """The ramps that a palette keeps."""
    find(request.user, Palette, palette_id)
    return _pages_of(pages.ramps_of(request.user, palette_id))


class Finding(Bounded):
    """What is looked for among all cards."""

    q: str = Field("", max_length=300)
    trash: bool = False


@router.get("/shelf/ids", response=FoundIds)
def found_ids(request: HttpRequest, finding: Query[Finding]) -> HttpResponse:
    """The ids of all palettes and pictures that are looked for, to do something with all of them."""
    found = {kind: pages.ids(request.user, kind, search=finding.q, trash=finding.trash) for kind in ("palettes", "pictures")}
    return HttpResponse(to_json(found), content_type="application/json")


class Moving(Bounded):
    """Cards that go into the trash together, or out of it."""

    palettes: list[UUID] = Field([], max_length=MOST_MOVED)
    pictures: list[UUID] = Field([], max_length=MOST_MOVED)
    trashed: bool = Field(description="into the trash; else out of it")


@router.put("/shelf/trashed", response=FoundIds)
def set_trashed(request: HttpRequest, payload: Moving) -> FoundIds:
    """Put cards into the trash together, or take them out. Tells which of them are now there; what is not on your shelf is not."""
    moved = library.set_trashed(request.user, {"palettes": payload.palettes, "pictures": payload.pictures}, payload.trashed)
    return FoundIds(palettes=moved["palettes"], pictures=moved["pictures"])


@router.delete("/trash", response=RemovedOut)
def empty_trash(request: HttpRequest) -> RemovedOut:
    """Remove for good what is in the trash. A picture that a palette on the shelf still paints stays."""
    removed = library.empty_trash(request.user)
    return RemovedOut(palettes=removed.palettes, pictures=removed.pictures)
