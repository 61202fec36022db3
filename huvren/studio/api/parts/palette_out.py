"""A palette as it goes over the wire, with everything derived."""

from datetime import datetime
from typing import TYPE_CHECKING, Annotated, Any, get_type_hints
from uuid import UUID

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, create_model
from typing_extensions import TypedDict

from huvren.core.palette import values
from huvren.core.palette.baking import changed_by_hand, follows
from huvren.core.palette.derived import derive
from huvren.core.palette.fields import fields_of, sent, sent_of
from huvren.core.palette.values import Group, Palette, Swatch
from huvren.core.ramp.plan import plan_to_document
from huvren.core.ramp.recipe import RampRecipe
from huvren.core.reduction.recipe import ReduceRecipe
from huvren.core.reduction.views import gray_levels
from huvren.core.stored.link import Link
from huvren.studio.models import Picture
from huvren.studio.prepared import Prepared
from huvren.studio.services.shelf.cards import card_strip, hexes_of
from huvren.studio.services.shelf.links import Links, coverage_of, painted
from huvren.studio.services.shelf.palettes import State

Triple = tuple[float, float, float]


def _declared(owner: type) -> dict[str, Any]:
    """The types of the fields that a swatch, a group or a palette declares to be sent, with what the API says of them."""
    described = {field.name: field.declared.describes for field in fields_of(owner)}
    return {
        name: Annotated[kind, Field(description=described[name])] if described[name] else kind
        for name, kind in sent_of(owner).items()
    }


class _SwatchOut(TypedDict):
    id: str
    group: str | None
    space: str
    coords: list[float]
    alpha: float
    hex: str
    rgb: tuple[int, int, int]
    oklch: Triple
    in_srgb: bool
    gray: Annotated[int, Field(description="8-bit gray of the same OKLab lightness")]
    coverage: Annotated[float | None, Field(description="share of the linked pictures' pixels, 0..1")]
    nearest: Annotated[int | None, Field(description="index of the swatch most like it")]
    nearest_delta: Annotated[float | None, Field(description="ΔEOK×100 to it")]


if TYPE_CHECKING:
    SwatchOut = dict[str, Any]
    """A plain dictionary, as palettes have many: a `_SwatchOut` with the fields that swatches declare."""
else:
    SwatchOut = TypedDict("SwatchOut", {**get_type_hints(_SwatchOut, include_extras=True), **_declared(Swatch)})


class _GroupOut(BaseModel):
    id: str
    name: str


if TYPE_CHECKING:

    class GroupOut(_GroupOut):
        def __init__(self, **fields: Any) -> None: ...

else:
    GroupOut = create_model("GroupOut", __base__=_GroupOut, **_declared(Group))


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
    afar: float | None = Field(description="mean difference seen from afar; null where a reduction of before did not measure it")


class LinkOut(BaseModel):
    picture: PictureOut
    maps: list[UUID] = Field(description="the index map of every frame; a picture has one")
    width: int
    height: int
    table: list[str | None]
    recipe: ReduceRecipe
    figures: FiguresOut
    notes: list[str]
    worst_tiles: list[list[float]] = Field(description="row, column and loss of the tiles that a limit cost most")


class KeptRampOut(BaseModel):
    """A ramp that is kept with the palette."""

    id: str
    name: str
    tags: list[str]
    ramp: RampRecipe
    strip: str = Field(description="64 colors, rrggbbaa one after the other")
    group: str | None = Field(description="the group that it was baked into")
    baked: int = Field(description="how many swatches were baked from it")
    by_hand: list[str] = Field(description="ids of those that were changed by hand since")
    follows: bool = Field(description="whether its swatches are as baking it now would make them")
    following: bool = Field(description="whether its swatches change with it by themselves")


class _PaletteOut(BaseModel):
    id: UUID
    name: str
    revision: int
    label: str
    can_undo: bool
    can_redo: bool
    updated: datetime
    swatches: list[SwatchOut]
    groups: list[GroupOut]
    slots: int | None = Field(description="how many numbered places it has, where they are fixed")
    variants: list[VariantOut]
    variant: str | None
    ramps: list[KeptRampOut]
    links: list[LinkOut]
    notes: list[str] = Field(description="what should be said of the step that was just made")
    not_understood: list[str] = Field(description="sentences about what its stored form holds and this version cannot read")


