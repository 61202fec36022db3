"""Ramps: lanes, checks, makers, changes of stops, files and fits. Nothing is stored here; operations keep and bake."""

import base64
from dataclasses import replace
from typing import Annotated, Any
from uuid import UUID

import numpy as np
from django.http import HttpRequest, HttpResponse
from ninja import Router
from pydantic import BaseModel, Field

from huvren.core.bounded import Bounded
from huvren.core.color.arrays import Bytes, Floats
from huvren.core.color.notation import parse_color
from huvren.core.color.spaces import convert
from huvren.core.color.vision import VISIONS, seen
from huvren.core.errors import BadInput
from huvren.core.palette.document import palette_to_document
from huvren.core.palette.operations.ramps import stop_names
from huvren.core.palette.values import Palette
from huvren.core.pictures import encode_png
from huvren.core.ramp.editing import EDITS, add_stop, duplicate_stop, remove_stop, shares_of
from huvren.core.ramp.fit import along, fit
from huvren.core.ramp.makers import MAKERS, make
from huvren.core.ramp.plan import RampPlan
from huvren.core.ramp.profile import difference, profile, rgba_bytes
from huvren.core.ramp.promises import PROMISES, examine
from huvren.core.ramp.recipe import ColorIn, RampRecipe
from huvren.core.ramp.ways import SHOWN_FIRST, lane_of
from huvren.studio.access import find
from huvren.studio.api.deliveries import LONGEST_PREVIEW, LossOut, attachment
from huvren.studio.api.imports import FoundSwatchOut, found_swatches_out
from huvren.studio.api.parts.media import of_media
from huvren.studio.models import Picture
from huvren.studio.services.bench import pictures, ramps
from huvren.studio.services.shelf import palettes

router = Router(tags=["ramps"])
CURVE_POINTS = 96
MOST_LANES = 24


class RampIn(Bounded):
    """lanes : ids of the lanes to draw; compare : two of them, or “own”, whose difference is wanted."""

    ramp: RampRecipe
    lanes: list[str] = Field(default=list(SHOWN_FIRST), max_length=MOST_LANES)
    compare: list[str] = Field(default=[], max_length=2)
    views: bool = Field(default=False, description="whether the ramp is wanted in gray and to other eyes as well")


class LaneOut(BaseModel):
    id: str
    space: str
    hue: str
    label: str
    use: str
    rgba: str = Field(description="512 sRGB samples, four bytes each, base64")
    steps: str = Field(description="the baked steps in the same form; empty for a continuous ramp")
    lightness: list[float] = Field(description="OKLab L from end to end")
    chroma: list[float] = Field(description="OKLCh chroma from end to end")
    dip: float = Field(description="how far the lightness falls below the straight line between the ends")
    rise: float
    even: float = Field(description="largest step over mean step, before rounding")
    even_rounded: float = Field(description="the same once rounded to 8 bits")
    colors: int = Field(description="different 8-bit colors over its length")
    widest: float = Field(description="share of its length that its widest band takes")
    bands: list[float] = Field(description="places where bands that show as rings begin or end")
    outside: float = Field(description="share outside sRGB")
    outside_spans: list[list[float]]


class RampStopOut(BaseModel):
    name: str
    hex: str
    alpha: float
    position: float = Field(description="as the plan has it, 0..1")
    share: float = Field(description="where it stands on the finished ramp, 0..1")
    midpoint: float | None = Field(description="where the midpoint of the interval behind it stands; null where it has no say")
    tied: bool
    color: ColorIn = Field(description="as a recipe holds it, to make it a plain color or to change its alpha")


class ViewOut(BaseModel):
    """The ramp as other eyes see it: 512 sRGB samples, four bytes each, base64."""

    id: str
    label: str
    rgba: str


class RampOut(BaseModel):
    own: LaneOut
    lanes: list[LaneOut]
    stops: list[RampStopOut]
    sentence: str
    views: list[ViewOut]
    difference: list[float] = Field(description="ΔEOK×100 between the two lanes that are compared, from end to end")


class AnswerOut(BaseModel):
    id: str
    label: str
    question: str
    verdict: str
    sentence: str
    places: list[float]
    given: bool = Field(description="whether the ramp's purpose promises it")
    repair: str = Field(description="what would mend it, empty where nothing would or nothing has to")


class CheckOut(BaseModel):
    answers: list[AnswerOut]


