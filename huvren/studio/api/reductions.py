"""Reductions: the live preview, keeping one, and what linked pictures look like."""

import gzip
from base64 import b64encode
from uuid import UUID

from django.http import HttpRequest, HttpResponse, JsonResponse
from ninja import Router
from pydantic import BaseModel, Field

from huvren.core.bounded import Bounded
from huvren.core.errors import BadInput, Unknown
from huvren.core.pictures import encode_gray, encode_rgb
from huvren.core.reduction.recipe import ReduceRecipe
from huvren.core.reduction.reduce import Reduction
from huvren.studio.access import find
from huvren.studio.api.jobs import JobOut
from huvren.studio.api.parts import rates
from huvren.studio.api.parts.answers import Change, answer, answer_or_job
from huvren.studio.api.parts.media import of_media
from huvren.studio.api.parts.palette_out import FiguresOut, GroupOut, PaletteOut, SwatchOut, groups_out, swatches_out
from huvren.studio.models import IndexMap, Palette
from huvren.studio.services.bench import reductions
from huvren.studio.services.shelf.links import coverage_of, painted

router = Router(tags=["reductions"])


class FiguresNowOut(FiguresOut):
    bytes: int | None


class ProposalOut(BaseModel):
    """Precedes the index bytes in the answer to a preview."""

    swatches: list[SwatchOut]
    groups: list[GroupOut]
    table: list[str | None]
    width: int
    height: int
    figures: FiguresOut
    notes: list[str]
    worst_tiles: list[list[float]]
    tile_map: str = Field(description="a gray PNG in base64, a pixel a tile: what the tile limit cost; empty without one")
    is_full: bool = Field(description="false where the preview was made on a smaller copy, or quickly, as others wait")
    revision: int
    sentence: str


class SizeOut(BaseModel):
    bytes: int | None


class CurveOut(BaseModel):
    counts: list[int]
    mean: list[float]
    p95: list[float]
    distinct: int
    knee: int | None


class ErrorMapIn(Bounded):
    """Of a recipe that is tried out, or null for the picture as it is kept."""

    recipe: ReduceRecipe | None = None
    kind: reductions.MapKind = Field(default="pixels", description="pixels one by one, or what is seen of them from afar")


class PreviewIn(Bounded):
    picture: UUID
    recipe: ReduceRecipe


class PieceIn(Bounded):
    recipe: ReduceRecipe


class ReductionIn(Change):
    picture: UUID
    recipe: ReduceRecipe


def _figures(reduction: Reduction) -> FiguresOut:
    return FiguresOut(**reductions.figures_of(reduction))


@router.post(
    "/{palette_id}/previews", response=ProposalOut, throttle=rates.PREVIEWS, openapi_extra=of_media("application/octet-stream")
)
def preview(request: HttpRequest, palette_id: UUID, payload: PreviewIn) -> HttpResponse:
    """What keeping the recipe would give.

    The answer is framed: a little-endian uint32 length, a JSON `ProposalOut` of that length, then width·height index
    bytes. Raw bytes need no decoding in the browser, which paints them through the table at once.
    """
    state, proposed = reductions.preview(request.user, palette_id, payload.picture, payload.recipe)
    reduction, adopted = proposed.reduction, proposed.adopted
    height, width = reduction.indices.shape
    beside = reductions.links_beside(state, adopted.palette, payload.picture)
    # Where several pictures are linked, each counts by its own pixels, whatever scale this one is previewed at.
    scale = proposed.pixels / max(height * width, 1)
    tried = (list(adopted.table), (reduction.figures.counts[: len(adopted.table)] * scale).tolist())
    head = ProposalOut(
        swatches=swatches_out(adopted.palette, coverage_of([tried, *painted(beside)])),
        groups=groups_out(adopted.palette), table=list(adopted.table), width=width, height=height,
        figures=_figures(reduction), notes=list(reduction.notes),
        worst_tiles=[list(tile) for tile in reductions.worst_tiles(reduction)],
        tile_map=b64encode(reductions.tile_picture(reduction)).decode(),
        is_full=proposed.is_full,
        revision=state.row.head, sentence=proposed.sentence,
    ).model_dump_json().encode()  # fmt: skip
    body = len(head).to_bytes(4, "little") + head + reduction.indices.tobytes()
    return HttpResponse(body, content_type="application/octet-stream", headers={"Cache-Control": "no-store"})


@router.post("/{palette_id}/previews/size", response=SizeOut)
def preview_size(request: HttpRequest, palette_id: UUID, payload: PreviewIn) -> SizeOut:
    """Size of the file that keeping the recipe would deliver; null where the picture is previewed smaller."""
    _, proposed = reductions.preview(request.user, palette_id, payload.picture, payload.recipe)
    return SizeOut(bytes=reductions.proposed_size(proposed))


