"""Checks and lenses: questions that a palette answers, limits that are kept, and colors as others see them."""

import base64
from typing import Annotated, Any
from uuid import UUID

import numpy as np
from django.http import HttpRequest, HttpResponse
from ninja import Router, Status
from pydantic import BaseModel, Field

from huvren.core.bounded import Bounded
from huvren.core.checks import CHECKS, Report, Setting
from huvren.core.checks.drawing import Drawing
from huvren.core.checks.example import example_of
from huvren.core.checks.review import review
from huvren.core.errors import BadInput
from huvren.core.lenses import LENSES, parse_lens
from huvren.core.palette.operations.every import AnyOperation
from huvren.core.pictures import encode_png
from huvren.studio.access import find, visible
from huvren.studio.api.deliveries import attachment
from huvren.studio.api.menus import ChoiceOut
from huvren.studio.api.parts.media import of_media
from huvren.studio.models import LimitSet, Picture
from huvren.studio.services.bench import checks, pictures
from huvren.studio.services.shelf import limit_sets

router = Router(tags=["checks"])
MOST_SEEN = 65_536
Value = float | str
Values = Annotated[dict[str, Value], Field(max_length=64)]


class SettingOut(BaseModel):
    id: str
    label: str
    use: str
    kind: str
    usual: Value
    low: float
    high: float
    step: float
    unit: str
    choices: list[ChoiceOut]


class CheckMenuOut(BaseModel):
    id: str
    label: str
    question: str
    why: str
    look_for: str
    limits: list[SettingOut]
    views: list[SettingOut]


class AmountOut(BaseModel):
    label: str
    low: float
    high: float
    usual: float
    unit: str


class LensOut(ChoiceOut):
    kind: str
    amount: AmountOut | None
    is_estimate: bool


class CheckMenusOut(BaseModel):
    """The questions in their order, and every lens."""

    checks: list[CheckMenuOut]
    lenses: list[LensOut]


class PartOut(BaseModel):
    text: str
    ids: list[str]


class ReportOut(BaseModel):
    id: str
    verdict: str = Field(description="“fails”, “look”, “holds” or “nothing”")
    parts: list[PartOut] = Field(description="the sentence, piece by piece, with the swatches each is about")
    ids: list[str]


class MendOut(BaseModel):
    label: str
    operation: dict[str, Any]


class ShapeOut(BaseModel):
    """As `core.checks.drawing.Shape`; an image's indices are base64, row by row."""

    kind: str
    at: list[float]
    fill: str
    stroke: str
    size: float
    text: str
    anchor: str
    bold: bool
    path: str
    ids: list[str]
    title: str
    pixels: str
    across: int
    table: list[str]


class HandleOut(BaseModel):
    view: str
    x: float
    y: float
    radius: float


class DrawingOut(BaseModel):
    width: float
    height: float
    caption: str
    shapes: list[ShapeOut]
    handle: HandleOut | None


class OpenOut(BaseModel):
    """The check that is looked at: its picture and what would mend it."""

    id: str
    drawing: DrawingOut
    mends: list[MendOut]
    recipe: dict[str, float]


class ChecksOut(BaseModel):
    reports: list[ReportOut]
    open: OpenOut | None
    notes: list[str]


class ChecksIn(Bounded):
    """open : the check whose picture is wanted, with its views; limits : to be tried instead of the palette's; colors : CSS by
    swatch id, while they are dragged; operation : a step that is tried out."""

    open: str | None = None
    views: Values = {}
    limits: dict[str, Values] | None = None
    colors: Annotated[dict[str, str], Field(max_length=256)] = {}
    operation: AnyOperation | None = None
    only: list[str] | None = None


class SeeIn(Bounded):
    colors: str = Field(max_length=6 * MOST_SEEN, pattern=r"^[0-9a-fA-F]*$", description="rrggbb, one after the other")
    amount: float | None = None


class SeenOut(BaseModel):
    colors: str


class ExampleOut(BaseModel):
    """What a check looks for, on a few colors of its own."""

    verdict: str
    sentence: str
    drawing: DrawingOut


class LimitSetIn(Bounded):
    name: str
    limits: dict[str, Values]


class LimitSetOut(BaseModel):
    id: UUID
    name: str
    limits: dict[str, Values]


def _setting_out(setting: Setting) -> SettingOut:
    return SettingOut(
        id=setting.id, label=setting.label, use=setting.use, kind=setting.kind, usual=setting.usual, low=setting.low,
        high=setting.high, step=setting.step, unit=setting.unit,
        choices=[ChoiceOut(id=choice, label=label, use="") for choice, label in setting.choices],
    )  # fmt: skip


def drawing_out(drawing: Drawing) -> DrawingOut:
    return DrawingOut.model_construct(
        width=drawing.width, height=drawing.height, caption=drawing.caption,
        shapes=[
            ShapeOut.model_construct(
                kind=s.kind, at=[round(number, 2) for number in s.at], fill=s.fill, stroke=s.stroke, size=s.size, text=s.text,
                anchor=s.anchor, bold=s.bold, path=s.path, ids=list(s.ids), title=s.title,
                pixels="" if s.indices is None else base64.b64encode(np.ascontiguousarray(s.indices).tobytes()).decode(),
                across=0 if s.indices is None else s.indices.shape[1], table=list(s.table),
            )
            for s in drawing.shapes
        ],
        handle=None if drawing.handle is None else HandleOut(**vars(drawing.handle)),
    )  # fmt: skip


