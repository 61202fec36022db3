"""Palettes: operations, history, reductions, delivery."""

import gzip
from base64 import b64encode
from dataclasses import replace
from urllib.parse import quote
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from ninja import Router, Status

from huvren.core.color.notation import parse_colors
from huvren.core.errors import BadInput, Unknown
from huvren.core.palette import values
from huvren.core.palette.clusters import merge_tree
from huvren.core.palette.matching import match
from huvren.core.palette.operations.add import AddSwatches
from huvren.core.palette.operations.bring_in import BringIn
from huvren.core.palette.selecting import select
from huvren.core.palette.values import clean_name
from huvren.core.pictures import encode_gray
from huvren.core.reduction.recipe import ReduceRecipe
from huvren.studio.api.schemas import (
    Change,
    CurveOut,
    DeliveryIn,
    DeliveryOut,
    DocumentOut,
    ErrorMapIn,
    FiguresNowOut,
    FiguresOut,
    GoTo,
    JobOut,
    JoinOut,
    LossOut,
    MatchesOut,
    MatchIn,
    MatchOut,
    MergeTreeIn,
    MergeTreeOut,
    OperationIn,
    PaletteIn,
    PaletteOut,
    PreviewIn,
    ProposalOut,
    ReductionIn,
    SelectIn,
    SelectOut,
    SizeOut,
    StepOut,
    StepPreviewIn,
    StepProposalOut,
    TableOut,
    groups_out,
    job_out,
    palette_out,
    swatches_out,
)
from huvren.studio.models import IndexMap, Job, Palette
from huvren.studio.services import deliveries, get_owned, library, palettes, reductions
from huvren.studio.services.links import coverage_of, picture_change, pixels_per_swatch

router = Router(tags=["palettes"])


LONGEST_PREVIEW = 4000
MOST_DRAWN_TREE = 512


def answer(state: palettes.State, status: int = 200) -> HttpResponse:
    """A palette as JSON; written here at once, as checking our own answer again would double the time of an edit."""
    return HttpResponse(palette_out(state).model_dump_json(), content_type="application/json", status=status)


def answer_or_job(outcome: palettes.State | Job, status: int = 200) -> HttpResponse:
    """A palette, or 202 with the job that will change it."""
    if isinstance(outcome, Job):
        return HttpResponse(job_out(outcome).model_dump_json(), content_type="application/json", status=202)
    return answer(outcome, status)


@router.post("", response={201: PaletteOut, 202: JobOut})
def create(request: HttpRequest, payload: PaletteIn) -> HttpResponse:
    """A new palette: from a picture, from typed colors, or empty."""
    if payload.picture is not None:
        outcome = reductions.create_or_start(request.user, payload.picture, payload.recipe or ReduceRecipe())
        return answer_or_job(outcome, 201)
    palette = values.Palette(clean_name(payload.name or "", "palette name") or "Untitled")
    label = "Begin an empty palette"
    if payload.document is not None:
        step = BringIn(document=payload.document, source=payload.source or "a file")
        found = values.palette_from_document(payload.document)
        name = clean_name(payload.name or found.name, "palette name") or "Untitled"
        step.apply(values.Palette(name))  # says what is wrong, if anything is
        palette, label = replace(found, name=name), step.label(found).replace("Append", "Begin with", 1)
    elif payload.text:
        palette = AddSwatches(text=payload.text).apply(palette).palette
        label = f"Begin with {len(parse_colors(payload.text))} typed colors"
    state = palettes.create(request.user, palette, label)
    return answer(state, 201)


@router.get("/{palette_id}", response=PaletteOut)
def show(request: HttpRequest, palette_id: UUID) -> HttpResponse:
    return answer(palettes.get_state(request.user, palette_id))


@router.delete("/{palette_id}", response={204: None})
def trash(request: HttpRequest, palette_id: UUID) -> Status[None]:
    """Into the trash."""
    palettes.set_trashed(request.user, Palette, palette_id, True)
    return Status(204, None)


@router.post("/{palette_id}/restore", response={204: None})
def restore(request: HttpRequest, palette_id: UUID) -> Status[None]:
    """Out of the trash again."""
    palettes.set_trashed(request.user, Palette, palette_id, False)
    return Status(204, None)


@router.post("/{palette_id}/operations", response=PaletteOut)
def operate(request: HttpRequest, palette_id: UUID, payload: OperationIn) -> HttpResponse:
    """Apply one operation. 409 with the present palette when `base` is not its head."""
    return answer(palettes.apply(request.user, palette_id, payload.base, payload.operation))


