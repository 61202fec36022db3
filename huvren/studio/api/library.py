"""The whole shelf: favorites, copies, and the archive out and in."""

from uuid import UUID

from django.http import FileResponse, HttpRequest, HttpResponse
from ninja import File, Router, Status
from ninja.files import UploadedFile
from pydantic import BaseModel, Field

from huvren.core.errors import BadFile, Unknown
from huvren.studio.api.palette_out import PaletteOut, palette_out
from huvren.studio.models import Palette, Picture
from huvren.studio.services import archives, library

router = Router(tags=["library"])


class FavoriteIn(BaseModel):
    favorite: bool


class ArchiveTaken(BaseModel):
    palettes: int
    pictures: int
    recipes: int
    known: int = Field(description="palettes and pictures that were on the shelf already")


@router.put("/{kind}/{object_id}/favorite", response={204: None})
def set_favorite(request: HttpRequest, kind: str, object_id: UUID, payload: FavoriteIn) -> Status[None]:
    """Mark a palette or a picture as a favorite."""
    models: dict[str, type[Palette] | type[Picture]] = {"palettes": Palette, "pictures": Picture}
    if kind not in models:
        raise Unknown(f"There is nothing called “{kind[:30]}” on a shelf.")
    library.set_favorite(request.user, models[kind], object_id, payload.favorite)
    return Status(204, None)


@router.post("/palettes/{palette_id}/duplicate", response={201: PaletteOut})
def duplicate(request: HttpRequest, palette_id: UUID) -> HttpResponse:
    """A copy of a palette."""
    state = library.duplicate(request.user, palette_id)
    return HttpResponse(palette_out(state).model_dump_json(), content_type="application/json", status=201)


@router.get("/archive")
def archive(request: HttpRequest) -> FileResponse:
    """Everything on the shelf as one zip."""
    return FileResponse(archives.write_archive(request.user), as_attachment=True, filename="Huvren library.zip")


@router.post("/archive", response=ArchiveTaken)
def take_archive(request: HttpRequest, file: File[UploadedFile]) -> ArchiveTaken:
    """Bring an archive in. What is on the shelf already is not doubled."""
    if file.file is None:
        raise BadFile("There is no file in that request.")
    taken = archives.take_archive(request.user, file.file)
    return ArchiveTaken(palettes=taken.palettes, pictures=taken.pictures, recipes=taken.recipes, known=taken.known)