def _report_out(check: str, report: Report) -> ReportOut:
    parts = [PartOut.model_construct(text=part.text, ids=list(part.ids)) for part in report.parts if part.text]
    return ReportOut.model_construct(id=check, verdict=report.verdict, parts=parts, ids=list(report.ids))


@router.get("/menus/checks", response=CheckMenusOut)
def menus(request: HttpRequest) -> CheckMenusOut:
    """The questions and the lenses."""
    return CheckMenusOut(
        checks=[
            CheckMenuOut(
                id=c.id, label=c.label, question=c.question, why=c.why, look_for=c.look_for,
                limits=[_setting_out(setting) for setting in c.limits], views=[_setting_out(setting) for setting in c.views],
            )
            for c in CHECKS
        ],
        lenses=[
            LensOut(
                id=lens.id, label=lens.label, use=lens.use, kind=lens.kind, is_estimate=lens.is_estimate,
                amount=None if lens.amount is None else AmountOut(**vars(lens.amount)),
            )
            for lens in LENSES
        ],
    )  # fmt: skip


@router.get("/menus/checks/{check_id}", response=ExampleOut)
def example(request: HttpRequest, check_id: str) -> HttpResponse:
    """An example of what a check finds."""
    report, drawing = example_of(check_id)
    made = ExampleOut.model_construct(verdict=report.verdict, sentence=report.sentence, drawing=drawing_out(drawing))
    return HttpResponse(made.model_dump_json(), content_type="application/json")


@router.post("/palettes/{palette_id}/checks", response=ChecksOut)
def examine(request: HttpRequest, palette_id: UUID, payload: ChecksIn) -> HttpResponse:
    """Every verdict, and the picture and mends of one check. Nothing is stored."""
    shown = CHECKS[payload.open] if payload.open else None
    views = shown.settled(payload.views, views=True) if shown else {}
    found = checks.examine_palette(
        request.user,
        palette_id,
        limits=payload.limits,
        views=views,
        colors=payload.colors,
        operation=payload.operation,
        only=payload.only,
        shows_picture=shown is not None,
    )
    opened = None
    if shown and shown.id in found.reports:
        report = found.reports[shown.id]
        opened = OpenOut.model_construct(
            id=shown.id, drawing=drawing_out(report.draw(views)), recipe=dict(report.recipe),
            mends=[MendOut.model_construct(label=m.label, operation=m.operation.model_dump(mode="json")) for m in report.mends],
        )  # fmt: skip
    answer = ChecksOut.model_construct(
        reports=[_report_out(check, report) for check, report in found.reports.items()], open=opened, notes=list(found.notes)
    )
    return HttpResponse(answer.model_dump_json(), content_type="application/json")


@router.get("/palettes/{palette_id}/review", openapi_extra=of_media("text/html"))
def whole_review(request: HttpRequest, palette_id: UUID) -> HttpResponse:
    """Every check with its picture, as one self-contained page to keep or send."""
    found = checks.examine_palette(request.user, palette_id)
    palette = found.subject.palette
    headers = {"Content-Disposition": attachment(f"{palette.name} review", ".html"), "Cache-Control": "no-store"}
    return HttpResponse(review([(palette, found.reports)]), content_type="text/html; charset=utf-8", headers=headers)


@router.post("/lenses/{lens_id}/see", response=SeenOut)
def see(request: HttpRequest, lens_id: str, payload: SeeIn) -> SeenOut:
    """Colors as they are seen through a lens, in the same order."""
    if len(payload.colors) % 6:
        raise BadInput("Colors are six digits each.")
    rgb = np.frombuffer(bytes.fromhex(payload.colors), np.uint8).reshape(-1, 3)
    return SeenOut(colors=LENSES[lens_id].through_bytes(rgb, payload.amount).tobytes().hex())


@router.get("/pictures/{picture_id}/seen", openapi_extra=of_media("image/png"))
def picture_seen(request: HttpRequest, picture_id: UUID, lens: str) -> HttpResponse:
    """A picture as it came, through a lens such as “deutan:80”, at the scale of previews where it is large."""
    entry, amount = parse_lens(lens)
    picture = find(request.user, Picture, picture_id)
    rgba = pictures.WORKING.get(picture, preview=True, alpha_threshold=128).rgba
    shown = np.dstack([entry.through_bytes(rgba[..., :3], amount), rgba[..., 3]])
    headers = {"Cache-Control": "private, max-age=86400", "Content-Security-Policy": "default-src 'none'; sandbox"}
    return HttpResponse(encode_png(shown, level=1), content_type="image/png", headers=headers)


def _set_out(kept: LimitSet) -> LimitSetOut:
    return LimitSetOut(id=kept.id, name=kept.name, limits=kept.limits)


@router.get("/limits", response=list[LimitSetOut])
def limit_sets_listed(request: HttpRequest) -> list[LimitSetOut]:
    """Every named set of limits, by name."""
    return [_set_out(kept) for kept in visible(request.user, LimitSet)]


@router.post("/limits", response={201: LimitSetOut})
def keep_limits(request: HttpRequest, payload: LimitSetIn) -> Status[LimitSetOut]:
    """Keep limits by name; a set of the same name is replaced."""
    return Status(201, _set_out(limit_sets.keep(request.user, payload.name, payload.limits)))


@router.delete("/limits/{set_id}", response={204: None})
def take_limits_away(request: HttpRequest, set_id: UUID) -> Status[None]:
    """Take a set off the shelf. Palettes that go by it keep their own copy."""
    find(request.user, LimitSet, set_id, "remove").delete()
    return Status(204, None)
