"""Deliveries: files of a palette, and the keep report before them."""

from urllib.parse import quote
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from ninja import Router
from pydantic import BaseModel, Field

from huvren.core.bounded import Bounded
from huvren.core.errors import BadInput
from huvren.studio.api.parts.media import of_media
from huvren.studio.services.files import deliveries
from huvren.studio.services.shelf import palettes

router = Router(tags=["deliveries"])
LONGEST_PREVIEW = 4000


class DeliveryIn(Bounded):
    """`ids` for some swatches alone; options as the format lists them."""

    ids: list[str] | None = None
    options: dict[str, str] = {}
    picture: UUID | None = None
    variants: list[str] = Field(default=[], max_length=64, description="ids of those that are wanted; none for the one that is shown")
    joined: bool = Field(default=False, description="several variants in one file, where the format can; else a zip of files")

    def wish(self) -> deliveries.Wish:
        return deliveries.Wish(self.ids, self.options, self.picture, self.variants, self.joined)


class LossOut(BaseModel):
    code: str
    text: str
    count: int
    worst: float | None
    mean: float | None = None


class DeliveryOut(BaseModel):
    """The keep report, and the beginning of the file where it is text."""

    losses: list[LossOut]
    problem: str | None
    bytes: int | None
    count: int
    text: str | None
    name: str = Field(description="of the file, with its ending")
    files: int = Field(description="how many are packed together; 1 for a plain file")


def attachment(name: str, ending: str) -> str:
    plain = "".join(c if c.isascii() and (c.isalnum() or c in " -_.()") else "-" for c in name).strip(" .") or "palette"
    return f"attachment; filename=\"{plain}{ending}\"; filename*=UTF-8''{quote(name, safe='')}{ending}"


def _file(delivery: deliveries.Delivery, name: str) -> HttpResponse:
    if delivery.data is None:
        raise BadInput(delivery.problem or "The file cannot be written.")
    headers = {"Content-Disposition": attachment(name, _ending(delivery)), "Cache-Control": "no-store"}
    media_type = "application/zip" if delivery.files > 1 else delivery.format.media_type
    return HttpResponse(delivery.data, content_type=media_type, headers=headers)


def _ending(delivery: deliveries.Delivery) -> str:
    return ".zip" if delivery.files > 1 else delivery.format.endings[0]


@router.get("/{palette_id}/files/{format_id}", openapi_extra=of_media("*/*"))
def whole_file(request: HttpRequest, palette_id: UUID, format_id: str, picture: UUID | None = None) -> HttpResponse:
    """The whole palette, or a picture painted with it, as a file."""
    state = palettes.get_state(request.user, palette_id)
    wish = deliveries.Wish(picture=picture)
    return _file(deliveries.deliver(state, format_id, wish), deliveries.file_name(state.palette, format_id, wish))


@router.post("/{palette_id}/files/{format_id}", openapi_extra=of_media("*/*"))
def file(request: HttpRequest, palette_id: UUID, format_id: str, payload: DeliveryIn) -> HttpResponse:
    """The palette or some of its swatches as a file, with the format's options."""
    state = palettes.get_state(request.user, palette_id)
    wish = payload.wish()
    return _file(deliveries.deliver(state, format_id, wish), deliveries.file_name(state.palette, format_id, wish))


@router.post("/{palette_id}/files/{format_id}/report", response=DeliveryOut)
def report(request: HttpRequest, palette_id: UUID, format_id: str, payload: DeliveryIn) -> DeliveryOut:
    """The keep report before downloading, and the beginning of a text file after its fixed first lines."""
    state = palettes.get_state(request.user, palette_id)
    wish = payload.wish()
    made = deliveries.deliver(state, format_id, wish)
    text = None
    if made.data is not None and made.format.is_text and made.files == 1:
        text = made.data.decode().replace("\r\n", "\n").split("\n", made.format.fixed_lines)[-1][:LONGEST_PREVIEW]
    return DeliveryOut(
        losses=[LossOut(code=loss.code, text=loss.text, count=loss.count, worst=loss.worst, mean=loss.mean) for loss in made.losses],
        problem=made.problem, bytes=None if made.data is None else len(made.data), count=made.count, text=text,
        name=deliveries.file_name(state.palette, format_id, wish) + _ending(made), files=made.files,
    )  # fmt: skip