if TYPE_CHECKING:

    class PaletteOut(_PaletteOut): ...

else:
    PaletteOut = create_model("PaletteOut", __base__=_PaletteOut, **_declared(Palette))


def swatches_out(palette: values.Palette, coverage: dict[str, float] | None) -> list[SwatchOut]:
    """Swatches with everything derived."""
    derived = derive([swatch.color for swatch in palette.swatches])
    grays = gray_levels(np.array([row.oklch[0] for row in derived])).tolist() if derived else []
    return [
        SwatchOut(
            id=swatch.id, group=swatch.group, space=swatch.color.space,
            coords=list(swatch.color.coords), alpha=swatch.color.alpha, hex=row.hex, rgb=row.rgb, oklch=row.oklch,
            in_srgb=row.in_srgb, gray=gray, coverage=None if coverage is None else coverage.get(swatch.id, 0.0),
            nearest=row.nearest, nearest_delta=row.nearest_delta, **sent(swatch),
        )
        for swatch, row, gray in zip(palette.swatches, derived, grays, strict=True)
    ]  # fmt: skip


def groups_out(palette: values.Palette) -> list[GroupOut]:
    return [GroupOut(id=group.id, name=group.name, **sent(group)) for group in palette.groups]


def variants_out(palette: values.Palette) -> list[VariantOut]:
    """Variants with the colors that the swatches have in each."""
    made = []
    for variant in palette.variants:
        colors = {} if variant.id == palette.variant else dict(variant.colors)
        hexes = hexes_of([colors.get(swatch.id, swatch.color) for swatch in palette.swatches])
        made.append(VariantOut(id=variant.id, name=variant.name, hexes=hexes))
    return made


def ramps_out(palette: values.Palette) -> list[KeptRampOut]:
    """Kept ramps with the colors that their swatches have now."""
    return [
        KeptRampOut.model_construct(
            id=kept.id, name=kept.name, tags=list(kept.tags), ramp=RampRecipe.model_validate(plan_to_document(kept.plan)),
            strip=card_strip(kept, palette).hex(), group=kept.group, baked=len(kept.baked),
            by_hand=[swatch.id for swatch in changed_by_hand(kept, palette)], follows=follows(kept, palette),
            following=kept.following,
        )
        for kept in palette.ramps
    ]  # fmt: skip


def picture_out(picture: Picture) -> PictureOut:
    return PictureOut.model_validate(picture)


def _link_out(link: Link, pictures: dict[str, Picture]) -> LinkOut:
    return LinkOut(
        picture=picture_out(pictures[link.picture]), maps=[UUID(frame.map) for frame in link.frames], width=link.width,
        height=link.height, table=list(link.table), recipe=link.recipe,
        figures=FiguresOut(**{name: getattr(link.figures, name) for name in FiguresOut.model_fields}),
        notes=list(link.notes), worst_tiles=[list(tile) for tile in link.worst_tiles],
    )  # fmt: skip


PICTURE = Prepared(lambda key: Picture.objects.filter(pk=key), UUID)
"""A picture by its id."""
FEW = 4


def _pictures_of(links: Links) -> dict[str, Picture]:
    """Those that links name and that are still there, by their ids."""
    ids = [link.picture for link in links]
    rows = [row for key in ids for row in PICTURE(UUID(key))] if len(ids) <= FEW else list(Picture.objects.filter(id__in=ids))
    return {str(row.id): row for row in rows}


def palette_out(state: State) -> PaletteOut:
    """The whole palette at a revision, built without a check: everything in it was checked on the way in."""
    links = state.links
    pictures = _pictures_of(links)
    return PaletteOut.model_construct(
        id=state.row.id, name=state.palette.name, revision=state.revision.number, label=state.revision.label,
        can_undo=state.can_undo, can_redo=state.can_redo, updated=state.row.updated,
        swatches=swatches_out(state.palette, coverage_of(painted(links))),
        groups=groups_out(state.palette), slots=state.palette.slots, variants=variants_out(state.palette),
        variant=state.palette.variant, ramps=ramps_out(state.palette), **sent(state.palette),
        notes=list(state.notes), not_understood=list(state.contents.problems),
        links=[_link_out(link, pictures) for link in links if link.picture in pictures],
    )  # fmt: skip
