"""What goes over the wire. The TypeScript client is generated from these."""

from datetime import datetime
from typing import Annotated, Any, Literal, cast
from uuid import UUID

import numpy as np
from pydantic import BaseModel, ConfigDict, Field
from typing_extensions import TypedDict

from huvren.core.palette import values
from huvren.core.palette.derived import derive
from huvren.core.palette.operations import AnyOperation
from huvren.core.ramp.recipe import RampRecipe
from huvren.core.reduction.recipe import ReduceRecipe
from huvren.core.reduction.views import gray_levels
from huvren.studio.models import Job, Picture
from huvren.studio.services.library import hexes_of
from huvren.studio.services.links import Link, coverage_of
from huvren.studio.services.palettes import State

Triple = tuple[float, float, float]


class Problem(BaseModel):
    type: str
    status: int
    code: str
    message: str


class SwatchOut(TypedDict):
    """A plain dictionary, as palettes have many."""

    id: str
    name: str
    locked: bool
    group: str | None
    space: str
    coords: list[float]
    alpha: float
    hex: str
    rgb: tuple[int, int, int]
    oklch: Triple
    in_srgb: bool
    gray: Annotated[int, Field(description="8-bit gray of the same OKLab lightness")]
    note: str
    tags: list[str]
    slot: Annotated[int | None, Field(description="its numbered place, in palettes that have such")]
    pinned: bool
    coverage: Annotated[float | None, Field(description="share of the linked pictures' pixels, 0..1")]
    nearest: Annotated[int | None, Field(description="index of the swatch most like it")]
    nearest_delta: Annotated[float | None, Field(description="ΔEOK×100 to it")]


class GroupOut(BaseModel):
    id: str
    name: str
    columns: int | None = None


class VariantOut(BaseModel):
    """A set of colors for the same swatches, in strip order."""

    id: str
    name: str
    hexes: list[str]


class PictureOut(BaseModel):
    model_config = ConfigDict(from_attributes=True)

    id: UUID
    name: str
    format: str
    width: int
    height: int
    distinct: int
    notes: list[str]
    created: datetime


class FiguresOut(BaseModel):
    distinct: int
    used: int
    mean: float
    p95: float
    max: float


class FiguresNowOut(FiguresOut):
    bytes: int | None


class LinkOut(BaseModel):
    picture: PictureOut
    map: UUID
    width: int
    height: int
    table: list[str | None]
    recipe: ReduceRecipe
    figures: FiguresOut
    notes: list[str]
    worst_tiles: list[list[float]] = Field(description="row, column and loss of the tiles that a limit cost most")


class PaletteOut(BaseModel):
    id: UUID
    name: str
    revision: int
    label: str
    can_undo: bool
    can_redo: bool
    updated: datetime
    swatches: list[SwatchOut]
    groups: list[GroupOut]
    columns: int | None
    slots: int | None = Field(description="how many numbered places it has, where they are fixed")
    tags: list[str]
    variants: list[VariantOut]
    variant: str | None
    links: list[LinkOut]


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
    is_full: bool = Field(description="false where the preview was made on a smaller copy")
    revision: int
    sentence: str


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
    changes: bool = Field(description="false where the step would leave the palette as it is")


class SizeOut(BaseModel):
    bytes: int | None


class StepOut(BaseModel):
    number: int
    parent: int | None
    label: str
    created: datetime
    is_head: bool


class PaletteCard(BaseModel):
    id: UUID
    name: str
    updated: datetime
    trashed: bool
    hexes: list[str]
    count: int
    picture: UUID | None
    favorite: bool
    tags: list[str]
    near: float | None = Field(description="ΔEOK×100 from the color asked for to its nearest swatch")


class PictureCard(BaseModel):
    id: UUID
    name: str
    format: str
    width: int
    height: int
    distinct: int
    created: datetime
    trashed: bool
    favorite: bool
    palettes: list[UUID]


class ShelfOut(BaseModel):
    palettes: list[PaletteCard]
    pictures: list[PictureCard]


class SessionOut(BaseModel):
    user: str
    demo: bool
    version: str


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


class DitherOut(ChoiceOut):
    has_strength: bool
    is_diffusion: bool
    is_mixing: bool


class CurveOut(BaseModel):
    counts: list[int]
    mean: list[float]
    p95: list[float]
    distinct: int
    knee: int | None


class ErrorMapIn(BaseModel):
    """Of a recipe that is tried out, or null for the picture as it is kept."""

    recipe: ReduceRecipe | None = None


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
    options: list[OptionOut]


class OperationOut(BaseModel):
    id: str
    summary: str


class MenusOut(BaseModel):
    """Everything that is registered, for the interface's menus."""

    choosers: list[ChooserOut]
    dithers: list[DitherOut]
    metrics: list[ChoiceOut]
    orders: list[ChoiceOut]
    formats: list[FormatOut]
    operations: list[OperationOut]
    sort_keys: list[ChoiceOut]
    merge_rules: list[ChoiceOut]
    select_rules: list[SelectRuleOut]
    schemes: list[SchemeOut]
    planes: list[PlaneOut]
    mix_models: list[ChoiceOut]
    readable_endings: list[str]
    most_steps: int
    most_colors: int
    most_bytes: int
    most_pixels: int
    picture_endings: list[str]
    widest_chroma: float


