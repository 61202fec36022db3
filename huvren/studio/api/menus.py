"""Everything that is registered, for the interface's menus."""

from collections.abc import Iterable
from typing import Any

from django.http import HttpRequest
from ninja import Router
from pydantic import BaseModel, Field

from huvren.core.color.harmony import SCHEMES
from huvren.core.color.measures import MEASURES
from huvren.core.color.planes import PLANES, WIDEST_CHROMA
from huvren.core.formats import FORMATS, Format
from huvren.core.palette.merging import SURVIVORS, Survivor
from huvren.core.palette.operations.every import OPERATIONS
from huvren.core.palette.selecting import SELECT_RULES
from huvren.core.palette.sorting import SORT_KEYS, SortKey
from huvren.core.picture_kinds import PICTURE_KINDS
from huvren.core.ramp.curves import CURVES
from huvren.core.ramp.easings import EASINGS
from huvren.core.ramp.editing import EDITS
from huvren.core.ramp.gamuts import GAMUTS
from huvren.core.ramp.makers import MAKERS
from huvren.core.ramp.plan import PURPOSES, plain_only, plan_to_document
from huvren.core.ramp.recipe import RampRecipe
from huvren.core.ramp.spacings import SPACINGS
from huvren.core.ramp.starting import STARTING
from huvren.core.ramp.stops import MOST_STEPS, MOST_STOPS
from huvren.core.ramp.ways import SHOWN_FIRST, lanes
from huvren.core.reduction.afar import DISTANCES
from huvren.core.reduction.choosers import CHOOSERS
from huvren.core.reduction.dithers import DITHERS
from huvren.core.reduction.grain import GRAIN_USES, GRAINS
from huvren.core.reduction.metrics import METRICS, Metric
from huvren.core.reduction.orders import ORDERS
from huvren.core.reduction.recipe import MOST
from huvren.studio.services.shelf.cards import strip_of_ramp

router = Router(tags=["general"])


class ChoiceOut(BaseModel):
    id: str
    label: str
    use: str


class SchemeOut(ChoiceOut):
    spread: float
    fewest: int
    most: int


class SelectRuleOut(ChoiceOut):
    needs: list[str]


class PlaneOut(ChoiceOut):
    space: str
    across: int = Field(description="channel of the space")
    across_ends: list[float]
    up: int
    up_ends: list[float]
    held: int
    is_round: bool


class ChooserOut(ChoiceOut):
    needs: str = Field(description="“list” or “depth” where it cannot work without")
    sets_count: bool
    tunes: str = Field(description="how its colors may be tuned to a dither: “moved”, “on-grid”, “in-list”, or empty where not")
    evens_out: bool = Field(description="whether a longer search may find better colors also without a dither")


class DistanceOut(BaseModel):
    pixels_a_degree: int
    label: str


class GrainOut(BaseModel):
    """How fine tuned colors may look close up, by the number of a recipe."""

    grain: int
    label: str
    use: str


class DitherOut(ChoiceOut):
    has_strength: bool
    is_diffusion: bool


class OptionOut(BaseModel):
    id: str
    label: str
    choices: list[ChoiceOut]


class FormatOut(BaseModel):
    id: str
    ending: str
    kind: str
    family: str
    use: str
    needs_picture: bool
    is_text: bool
    joins_variants: bool = Field(description="whether one file may hold all variants of a palette")
    options: list[OptionOut]


class LaneChoiceOut(ChoiceOut):
    space: str
    hue: str
    is_shown: bool = Field(description="whether it stands where nothing else was chosen")


class SpacingOut(ChoiceOut):
    hears_easing: bool


class NumberOut(BaseModel):
    id: str
    label: str
    low: float
    high: float
    usual: float
    step: float
    said: str
    unit: str


class EasingOut(ChoiceOut):
    numbers: list[NumberOut]


class MakerOut(ChoiceOut):
    fewest: int
    most: int
    joined: str
    steps: int
    apart: bool
    is_even: bool = Field(description="whether its steps are even, by a measure that is chosen")
    numbers: list[NumberOut]


class EditOut(ChoiceOut):
    counts: bool


class StartingOut(ChoiceOut):
    tags: list[str]
    strip: str = Field(description="64 colors, rrggbbaa one after the other")
    ramp: RampRecipe


class RampMenusOut(BaseModel):
    """What the ramp stage offers."""

    lanes: list[LaneChoiceOut]
    curves: list[ChoiceOut]
    spacings: list[SpacingOut]
    measures: list[ChoiceOut]
    gamuts: list[ChoiceOut]
    easings: list[EasingOut]
    makers: list[MakerOut]
    edits: list[EditOut]
    starting: list[StartingOut]
    formats: list[FormatOut]
    most_stops: int
    most_steps: int


class OperationOut(BaseModel):
    id: str
    summary: str


class MenusOut(BaseModel):
    """Everything that is registered, for the interface's menus."""

    choosers: list[ChooserOut]
    dithers: list[DitherOut]
    distances: list[DistanceOut]
    grains: list[GrainOut]
    metrics: list[ChoiceOut]
    orders: list[ChoiceOut]
    formats: list[FormatOut]
    operations: list[OperationOut]
    sort_keys: list[ChoiceOut]
    merge_rules: list[ChoiceOut]
    select_rules: list[SelectRuleOut]
    schemes: list[SchemeOut]
    planes: list[PlaneOut]
    readable_endings: list[str]
    most_colors: int
    picture_types: list[str] = Field(description="media types and endings of pictures that are read")
    widest_chroma: float