class RepairIn(Bounded):
    ramp: RampRecipe
    promise: str


class EditIn(Bounded):
    """edit : “add” at `share`, “remove” or “duplicate” the stop at `place`, or one of the registered changes."""

    ramp: RampRecipe
    edit: str
    share: float = Field(default=0.5, ge=0, le=1)
    place: int = Field(default=0, ge=0)
    count: int = 2


class MakeIn(Bounded):
    """colors : ids of swatches, or colors as text."""

    maker: str
    colors: list[str] = Field(max_length=64)
    numbers: dict[str, float] = {}
    steps: int | None = 9
    measure: str = Field(default="oklab", max_length=40, description="of difference, by which the steps are even")


class RecipeOut(BaseModel):
    ramp: RampRecipe


class RecipesOut(BaseModel):
    ramps: list[RampRecipe]


class RampFileIn(Bounded):
    ramp: RampRecipe
    name: str = Field(default="", max_length=200)
    options: dict[str, str] = {}


class RampFileOut(BaseModel):
    losses: list[LossOut]
    problem: str | None
    bytes: int | None
    text: str | None


class DitheredIn(Bounded):
    ramp: RampRecipe
    dither: str
    strength: int = Field(default=100, ge=0, le=100)


class FitIn(Bounded):
    """line : x0, y0, x1, y1 in shares 0..1 of the picture."""

    picture: UUID
    line: Annotated[list[float], Field(min_length=4, max_length=4)]
    tolerance: float = Field(default=1.0, gt=0, le=100, description="ΔEOK×100")


class FitOut(BaseModel):
    ramp: RampRecipe
    samples: str = Field(description="what was read, four bytes a sample, base64")
    errors: list[float] = Field(description="ΔEOK×100 of each sample")
    worst: float
    fewest: bool


def _coded(rgba: Bytes) -> str:
    return base64.b64encode(rgba.tobytes()).decode()


def _thinned(values: Floats) -> list[float]:
    places = np.linspace(0, len(values) - 1, CURVE_POINTS).round().astype(int)
    return [round(float(value), 4) for value in values[places]]


def lane_out(plan: RampPlan, palette: Palette, lane_id: str = "") -> LaneOut:
    """One lane: the plan by another way, or by its own."""
    ramp = plan.ramp(palette.color_of)
    if lane_id:
        ramp = ramp.through(lane_of(lane_id))
    lane = ramp.lane
    drawn = profile(ramp, plan.steps)
    return LaneOut(
        id=lane.id, space=lane.way.id, hue=lane.route.id, label=lane.label, use=lane.way.use, rgba=_coded(drawn.rgba),
        steps="" if drawn.steps is None else _coded(drawn.steps),
        lightness=_thinned(drawn.lightness), chroma=_thinned(drawn.chroma), dip=drawn.dip, rise=drawn.rise,
        even=drawn.evenness.exact, even_rounded=drawn.evenness.rounded, colors=drawn.banding.colors, widest=drawn.banding.widest,
        bands=np.round(drawn.banding.edges, 5).tolist(), outside=drawn.outside,
        outside_spans=np.round(drawn.outside_spans, 4).tolist(),
    )  # fmt: skip


def _stops_out(plan: RampPlan, palette: Palette) -> list[RampStopOut]:
    ramp = plan.ramp(palette.color_of)
    shares = shares_of(plan, palette.color_of)
    made = []
    for place, (name, stop, at, share) in enumerate(zip(stop_names(plan, palette), ramp.stops, ramp.positions, shares, strict=True)):
        after = ramp.positions[place + 1] if place + 1 < len(ramp.stops) else at
        bends = ramp.spacing.hears_easing and after > at
        made.append(RampStopOut(
            name=name, hex=stop.color.hex[:7], alpha=stop.color.alpha, position=at, share=share,
            midpoint=at + stop.midpoint * (after - at) if bends else None, tied=plan.stops[place].swatch is not None,
            color=ColorIn.model_validate(stop.color.document()),
        ))  # fmt: skip
    return made