@router.post("/{palette_id}/reductions", response={200: PaletteOut, 202: JobOut})
def keep(request: HttpRequest, palette_id: UUID, payload: ReductionIn) -> HttpResponse:
    """Reduce at full size and keep the result as one step; of a large picture, as a job."""
    outcome = reductions.keep_or_start(request.user, palette_id, payload.base, payload.picture, payload.recipe, payload.once)
    return answer_or_job(outcome)


@router.get("/{palette_id}/maps/{map_id}", openapi_extra=of_media("application/octet-stream"))
def index_map(request: HttpRequest, palette_id: UUID, map_id: UUID) -> HttpResponse:
    """The index bytes of a linked picture, row by row; they never change."""
    find(request.user, Palette, palette_id)
    row = find(request.user, IndexMap, map_id)
    data = bytes(row.data)
    headers = {"Cache-Control": "private, max-age=31536000, immutable"}
    if "gzip" in request.headers.get("Accept-Encoding", ""):
        headers["Content-Encoding"] = "gzip"
    else:
        data = gzip.decompress(data)
    return HttpResponse(data, content_type="application/octet-stream", headers=headers)


@router.get("/{palette_id}/maps/{map_id}/tiles", openapi_extra=of_media("image/png"))
def tiles(request: HttpRequest, palette_id: UUID, map_id: UUID) -> HttpResponse:
    """A gray PNG, a pixel a tile: black where a tile limit cost nothing, white where it cost ΔE 5 on average or more."""
    find(request.user, Palette, palette_id)
    row = find(request.user, IndexMap, map_id)
    if not row.tiles:
        raise Unknown("This picture was reduced without a tile limit.")
    headers = {"Cache-Control": "private, max-age=31536000, immutable"}
    return HttpResponse(bytes(row.tiles), content_type="image/png", headers=headers)


@router.get("/{palette_id}/pictures/{picture_id}/figures", response=FiguresNowOut)
def figures(request: HttpRequest, palette_id: UUID, picture_id: UUID) -> FiguresNowOut:
    """Measured now, with the palette as it stands."""
    return FiguresNowOut(**reductions.figures_now(request.user, palette_id, picture_id))


@router.get("/{palette_id}/pictures/{picture_id}/curve", response=CurveOut)
def curve(request: HttpRequest, palette_id: UUID, picture_id: UUID) -> CurveOut:
    """The error of the undithered picture for 2 to 256 colors."""
    find(request.user, Palette, palette_id)
    found = reductions.curve_of(request.user, picture_id)
    return CurveOut(counts=list(found.counts), mean=list(found.mean), p95=list(found.p95), distinct=found.distinct, knee=found.knee)


@router.post("/{palette_id}/pictures/{picture_id}/unlink", response=PaletteOut)
def unlink(request: HttpRequest, palette_id: UUID, picture_id: UUID, payload: Change) -> HttpResponse:
    """Take a picture off the palette, as one step; it stays on the shelf."""
    return answer(reductions.unlink(request.user, palette_id, payload.base, picture_id, payload.once))


@router.post(
    "/{palette_id}/pictures/{picture_id}/piece", throttle=rates.PREVIEWS, openapi_extra=of_media("image/png", "application/json")
)
def piece(request: HttpRequest, palette_id: UUID, picture_id: UUID, payload: PieceIn) -> HttpResponse:
    """A PNG of a small piece of the picture as a recipe would paint it: what a choice does, shown beside its name.

    A choice that this picture does not allow is a choice still: the answer is JSON then, and says why as its `problem`.
    """
    try:
        rgb = reductions.piece_of(request.user, palette_id, picture_id, payload.recipe)
    except BadInput as problem:
        return JsonResponse({"problem": str(problem)})
    return HttpResponse(encode_rgb(rgb), content_type="image/png", headers={"Cache-Control": "no-store"})


@router.post("/{palette_id}/pictures/{picture_id}/errors", openapi_extra=of_media("image/png"))
def errors(request: HttpRequest, palette_id: UUID, picture_id: UUID, payload: ErrorMapIn) -> HttpResponse:
    """A gray PNG: black where the result is right, white where it is off by ΔE 20 or more, from afar by ΔE 5 or more."""
    gray = reductions.errors_of(request.user, palette_id, picture_id, payload.recipe, payload.kind)
    return HttpResponse(encode_gray(gray), content_type="image/png", headers={"Cache-Control": "no-store"})