class Change(BaseModel):
    base: int = Field(description="number of the revision the client saw")


class OperationIn(Change):
    operation: AnyOperation


class GoTo(Change):
    number: int


class PaletteIn(BaseModel):
    """A new palette: empty, from typed colors, from a document as an import gives it, or from a picture reduced."""

    name: str | None = None
    text: str | None = None
    document: dict[str, Any] | None = None
    source: str | None = None
    picture: UUID | None = None
    recipe: ReduceRecipe | None = None


class StepPreviewIn(BaseModel):
    operation: AnyOperation


class PreviewIn(BaseModel):
    picture: UUID
    recipe: ReduceRecipe


class ReductionIn(Change):
    picture: UUID
    recipe: ReduceRecipe


class RampIn(BaseModel):
    ramp: RampRecipe


class LaneOut(BaseModel):
    id: str
    space: str
    hue: str
    label: str
    use: str
    rgba: str = Field(description="256 sRGB samples, four bytes each, base64")
    steps: list[str]
    lightness: list[float] = Field(description="OKLab L from end to end")
    dip: float = Field(description="how far the lightness falls below the straight line between the ends")
    rise: float
    outside: int = Field(description="steps outside sRGB")


class RampStopOut(BaseModel):
    name: str
    hex: str
    position: float


class RampOut(BaseModel):
    lanes: list[LaneOut]
    stops: list[RampStopOut]
    sentence: str


class CssOut(BaseModel):
    text: str


class DeliveryIn(BaseModel):
    """`ids` for some swatches alone; options as the format lists them."""

    ids: list[str] | None = None
    options: dict[str, str] = {}
    picture: UUID | None = None


class LossOut(BaseModel):
    code: str
    text: str
    count: int
    worst: float | None


class DeliveryOut(BaseModel):
    """The keep report, and the beginning of the file where it is text."""

    losses: list[LossOut]
    problem: str | None
    bytes: int | None
    count: int
    text: str | None


class FoundSwatchOut(TypedDict):
    """What is shown of a swatch before anything is decided; the document holds the rest."""

    id: str
    name: str
    group: str | None
    hex: str
    alpha: float


class ReadingOut(BaseModel):
    label: str = Field(description="the format it was read as, or “reduction”")
    is_reduction: bool
    title: str
    swatches: list[FoundSwatchOut]
    groups: list[GroupOut]
    notes: list[str]
    document: dict[str, Any]


class PictureFactsOut(BaseModel):
    width: int
    height: int
    distinct: int


class ImportOut(BaseModel):
    name: str
    readings: list[ReadingOut]
    picture: PictureFactsOut | None


class KeptRecipeIn(BaseModel):
    name: str
    recipe: ReduceRecipe


class KeptRecipeOut(BaseModel):
    id: UUID
    name: str
    recipe: ReduceRecipe


class FavoriteIn(BaseModel):
    favorite: bool


class ArchiveTaken(BaseModel):
    palettes: int
    pictures: int
    recipes: int
    known: int = Field(description="palettes and pictures that were on the shelf already")


class MergeTreeIn(BaseModel):
    ids: list[str] | None = None


class JoinOut(BaseModel):
    """Two clusters become one; each is named by the lowest place among its members, and so is the new one."""

    left: int
    right: int
    height: float = Field(description="ΔEOK×100 between their farthest members")


class MergeTreeOut(BaseModel):
    ids: list[str]
    joins: list[JoinOut]


class SelectIn(BaseModel):
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


class MatchIn(BaseModel):
    document: dict[str, Any]


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


class ChannelOut(BaseModel):
    name: str
    low: float
    high: float
    digits: int
    is_hue: bool
    value: float


class SpaceOut(BaseModel):
    id: str
    label: str
    channels: list[ChannelOut]


class NotationOut(BaseModel):
    id: str
    text: str


class DescribeIn(BaseModel):
    """A color as text, or as coordinates of a space."""

    text: str | None = Field(default=None, max_length=200)
    space: str | None = None
    coords: list[float] = []
    alpha: float = 1.0
    hold: float | None = Field(default=None, ge=0, le=1, description="OKLCh lightness that the color is given, whatever it had")


class DescribeOut(BaseModel):
    hex: str
    name: str
    in_srgb: bool
    alpha: float
    spaces: list[SpaceOut]
    notations: list[NotationOut]


class MixIn(BaseModel):
    texts: list[str] = Field(max_length=12)
    parts: list[float] = Field(max_length=12)
    steps: int = Field(default=7, ge=1, le=32)


class MixtureOut(BaseModel):
    model: str
    label: str
    use: str
    hex: str
    name: str
    ladder: list[str] = Field(description="hex codes between the first two colors")


class MixOut(BaseModel):
    mixtures: list[MixtureOut]


class CompanionOut(BaseModel):
    hex: str
    name: str
    oklch: Triple