def _views(plan: RampPlan, palette: Palette) -> list[ViewOut]:
    """In gray of the same lightness, and to each kind of color vision."""
    srgb, alpha, _ = plan.ramp(palette.color_of).shown((np.arange(512) + 0.5) / 512)
    lightness = convert(srgb, "srgb", "oklab")[:, 0]
    gray = np.clip(convert(np.column_stack([lightness, np.zeros((512, 2))]), "oklab", "srgb"), 0, 1)
    views = [ViewOut(id="gray", label="In gray", rgba=_coded(rgba_bytes(gray, alpha)))]
    views += [ViewOut(id=v.id, label=v.label.capitalize(), rgba=_coded(rgba_bytes(seen(srgb, v), alpha))) for v in VISIONS]
    return views


def _palette(request: HttpRequest, palette_id: UUID) -> Palette:
    return palettes.look_at(request.user, palette_id).palette


@router.post("/{palette_id}/ramps", response=RampOut)
def draw(request: HttpRequest, palette_id: UUID, payload: RampIn) -> HttpResponse:
    """A ramp and the lanes asked for: the same stops by other ways."""
    palette = _palette(request, palette_id)
    plan = payload.ramp.plan()
    own = lane_out(plan, palette)
    lanes = [own if lane == own.id else lane_out(plan, palette, lane) for lane in dict.fromkeys(payload.lanes)]
    gaps: list[float] = []
    if len(payload.compare) == 2:
        ramp = plan.ramp(palette.color_of)
        first, second = (ramp if lane == "own" else ramp.through(lane_of(lane)) for lane in payload.compare)
        gaps = _thinned(difference(first, second)[1])
    answer = RampOut.model_construct(
        own=own, lanes=lanes, sentence=plan.sentence(stop_names(plan, palette)), stops=_stops_out(plan, palette),
        views=_views(plan, palette) if payload.views else [], difference=gaps,
    )  # fmt: skip
    return HttpResponse(answer.model_dump_json(), content_type="application/json")


@router.post("/{palette_id}/ramps/check", response=CheckOut)
def check(request: HttpRequest, palette_id: UUID, payload: RecipeOut) -> CheckOut:
    """Every promise that a ramp may be asked to keep, those of its purpose first."""
    palette = _palette(request, palette_id)
    return CheckOut(
        answers=[
            AnswerOut(
                id=answer.promise.id, label=answer.promise.label, question=answer.promise.question, verdict=answer.finding.verdict,
                sentence=answer.finding.sentence, places=list(answer.finding.places), given=answer.given,
                repair=answer.promise.repair_label if answer.promise.repair and answer.finding.verdict != "holds" else "",
            )
            for answer in examine(payload.ramp.plan(), palette.color_of)
        ]
    )  # fmt: skip


@router.post("/{palette_id}/ramps/repair", response=RecipeOut)
def repair(request: HttpRequest, palette_id: UUID, payload: RepairIn) -> RecipeOut:
    """The ramp that keeps a promise which this one does not."""
    palette = _palette(request, palette_id)
    promise = PROMISES[payload.promise]
    if promise.repair is None:
        raise BadInput(f"Nothing repairs “{promise.label}” by itself. Change the colors.")
    mended = replace(promise.repair(payload.ramp.plan(), palette.color_of), numbers=())
    return RecipeOut(ramp=ramps.plans_as_recipes([mended])[0])


@router.post("/{palette_id}/ramps/edit", response=RecipeOut)
def edit(request: HttpRequest, palette_id: UUID, payload: EditIn) -> RecipeOut:
    """The ramp with its stops changed."""
    palette = _palette(request, palette_id)
    plan = payload.ramp.plan()
    plan.ramp(palette.color_of)
    if payload.edit in ("remove", "duplicate") and payload.place >= len(plan.stops):
        raise BadInput(f"The ramp has {len(plan.stops)} stops; there is none at place {payload.place}.")
    if payload.edit == "add":
        changed = add_stop(plan, palette.color_of, payload.share)
    elif payload.edit == "remove":
        changed = remove_stop(plan, payload.place)
    elif payload.edit == "duplicate":
        changed = duplicate_stop(plan, payload.place)
    else:
        changed = EDITS[payload.edit].edit(plan, payload.count)
    # Stops that were changed are not made anew.
    return RecipeOut(ramp=ramps.plans_as_recipes([replace(changed, numbers=())])[0])