def _format_out(entry: Format, of_ramps: bool = False) -> FormatOut:
    options = [
        OptionOut(id=option.id, label=option.label, choices=[ChoiceOut(id=c, label=text, use="") for c, text in option.choices])
        # What a format that holds both offers is about palettes; a ramp says by itself how it is laid out.
        for option in (() if of_ramps and entry.is_of_palettes else entry.options)
    ]
    return FormatOut(
        id=entry.id, ending=entry.endings[0], kind=entry.kind, family=entry.family, use=entry.use,
        needs_picture=entry.needs_picture, is_text=entry.is_text, joins_variants=entry.joins_variants, options=options,
    )  # fmt: skip


def _choices(entries: Iterable[Metric | SortKey | Survivor]) -> list[ChoiceOut]:
    return [ChoiceOut(id=entry.id, label=entry.label, use=entry.use) for entry in entries]


@router.get("/menus", response=MenusOut)
def menus(request: HttpRequest) -> MenusOut:
    """Everything that is registered."""
    return MenusOut(
        choosers=[
            ChooserOut(
                id=c.id, label=c.label, use=c.use, needs=c.needs, sets_count=c.sets_count, tunes=c.tunes, evens_out=c.evens_out
            )
            for c in CHOOSERS
        ],
        grains=[GrainOut(grain=grain, label=label, use=GRAIN_USES[grain]) for grain, label in GRAINS.items()],
        distances=[DistanceOut(pixels_a_degree=pixels, label=label) for pixels, label in DISTANCES.items()],
        dithers=[
            DitherOut(id=d.id, label=d.label, use=d.use, has_strength=d.has_strength, is_diffusion=d.is_diffusion) for d in DITHERS
        ],
        metrics=_choices(METRICS),
        orders=[ChoiceOut(id=order.id, label=order.label, use="") for order in ORDERS],
        formats=[_format_out(entry) for entry in FORMATS if entry.is_of_palettes or (entry.write and entry.needs_picture)],
        operations=[OperationOut(id=o.id, summary=o.model.summary) for o in OPERATIONS],
        sort_keys=_choices(SORT_KEYS),
        merge_rules=_choices(SURVIVORS),
        select_rules=[SelectRuleOut(id=r.id, label=r.label, use=r.use, needs=list(r.needs)) for r in SELECT_RULES],
        schemes=[
            SchemeOut(id=s.id, label=s.label, use=s.use, spread=s.spread, fewest=s.counts[0], most=s.counts[1]) for s in SCHEMES
        ],
        planes=[
            PlaneOut(
                id=p.id,
                label=p.label,
                use="",
                space=p.space,
                across=p.across[0],
                across_ends=list(p.across[1:]),
                up=p.up[0],
                up_ends=list(p.up[1:]),
                held=p.held,
                is_round=p.is_round,
            )
            for p in PLANES
        ],
        readable_endings=list(dict.fromkeys(ending for entry in FORMATS if entry.read for ending in entry.endings)),
        most_colors=MOST,
        picture_types=[word for kind in PICTURE_KINDS for word in (kind.media_type, *kind.endings)],
        widest_chroma=WIDEST_CHROMA,
    )


def _plain(entries: Iterable[Any]) -> list[ChoiceOut]:
    return [ChoiceOut(id=entry.id, label=entry.label, use=entry.use) for entry in entries]


@router.get("/menus/ramps", response=RampMenusOut)
def ramp_menus(request: HttpRequest) -> RampMenusOut:
    """What the ramp stage offers, apart from the rest as only that stage asks for it."""
    return RampMenusOut(
        lanes=[
            LaneChoiceOut(
                id=lane.id, label=lane.label, use=lane.way.use, space=lane.way.id, hue=lane.route.id, is_shown=lane.id in SHOWN_FIRST
            )
            for lane in lanes()
        ],
        curves=_plain(CURVES), gamuts=_plain(GAMUTS), measures=_plain(MEASURES),
        spacings=[SpacingOut(id=s.id, label=s.label, use=s.use, hears_easing=s.hears_easing) for s in SPACINGS],
        easings=[
            EasingOut(
                id=kind.id, label=kind.label, use=kind.use,
                numbers=[
                    NumberOut(id=n.name, label=n.name, low=n.low, high=n.high, usual=n.usual, step=0.01, said="", unit="")
                    for n in kind.numbers
                ],
            )
            for kind in EASINGS
        ],
        makers=[
            MakerOut(
                id=m.id, label=m.label, use=m.use, fewest=m.fewest, most=m.most, joined=m.joined, steps=m.steps, apart=m.apart,
                is_even="even" in PURPOSES[m.id].promises,
                numbers=[
                    NumberOut(id=n.id, label=n.label, low=n.low, high=n.high, usual=n.usual, step=n.step, said=n.said, unit=n.unit)
                    for n in m.numbers
                ],
            )
            for m in MAKERS
        ],
        edits=[EditOut(id=e.id, label=e.label, use=e.use, counts=e.counts) for e in EDITS],
        starting=[
            StartingOut(
                id=s.id, label=s.name, use=s.use, tags=list(s.tags), ramp=RampRecipe.model_validate(plan_to_document(s.plan)),
                strip=strip_of_ramp(s.plan.ramp(plain_only), s.plan.steps).hex(),
            )
            for s in STARTING
        ],
        formats=[_format_out(entry, of_ramps=True) for entry in FORMATS if entry.ramp and entry.write],
        most_stops=MOST_STOPS, most_steps=MOST_STEPS,
    )  # fmt: skip
