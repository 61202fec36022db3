"""The whole shelf: favorites, copies, and the archive out and in."""

from uuid import UUID

from django.http import FileResponse, HttpRequest, HttpResponse
from ninja import File, Router, Status
from ninja.files import UploadedFile
from pydantic import BaseModel, Field

from huvren.core.bounded import Bounded
from huvren.core.errors import BadFile, Unknown
from huvren.studio.access import find
from huvren.studio.api.jobs import JobOut, job_out
from huvren.studio.api.parts import rates
from huvren.studio.api.parts.media import of_media
from huvren.studio.api.parts.palette_out import PaletteOut, palette_out
from huvren.studio.models import Job, Kind, Palette, Picture
from huvren.studio.services.files import archives
from huvren.studio.services.shelf import library, references

router = Router(tags=["library"])


class FavoriteIn(Bounded):
    favorite: bool


class ArchiveTaken(BaseModel):
    palettes: int
    pictures: int
    recipes: int
    known: int = Field(description="palettes and pictures that were on the shelf already")


class UseOut(BaseModel):
    """A palette that leads to something."""

    palette: UUID
    name: str
    is_present: bool = Field(description="whether it does now; else only steps of its history do")
    is_in_trash: bool
    last_step: int = Field(description="the number of the last step that does")


@router.get("/{kind}/{object_id}/uses", response=list[UseOut])
def uses(request: HttpRequest, kind: str, object_id: str) -> list[UseOut]:
    """Where a picture, a palette or a kept ramp is used: the palettes that lead to it now, then those whose history does."""
    kinds = {"pictures": (Picture, Kind.PICTURE), "palettes": (Palette, Kind.PALETTE), "ramps": (None, Kind.RAMP)}
    if kind not in kinds:
        raise Unknown(f"There is nothing called “{kind[:30]}” on a shelf.")
    model, of = kinds[kind]
    target = references.target_of(object_id)
    if model is not None:
        find(request.user, model, target)
    found = references.uses_of(request.user, of, target)
    if model is None and not found:
        raise Unknown("There is no such ramp on your shelf. It may have been removed for good.")
    return [UseOut.model_validate(use, from_attributes=True) for use in found]


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


@router.get("/archive", openapi_extra=of_media("application/zip"), throttle=rates.ARCHIVES)
def archive(request: HttpRequest) -> FileResponse:
    """Everything on the shelf as one zip."""
    return FileResponse(archives.write_archive(request.user), as_attachment=True, filename="Huvren library.zip")


@router.post("/archive", response={200: ArchiveTaken, 202: JobOut}, throttle=rates.ARCHIVES)
def take_archive(request: HttpRequest, file: File[UploadedFile]) -> Status[ArchiveTaken] | Status[JobOut]:
    """Bring an archive in; a large one as a job. What is on the shelf already is not doubled."""
    if file.file is None:
        raise BadFile("There is no file in that request.")
    taken = archives.take_or_start(request.user, file.file)
    if isinstance(taken, Job):
        return Status(202, job_out(taken))
    return Status(200, ArchiveTaken(palettes=taken.palettes, pictures=taken.pictures, recipes=taken.recipes, known=taken.known))
