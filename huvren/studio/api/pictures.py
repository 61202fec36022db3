"""Pictures: bring one in, look at it, put it into the trash."""

from uuid import UUID

from django.http import HttpRequest, HttpResponse
from ninja import File, Form, Router, Status
from ninja.files import UploadedFile
from pydantic import BaseModel, Field

from huvren.core.bounded import Bounded
from huvren.core.errors import TooLarge
from huvren.core.palette.naming import suggest_name
from huvren.core.pictures import MOST_BYTES, encode_png
from huvren.core.reduction.recipe import ReduceRecipe
from huvren.core.reduction.views import in_gray
from huvren.core.sampling import Sample, sample_disc, sample_line
from huvren.studio.access import find
from huvren.studio.api.parts import rates
from huvren.studio.api.parts.media import of_media
from huvren.studio.api.parts.palette_out import PictureOut, picture_out
from huvren.studio.models import Picture, StoredBytes
from huvren.studio.services.bench import pictures
from huvren.studio.services.shelf import palettes, recipes

router = Router(tags=["pictures"])


class KindOut(BaseModel):
    hex: str
    share: float


class SampleOut(BaseModel):
    hex: str
    name: str
    pixels: int
    spread: float = Field(description="mean ΔEOK×100 from the mean")
    kinds: list[KindOut] = Field(description="the two kinds of color where the disc is mixed")


class SamplesOut(BaseModel):
    samples: list[SampleOut]


class ProofsIn(Bounded):
    recipes: list[ReduceRecipe]


class ProofsOut(BaseModel):
    recipes: list[ReduceRecipe]


@router.post("", response={201: PictureOut}, throttle=rates.UPLOADS)
def bring_in(request: HttpRequest, file: File[UploadedFile], again: Form[bool] = False) -> Status[PictureOut]:
    """Store a picture of any kind that is read. The size is checked before anything is read.

    `again` where an earlier sending was broken off and may have come through: a picture of the same name and contents that came in
    lately is answered in its place.
    """
    if (file.size or 0) > MOST_BYTES:
        raise TooLarge(
            f"“{(file.name or 'The file')[:80]}” has {(file.size or 0) / 1048576:,.0f} MB; {MOST_BYTES // 1048576} MB is "
            "the most that can be taken. Save it smaller, or as JPEG or WebP."
        )
    name, data = file.name or "Picture", file.read()
    there = pictures.came_lately(request.user, name, data) if again else None
    return Status(201, picture_out(there or pictures.take_in(request.user, name, data)))


@router.get("/{picture_id}", response=PictureOut)
def show(request: HttpRequest, picture_id: UUID) -> PictureOut:
    return picture_out(find(request.user, Picture, picture_id))


def _serve(request: HttpRequest, stored: StoredBytes) -> HttpResponse:
    tag = f'"{stored.sha256}"'
    headers = {
        "Cache-Control": "private, max-age=31536000, immutable",
        "ETag": tag,
        "Content-Security-Policy": "default-src 'none'; sandbox",
    }
    if request.headers.get("If-None-Match") == tag:
        return HttpResponse(status=304, headers=headers)
    return HttpResponse(bytes(stored.data), content_type=stored.media_type, headers=headers)


@router.get("/{picture_id}/image", openapi_extra=of_media("image/png", "image/jpeg", "image/webp", "image/gif"))
def image(request: HttpRequest, picture_id: UUID) -> HttpResponse:
    """The picture in sRGB, upright."""
    return _serve(request, find(request.user, Picture, picture_id).display)


@router.get("/{picture_id}/gray", openapi_extra=of_media("image/png"))
def gray(request: HttpRequest, picture_id: UUID) -> HttpResponse:
    """The picture by lightness alone, at the scale of previews where it is large."""
    picture = find(request.user, Picture, picture_id)
    working = pictures.WORKING.get(picture, preview=True, alpha_threshold=128)
    headers = {"Cache-Control": "private, max-age=86400", "Content-Security-Policy": "default-src 'none'; sandbox"}
    return HttpResponse(encode_png(in_gray(working.rgba), level=1), content_type="image/png", headers=headers)


def _sample_out(sample: Sample) -> SampleOut:
    return SampleOut(
        hex=sample.color.hex, name=suggest_name(sample.color), pixels=sample.pixels,
        spread=round(sample.spread, 3), kinds=[KindOut(hex=color.hex, share=round(share, 4)) for color, share in sample.kinds],
    )  # fmt: skip


@router.get("/{picture_id}/sample", response=SampleOut)
def sample(request: HttpRequest, picture_id: UUID, x: float, y: float, diameter: int = 1) -> SampleOut:
    """The color of a disc around a point, in the picture's own pixels."""
    picture = find(request.user, Picture, picture_id)
    working = pictures.WORKING.get(picture, preview=False, alpha_threshold=128)
    return _sample_out(sample_disc(working.rgba, x, y, diameter))


@router.get("/{picture_id}/samples", response=SamplesOut)
def samples(
    request: HttpRequest, picture_id: UUID, x: float, y: float, to_x: float, to_y: float, count: int = 5, diameter: int = 1
) -> SamplesOut:
    """The colors of discs at even distances along a line."""
    picture = find(request.user, Picture, picture_id)
    working = pictures.WORKING.get(picture, preview=False, alpha_threshold=128)
    return SamplesOut(samples=[_sample_out(s) for s in sample_line(working.rgba, (x, y), (to_x, to_y), count, diameter)])


@router.get("/{picture_id}/thumbnail", openapi_extra=of_media("image/webp"))
def thumbnail(request: HttpRequest, picture_id: UUID) -> HttpResponse:
    """A small copy for the shelf."""
    return _serve(request, find(request.user, Picture, picture_id).thumbnail)


@router.get("/{picture_id}/proofs", response=ProofsOut)
def proofs(request: HttpRequest, picture_id: UUID) -> ProofsOut:
    """The recipes of the picture's proof sheet."""
    return ProofsOut(recipes=recipes.understood(find(request.user, Picture, picture_id).proofs))


@router.put("/{picture_id}/proofs", response=ProofsOut)
def set_proofs(request: HttpRequest, picture_id: UUID, payload: ProofsIn) -> ProofsOut:
    """Save the proof sheet with the picture."""
    return ProofsOut(recipes=recipes.understood(recipes.set_proofs(request.user, picture_id, payload.recipes).proofs))


@router.delete("/{picture_id}", response={204: None})
def trash(request: HttpRequest, picture_id: UUID) -> Status[None]:
    """Into the trash. Palettes made from it keep painting it."""
    palettes.set_trashed(request.user, Picture, picture_id, True)
    return Status(204, None)


@router.post("/{picture_id}/restore", response={204: None})
def restore(request: HttpRequest, picture_id: UUID) -> Status[None]:
    """Out of the trash again."""
    palettes.set_trashed(request.user, Picture, picture_id, False)
    return Status(204, None)