@router.post("/{palette_id}/operations/preview", response=StepProposalOut)
def preview_operation(request: HttpRequest, palette_id: UUID, payload: StepPreviewIn) -> HttpResponse:
    """What one operation would give; nothing is stored."""
    proposed = palettes.propose(palettes.get_state(request.user, palette_id), payload.operation)
    before = proposed.state
    change = picture_change(before.revision.links, before.palette, proposed.palette, proposed.links)
    head = StepProposalOut(
        swatches=swatches_out(proposed.palette, coverage_of(proposed.links)), groups=groups_out(proposed.palette),
        tables=[TableOut(picture=link["picture"], table=link["table"]) for link in proposed.links],
        change_mean=change[0] if change else None, change_max=change[1] if change else None,
        successors=dict(proposed.successors), slots=proposed.palette.slots, columns=proposed.palette.columns,
        revision=proposed.state.row.head, sentence=proposed.label,
        changes=proposed.palette != proposed.state.palette,
    )  # fmt: skip
    return HttpResponse(head.model_dump_json(), content_type="application/json")


@router.post("/{palette_id}/selection", response=SelectOut)
def select_by_rule(request: HttpRequest, palette_id: UUID, payload: SelectIn) -> SelectOut:
    """The swatches that a rule chooses."""
    state = palettes.get_state(request.user, palette_id)
    usage = pixels_per_swatch(state.revision.links)[0]
    return SelectOut(ids=select(state.palette, payload.rule, tuple(payload.ids), payload.tolerance, usage))


@router.post("/{palette_id}/merge-tree", response=MergeTreeOut)
def tree(request: HttpRequest, palette_id: UUID, payload: MergeTreeIn) -> MergeTreeOut:
    """How near twins join, from the nearest up, for at most 512 swatches: joins of clusters with their heights."""
    palette = palettes.get_state(request.user, palette_id).palette
    among = list(palette.swatches) if payload.ids is None else palette.pick(payload.ids)
    if len(among) > MOST_DRAWN_TREE:
        raise BadInput(f"The tree is drawn for at most {MOST_DRAWN_TREE} swatches; these are {len(among):,}.")
    pairs, heights = merge_tree(among)
    joins = [
        JoinOut(left=int(left), right=int(right), height=round(float(height), 3))
        for (left, right), height in zip(pairs.tolist(), heights.tolist(), strict=True)
    ]
    return MergeTreeOut(ids=[swatch.id for swatch in among], joins=joins)


@router.get("/{palette_id}/document", response=DocumentOut)
def document(request: HttpRequest, palette_id: UUID, step: int | None = None) -> DocumentOut:
    """The lossless document of the palette as it is, or at a step of its history."""
    return DocumentOut(document=library.revision_document(request.user, palette_id, step))


@router.post("/{palette_id}/match", response=MatchesOut)
def match_with(request: HttpRequest, palette_id: UUID, payload: MatchIn) -> MatchesOut:
    """Each swatch with its nearest in another palette, given as a document."""
    others = values.palette_from_document(payload.document).swatches
    found = match(palettes.get_state(request.user, palette_id).palette.swatches, others)
    return MatchesOut(matches=[
        MatchOut(
            id=m.swatch.id, place=m.place, hex=None if m.place is None else others[m.place].color.hex,
            name=None if m.place is None else others[m.place].name, delta=None if m.place is None else round(m.delta, 3),
        )
        for m in found
    ])  # fmt: skip


@router.post("/{palette_id}/undo", response=PaletteOut)
def undo(request: HttpRequest, palette_id: UUID, payload: Change) -> HttpResponse:
    return answer(palettes.undo(request.user, palette_id, payload.base))


@router.post("/{palette_id}/redo", response=PaletteOut)
def redo(request: HttpRequest, palette_id: UUID, payload: Change) -> HttpResponse:
    return answer(palettes.redo(request.user, palette_id, payload.base))


@router.post("/{palette_id}/go-to", response=PaletteOut)
def go_to(request: HttpRequest, palette_id: UUID, payload: GoTo) -> HttpResponse:
    """Any step of the history."""
    return answer(palettes.move_head(request.user, palette_id, payload.base, payload.number))


@router.get("/{palette_id}/history", response=list[StepOut])
def history(request: HttpRequest, palette_id: UUID) -> list[StepOut]:
    """Every step, newest first."""
    row = get_owned(Palette, request.user, palette_id)
    steps = row.revisions.order_by("-number").values("number", "parent", "label", "created")
    return [StepOut(**step, is_head=step["number"] == row.head) for step in steps]


def _figures(reduction: reductions.Reduction) -> FiguresOut:
    return FiguresOut(**reductions.figures_of(reduction))


