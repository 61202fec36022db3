"""Palettes: making them, operations, history."""

from dataclasses import replace
from datetime import datetime
from typing import Any
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from ninja import Router, Status
from pydantic import BaseModel, Field

from huvren.core.bounded import Bounded
from huvren.core.color.typed import LONGEST_TEXT
from huvren.core.errors import BadInput
from huvren.core.palette import values
from huvren.core.palette.clusters import merge_tree
from huvren.core.palette.document import palette_from_document
from huvren.core.palette.matching import match
from huvren.core.palette.operations.add import AddSwatches
from huvren.core.palette.operations.bring_in import BringIn
from huvren.core.palette.operations.every import AnyOperation
from huvren.core.palette.selecting import select
from huvren.core.palette.values import clean_name
from huvren.core.reduction.recipe import ReduceRecipe
from huvren.studio.access import find
from huvren.studio.api.jobs import JobOut
from huvren.studio.api.parts.answers import Change, answer, answer_or_job
from huvren.studio.api.parts.palette_out import GroupOut, PaletteOut, SwatchOut, groups_out, swatches_out
from huvren.studio.models import Palette
from huvren.studio.services.bench import reductions
from huvren.studio.services.files import archives
from huvren.studio.services.shelf import palettes
from huvren.studio.services.shelf.links import coverage_of, painted, picture_change, usage_of

router = Router(tags=["palettes"])
MOST_DRAWN_TREE = 512


class TableOut(BaseModel):
    """What the indices of a linked picture mean after a proposed step."""

    picture: UUID
    table: list[str | None]


class StepProposalOut(BaseModel):
    """What an operation would give: the strip after it, and which swatch takes over from which."""

    swatches: list[SwatchOut]
    groups: list[GroupOut]
    tables: list[TableOut]
    successors: dict[str, str]
    slots: int | None
    columns: int | None
    change_mean: float | None = Field(description="mean ΔEOK×100 that the linked pictures' pixels change by")
    change_max: float | None
    revision: int
    sentence: str
    manner: str = Field(description="the part of the sentence that says how, where it has one")
    changes: bool = Field(description="false where the step would leave the palette as it is")
    notes: list[str] = Field(description="what should be said of the step")


class StepOut(BaseModel):
    number: int
    parent: int | None
    label: str
    created: datetime
    is_head: bool


class OperationIn(Change):
    operation: AnyOperation


class GoTo(Change):
    number: int


class PaletteIn(Bounded):
    """A new palette: empty, from typed colors, from a document as an import gives it, or from a picture reduced."""

    name: str | None = None
    text: str | None = Field(default=None, max_length=LONGEST_TEXT)
    document: dict[str, Any] | None = None
    source: str | None = None
    picture: UUID | None = None
    recipe: ReduceRecipe | None = None


class StepPreviewIn(Bounded):
    operation: AnyOperation


class MergeTreeIn(Bounded):
    ids: list[str] | None = None


class JoinOut(BaseModel):
    """Two clusters become one; each is named by the lowest place among its members, and so is the new one."""

    left: int
    right: int
    height: float = Field(description="ΔEOK×100 between their farthest members")


class MergeTreeOut(BaseModel):
    ids: list[str]
    joins: list[JoinOut]


class SelectIn(Bounded):
    rule: str
    ids: list[str] = []
    tolerance: float = Field(default=5, ge=0, le=100, description="ΔEOK×100")


class SelectOut(BaseModel):
    ids: list[str]


class DocumentOut(BaseModel):
    document: dict[str, Any]


class MatchOut(BaseModel):
    id: str
    place: int | None
    hex: str | None
    name: str | None
    delta: float | None


class MatchesOut(BaseModel):
    matches: list[MatchOut]


class MatchIn(Bounded):
    document: dict[str, Any]


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
        found = step.brought_palette()
        name = clean_name(payload.name or found.name, "palette name") or "Untitled"
        palette, label = replace(found, name=name), step.label(found).replace("Append", "Begin with", 1)
    elif payload.text:
        palette = AddSwatches(text=payload.text).apply(palette).palette
        label = f"Begin with {len(palette.swatches)} typed colors"
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
    return answer(palettes.apply(request.user, palette_id, payload.base, payload.operation, payload.once))


@router.post("/{palette_id}/operations/preview", response=StepProposalOut)
def preview_operation(request: HttpRequest, palette_id: UUID, payload: StepPreviewIn) -> HttpResponse:
    """What one operation would give; nothing is stored."""
    proposed = palettes.propose(palettes.get_state(request.user, palette_id), payload.operation)
    before = proposed.state
    change = picture_change(before.links, before.palette, proposed.palette, proposed.links)
    head = StepProposalOut(
        swatches=swatches_out(proposed.palette, coverage_of(painted(proposed.links))), groups=groups_out(proposed.palette),
        tables=[TableOut(picture=UUID(link.picture), table=list(link.table)) for link in proposed.links],
        change_mean=change[0] if change else None, change_max=change[1] if change else None,
        successors=dict(proposed.successors), slots=proposed.palette.slots, columns=proposed.palette.columns,
        revision=proposed.state.row.head, sentence=proposed.label, manner=proposed.manner,
        changes=proposed.palette != proposed.state.palette, notes=list(proposed.notes),
    )  # fmt: skip
    return HttpResponse(head.model_dump_json(), content_type="application/json")


@router.post("/{palette_id}/selection", response=SelectOut)
def select_by_rule(request: HttpRequest, palette_id: UUID, payload: SelectIn) -> SelectOut:
    """The swatches that a rule chooses."""
    state = palettes.get_state(request.user, palette_id)
    usage = usage_of(state.links)
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
    return DocumentOut(document=archives.revision_document(request.user, palette_id, step))


@router.post("/{palette_id}/match", response=MatchesOut)
def match_with(request: HttpRequest, palette_id: UUID, payload: MatchIn) -> MatchesOut:
    """Each swatch with its nearest in another palette, given as a document."""
    others = palette_from_document(payload.document).swatches
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
    return answer(palettes.undo(request.user, palette_id, payload.base, payload.once))


@router.post("/{palette_id}/redo", response=PaletteOut)
def redo(request: HttpRequest, palette_id: UUID, payload: Change) -> HttpResponse:
    return answer(palettes.redo(request.user, palette_id, payload.base, payload.once))


@router.post("/{palette_id}/go-to", response=PaletteOut)
def go_to(request: HttpRequest, palette_id: UUID, payload: GoTo) -> HttpResponse:
    """Any step of the history."""
    return answer(palettes.move_head(request.user, palette_id, payload.base, payload.number, payload.once))


@router.get("/{palette_id}/history", response=list[StepOut])
def history(request: HttpRequest, palette_id: UUID) -> list[StepOut]:
    """Every step, newest first."""
    row = find(request.user, Palette, palette_id)
    steps = row.revisions.order_by("-number").values("number", "parent", "label", "created")
    return [StepOut(**step, is_head=step["number"] == row.head) for step in steps]