class CompanionsOut(BaseModel):
    companions: list[CompanionOut]
    reach: float = Field(description="a little over the largest chroma in sRGB at the base's lightness")


class BatchIn(BaseModel):
    """Pictures to reduce by one recipe; `name` is that of a kept recipe, for the label."""

    pictures: list[UUID]
    recipe: ReduceRecipe
    name: str = ""


class JobOut(BaseModel):
    id: UUID
    kind: str
    label: str
    state: Literal["waiting", "working", "done", "failed", "cancelled"]
    share: float = Field(description="0..1")
    step: str = Field(description="what is being done, or why it ended")
    palette: UUID | None = Field(description="the palette it changes or made")
    wanted: int = Field(description="pictures of a batch; 0 for other jobs")
    made: int = Field(description="those that it has finished")
    created: datetime


class ProofsIn(BaseModel):
    recipes: list[ReduceRecipe]


class ProofsOut(BaseModel):
    recipes: list[ReduceRecipe]


class CompareIn(BaseModel):
    first: str
    second: str


class CompareOut(BaseModel):
    delta_eok: float
    ciede2000: float
    contrast: float


class ParsedColor(BaseModel):
    hex: str
    name: str


class ParsedOut(BaseModel):
    colors: list[ParsedColor]


def swatches_out(palette: values.Palette, coverage: dict[str, float] | None) -> list[SwatchOut]:
    """Swatches with everything derived."""
    derived = derive([swatch.color for swatch in palette.swatches])
    grays = gray_levels(np.array([row.oklch[0] for row in derived])).tolist() if derived else []
    return [
        SwatchOut(
            id=swatch.id, name=swatch.name, locked=swatch.locked, group=swatch.group, space=swatch.color.space,
            coords=list(swatch.color.coords), alpha=swatch.color.alpha, hex=row.hex, rgb=row.rgb, oklch=row.oklch,
            in_srgb=row.in_srgb, gray=gray, note=swatch.note, tags=list(swatch.tags), slot=swatch.slot, pinned=swatch.pinned,
            coverage=None if coverage is None else coverage.get(swatch.id, 0.0),
            nearest=row.nearest, nearest_delta=row.nearest_delta,
        )
        for swatch, row, gray in zip(palette.swatches, derived, grays, strict=True)
    ]  # fmt: skip


def found_swatches_out(palette: values.Palette) -> list[FoundSwatchOut]:
    """Swatches of a file that was only looked into."""
    codes = hexes_of([swatch.color for swatch in palette.swatches])
    return [
        FoundSwatchOut(id=swatch.id, name=swatch.name, group=swatch.group, hex=code, alpha=swatch.color.alpha)
        for swatch, code in zip(palette.swatches, codes, strict=True)
    ]


def job_out(job: Job) -> JobOut:
    made = getattr(job, "made", None)
    return JobOut(
        id=job.id, kind=job.kind, label=job.label, state=cast(Any, job.state), share=job.share, step=job.step, palette=job.palette_id,
        wanted=len(job.request.get("pictures", [])), made=job.results.count() if made is None else made, created=job.created,
    )  # fmt: skip


def groups_out(palette: values.Palette) -> list[GroupOut]:
    return [GroupOut(id=group.id, name=group.name, columns=group.columns) for group in palette.groups]


def variants_out(palette: values.Palette) -> list[VariantOut]:
    """Variants with the colors that the swatches have in each."""
    made = []
    for variant in palette.variants:
        colors = {} if variant.id == palette.variant else dict(variant.colors)
        hexes = hexes_of([colors.get(swatch.id, swatch.color) for swatch in palette.swatches])
        made.append(VariantOut(id=variant.id, name=variant.name, hexes=hexes))
    return made


def picture_out(picture: Picture) -> PictureOut:
    return PictureOut.model_validate(picture)


def _link_out(link: Link, pictures: dict[str, Picture]) -> LinkOut:
    return LinkOut(
        picture=picture_out(pictures[link["picture"]]), map=link["map"], width=link["width"], height=link["height"],
        table=link["table"], recipe=link["recipe"], figures=link["figures"], notes=link["notes"],
        worst_tiles=link.get("worst_tiles", []),
    )  # fmt: skip


def palette_out(state: State) -> PaletteOut:
    """The whole palette at a revision, built without a check: everything in it was checked on the way in."""
    links = state.revision.links
    pictures = {
        str(row.id): row
        for row in Picture.objects.filter(id__in=[link["picture"] for link in links])
    } if links else {}  # fmt: skip
    return PaletteOut.model_construct(
        id=state.row.id, name=state.palette.name, revision=state.revision.number, label=state.revision.label,
        can_undo=state.can_undo, can_redo=state.can_redo, updated=state.row.updated,
        swatches=swatches_out(state.palette, coverage_of(links)),
        groups=groups_out(state.palette), columns=state.palette.columns, slots=state.palette.slots,
        tags=list(state.palette.tags), variants=variants_out(state.palette), variant=state.palette.variant,
        links=[_link_out(link, pictures) for link in links if link["picture"] in pictures],
    )  # fmt: skip