@router.post("/{palette_id}/ramps/make", response=RecipesOut)
def make_ramps(request: HttpRequest, palette_id: UUID, payload: MakeIn) -> RecipesOut:
    """Ramps for a purpose, from swatches or typed colors."""
    palette = _palette(request, palette_id)
    by_id = {swatch.id: swatch.color for swatch in palette.swatches}
    colors = [by_id[text] if text in by_id else parse_color(text[:200]) for text in payload.colors]
    made = make(payload.maker, colors, payload.numbers, payload.steps, payload.measure)
    if MAKERS[payload.maker].apart:
        # Each goes through its color: where that is a swatch, the ramp follows it.
        rows = zip(made, payload.colors, colors, strict=True)
        made = [plan.tied_to(text, color) if text in by_id else plan for plan, text, color in rows]
    return RecipesOut(ramps=ramps.plans_as_recipes(made))


class RampDocumentOut(BaseModel):
    document: dict[str, Any] = Field(description="a palette of this ramp alone, to be brought in")
    swatches: list[FoundSwatchOut] = Field(description="the swatches that its stops are tied to, where they come along")
    sentence: str


@router.get("/{palette_id}/ramps/{ramp_id}/document", response=RampDocumentOut)
def ramp_document(request: HttpRequest, palette_id: UUID, ramp_id: str, tied: bool = False) -> RampDocumentOut:
    """A kept ramp as a document of its own, to be taken into any palette. tied : the swatches that its stops follow come along;
    else its stops become plain colors."""
    palette = _palette(request, palette_id)
    taken = ramps.alone(palette, palette.ramp(ramp_id), tied)
    plan = taken.ramps[0].plan
    return RampDocumentOut(
        document=palette_to_document(taken), swatches=found_swatches_out(taken), sentence=plan.sentence(stop_names(plan, taken))
    )


@router.post("/{palette_id}/ramps/files/{format_id}", openapi_extra=of_media("*/*"))
def file(request: HttpRequest, palette_id: UUID, format_id: str, payload: RampFileIn) -> HttpResponse:
    """The ramp as a file."""
    made = ramps.write_ramp(_palette(request, palette_id), payload.ramp, payload.name, format_id, payload.options)
    if made.data is None:
        raise BadInput(made.problem or "The file cannot be written.")
    headers = {"Content-Disposition": attachment(payload.name or "Ramp", made.format.endings[0]), "Cache-Control": "no-store"}
    return HttpResponse(made.data, content_type=made.format.media_type, headers=headers)


@router.post("/{palette_id}/ramps/files/{format_id}/report", response=RampFileOut)
def report(request: HttpRequest, palette_id: UUID, format_id: str, payload: RampFileIn) -> RampFileOut:
    """What the file keeps, and its text where it is text."""
    made = ramps.write_ramp(_palette(request, palette_id), payload.ramp, payload.name, format_id, payload.options)
    text = made.data.decode()[:LONGEST_PREVIEW] if made.data is not None and made.format.is_text else None
    return RampFileOut(
        losses=[LossOut(code=loss.code, text=loss.text, count=loss.count, worst=loss.worst, mean=loss.mean) for loss in made.losses],
        problem=made.problem, bytes=None if made.data is None else len(made.data), text=text,
    )  # fmt: skip


@router.post("/{palette_id}/ramps/dithered", response={200: Any})
def dithered(request: HttpRequest, palette_id: UUID, payload: DitheredIn) -> HttpResponse:
    """A PNG: the ramp painted with the palette's swatches alone."""
    palette = _palette(request, palette_id)
    plan = payload.ramp.plan()
    made = ramps.dithered(palette, plan.ramp(palette.color_of), plan.steps, payload.dither, payload.strength)
    return HttpResponse(encode_png(made), content_type="image/png", headers={"Cache-Control": "no-store"})


@router.post("/{palette_id}/ramps/fit", response=FitOut)
def fit_line(request: HttpRequest, palette_id: UUID, payload: FitIn) -> FitOut:
    """The ramp of fewest stops along a line drawn across a picture."""
    _palette(request, palette_id)
    picture = find(request.user, Picture, payload.picture)
    x0, y0, x1, y1 = (min(max(value, 0.0), 1.0) for value in payload.line)
    found = fit(along(pictures.read_stored(picture), (x0, y0, x1, y1)), payload.tolerance)
    return FitOut(
        ramp=ramps.plans_as_recipes([found.plan])[0], samples=_coded(found.samples), worst=found.worst,
        errors=[round(float(error), 3) for error in found.errors], fewest=found.fewest,
    )  # fmt: skip