@router.post("/{palette_id}/previews", response=ProposalOut)
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
    link = {"table": list(adopted.table), "counts": (reduction.figures.counts[: len(adopted.table)] * scale).tolist()}
    head = ProposalOut(
        swatches=swatches_out(adopted.palette, coverage_of([link, *beside])),
        groups=groups_out(adopted.palette), table=list(adopted.table), width=width, height=height,
        figures=_figures(reduction), notes=list(reduction.notes),
        worst_tiles=reductions.worst_tiles(reduction), tile_map=b64encode(reductions.tile_picture(reduction)).decode(),
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
    outcome = reductions.keep_or_start(request.user, palette_id, payload.base, payload.picture, payload.recipe)
    return answer_or_job(outcome)


@router.get("/{palette_id}/maps/{map_id}")
def index_map(request: HttpRequest, palette_id: UUID, map_id: UUID) -> HttpResponse:
    """The index bytes of a linked picture, row by row; they never change."""
    get_owned(Palette, request.user, palette_id)
    row = IndexMap.objects.filter(pk=map_id, picture__owner=request.user).first()
    if row is None:
        raise BadInput("There is no such index map.")
    data = bytes(row.data)
    headers = {"Cache-Control": "private, max-age=31536000, immutable"}
    if "gzip" in request.headers.get("Accept-Encoding", ""):
        headers["Content-Encoding"] = "gzip"
    else:
        data = gzip.decompress(data)
    return HttpResponse(data, content_type="application/octet-stream", headers=headers)


@router.get("/{palette_id}/maps/{map_id}/tiles")
def tiles(request: HttpRequest, palette_id: UUID, map_id: UUID) -> HttpResponse:
    """A gray PNG, a pixel a tile: black where a tile limit cost nothing, white where it cost ΔE 5 on average or more."""
    get_owned(Palette, request.user, palette_id)
    row = IndexMap.objects.filter(pk=map_id, picture__owner=request.user).only("tiles").first()
    if row is None or not row.tiles:
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
    get_owned(Palette, request.user, palette_id)
    found = reductions.curve_of(request.user, picture_id)
    return CurveOut(counts=list(found.counts), mean=list(found.mean), p95=list(found.p95), distinct=found.distinct, knee=found.knee)


@router.post("/{palette_id}/pictures/{picture_id}/unlink", response=PaletteOut)
def unlink(request: HttpRequest, palette_id: UUID, picture_id: UUID, payload: Change) -> HttpResponse:
    """Take a picture off the palette, as one step; it stays on the shelf."""
    return answer(reductions.unlink(request.user, palette_id, payload.base, picture_id))


@router.post("/{palette_id}/pictures/{picture_id}/errors")
def errors(request: HttpRequest, palette_id: UUID, picture_id: UUID, payload: ErrorMapIn) -> HttpResponse:
    """A gray PNG: black where the result is right, white where it is off by ΔE 20 or more."""
    gray = reductions.errors_of(request.user, palette_id, picture_id, payload.recipe)
    return HttpResponse(encode_gray(gray), content_type="image/png", headers={"Cache-Control": "no-store"})


def _attachment(name: str, ending: str) -> str:
    plain = "".join(c if c.isascii() and (c.isalnum() or c in " -_.()") else "-" for c in name).strip(" .") or "palette"
    return f"attachment; filename=\"{plain}{ending}\"; filename*=UTF-8''{quote(name, safe='')}{ending}"


def _file(delivery: deliveries.Delivery, name: str) -> HttpResponse:
    if delivery.data is None:
        raise BadInput(delivery.problem or "The file cannot be written.")
    headers = {"Content-Disposition": _attachment(name, delivery.format.endings[0]), "Cache-Control": "no-store"}
    return HttpResponse(delivery.data, content_type=delivery.format.media_type, headers=headers)


@router.get("/{palette_id}/files/{format_id}")
def whole_file(request: HttpRequest, palette_id: UUID, format_id: str, picture: UUID | None = None) -> HttpResponse:
    """The whole palette, or a picture painted with it, as a file."""
    state = palettes.get_state(request.user, palette_id)
    return _file(deliveries.deliver(state, format_id, None, {}, picture), state.palette.name)


@router.post("/{palette_id}/files/{format_id}")
def file(request: HttpRequest, palette_id: UUID, format_id: str, payload: DeliveryIn) -> HttpResponse:
    """The palette or some of its swatches as a file, with the format's options."""
    state = palettes.get_state(request.user, palette_id)
    return _file(deliveries.deliver(state, format_id, payload.ids, payload.options, payload.picture), state.palette.name)


@router.post("/{palette_id}/files/{format_id}/report", response=DeliveryOut)
def report(request: HttpRequest, palette_id: UUID, format_id: str, payload: DeliveryIn) -> DeliveryOut:
    """The keep report before downloading, and the beginning of a text file after its fixed first lines."""
    state = palettes.get_state(request.user, palette_id)
    made = deliveries.deliver(state, format_id, payload.ids, payload.options, payload.picture)
    text = None
    if made.data is not None and made.format.is_text:
        text = made.data.decode().replace("\r\n", "\n").split("\n", made.format.fixed_lines)[-1][:LONGEST_PREVIEW]
    return DeliveryOut(
        losses=[LossOut(code=loss.code, text=loss.text, count=loss.count, worst=loss.worst) for loss in made.losses],
        problem=made.problem, bytes=None if made.data is None else len(made.data), count=made.count, text=text,
    )  # fmt: skip
