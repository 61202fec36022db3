"""Reductions: the live preview, keeping one as a step, and delivering the picture."""

import gzip
from dataclasses import asdict, dataclass, replace
from typing import Any
from uuid import UUID

import numpy as np
from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction

from huvren.core.color.arrays import Bytes
from huvren.core.errors import BadInput, Unknown
from huvren.core.formats import FORMATS, Document
from huvren.core.palette import values
from huvren.core.reduction.adopt import Adopted, adopt, kept_colors
from huvren.core.reduction.curve import Curve, error_curve
from huvren.core.reduction.histogram import oklab_of_rgb
from huvren.core.reduction.recipe import ReduceRecipe, say
from huvren.core.reduction.reduce import Reduction, reduce_picture
from huvren.core.reduction.report import measure
from huvren.core.reduction.views import error_map
from huvren.studio.models import IndexMap, Picture
from huvren.studio.services import get_owned, palettes
from huvren.studio.services.links import Link
from huvren.studio.services.pictures import WORKING, look_up, stem

STORED_LEVEL = 6


@dataclass(frozen=True)
class Proposed:
    """A reduction that is not kept yet."""

    adopted: Adopted
    reduction: Reduction
    is_full: bool
    sentence: str


def _seed(palette_id: UUID | None, base: int, recipe: ReduceRecipe) -> str:
    return f"{palette_id}:{base}:{recipe.model_dump_json()}"


def propose(picture: Picture, palette: values.Palette, recipe: ReduceRecipe, seed: str, *, preview: bool) -> Proposed:
    """Reduce a picture for a palette: locked swatches stay."""
    working = WORKING.get(picture, preview=preview, alpha_threshold=recipe.alpha_threshold)
    keep = kept_colors(palette)
    reduction = reduce_picture(working.rgba, recipe, keep, working.histogram)
    return Proposed(adopt(palette, reduction, seed, recipe.order), reduction, working.is_full, say(recipe, len(keep)))


def preview(owner: AbstractBaseUser, palette_id: UUID, picture_id: UUID, recipe: ReduceRecipe) -> tuple[palettes.State, Proposed]:
    """What keeping this recipe would give; nothing is stored."""
    state = palettes.get_state(owner, palette_id)
    picture = get_owned(Picture, owner, picture_id)
    return state, propose(picture, state.palette, recipe, _seed(palette_id, state.row.head, recipe), preview=True)


def figures_of(reduction: Reduction) -> dict[str, Any]:
    """The figures line, as kept with the link."""
    figures = asdict(reduction.figures)
    del figures["counts"]
    return figures


MOST_MARKED_TILES = 60


def worst_tiles(reduction: Reduction) -> list[list[float]]:
    """[row, column, mean ΔEOK×100] of the tiles that the limit cost most, the worst first."""
    if reduction.tile_losses is None:
        return []
    losses = reduction.tile_losses
    order = np.argsort(-losses, axis=None)[:MOST_MARKED_TILES]
    rows, columns = np.unravel_index(order, losses.shape)
    return [
        [int(row), int(column), round(float(losses[row, column]), 2)]
        for row, column in zip(rows, columns, strict=True)
        if losses[row, column] > 0
    ]


def curve_of(owner: AbstractBaseUser, picture_id: UUID) -> Curve:
    """How many colors the picture needs, looked at on the scale of previews; `distinct` is that of the whole picture."""
    picture = get_owned(Picture, owner, picture_id)
    working = WORKING.get(picture, preview=True, alpha_threshold=128)
    return replace(error_curve(working.histogram), distinct=picture.distinct)


def errors_of(owner: AbstractBaseUser, palette_id: UUID, picture_id: UUID, recipe: ReduceRecipe | None) -> Bytes:
    """(h, w) uint8, where the result differs: of a recipe that is tried out, or as the palette stands."""
    picture = get_owned(Picture, owner, picture_id)
    state = palettes.get_state(owner, palette_id)
    if recipe is not None:
        working = WORKING.get(picture, preview=True, alpha_threshold=recipe.alpha_threshold)
        reduction = reduce_picture(working.rgba, recipe, kept_colors(state.palette), working.histogram)
        return error_map(working.rgba, reduction.indices, oklab_of_rgb(reduction.rgb), reduction.transparent)
    link = _link_of(state, picture_id)
    working = WORKING.get(picture, preview=False, alpha_threshold=link["recipe"]["alpha_threshold"])
    by_id = {swatch.id: swatch.color for swatch in state.palette.swatches}
    colors = [by_id.get(swatch_id) for swatch_id in link["table"]]
    rgb = np.array([color.bytes[:3] if color else (0, 0, 0) for color in colors], dtype=np.uint8)
    clear = next((index for index, color in enumerate(colors) if color is not None and color.alpha == 0), -1)
    return error_map(working.rgba, index_map_of(link), oklab_of_rgb(rgb), clear)


def _link(picture: Picture, proposed: Proposed, recipe: ReduceRecipe) -> Link:
    reduction = proposed.reduction
    height, width = reduction.indices.shape
    index_map = IndexMap.objects.create(
        picture=picture, width=width, height=height,
        data=gzip.compress(reduction.indices.tobytes(), STORED_LEVEL, mtime=0),
    )  # fmt: skip
    table = list(proposed.adopted.table) or [None]
    return {
        "picture": str(picture.id),
        "map": str(index_map.id),
        "width": width,
        "height": height,
        "table": table,
        "counts": [int(count) for count in reduction.figures.counts[: len(table)]],
        "recipe": recipe.model_dump(),
        "figures": figures_of(reduction),
        "notes": list(reduction.notes),
        "worst_tiles": worst_tiles(reduction),
    }


def keep(owner: AbstractBaseUser, palette_id: UUID, base: int, picture_id: UUID, recipe: ReduceRecipe) -> palettes.State:
    """Reduce at full size and store the result as one step. The work is done before the palette is locked."""
    picture = get_owned(Picture, owner, picture_id)
    state = palettes.get_state(owner, palette_id)
    proposed = propose(picture, state.palette, recipe, _seed(palette_id, base, recipe), preview=False)
    with transaction.atomic():
        state = palettes.open_for_change(owner, palette_id, base)
        others = [link for link in state.revision.links if link["picture"] != str(picture_id)]
        if others:
            raise BadInput("This palette already paints another picture. Open that one's own palette to reduce it.")
        return palettes.add_revision(state, proposed.adopted.palette, proposed.sentence, [_link(picture, proposed, recipe)])


@transaction.atomic
def create_from_picture(owner: AbstractBaseUser, picture_id: UUID, recipe: ReduceRecipe) -> palettes.State:
    """A new palette from a picture, reduced by the recipe."""
    picture = get_owned(Picture, owner, picture_id)
    seed = _seed(None, 0, recipe) + str(picture_id)
    proposed = propose(picture, values.Palette(stem(picture.name)), recipe, seed, preview=False)
    return palettes.create(owner, proposed.adopted.palette, proposed.sentence, [_link(picture, proposed, recipe)])


def _link_of(state: palettes.State, picture_id: UUID) -> Link:
    for link in state.revision.links:
        if link["picture"] == str(picture_id):
            return dict(link)
    raise Unknown("That picture is not painted with this palette. Reduce it first.")


def index_map_of(link: Link) -> Bytes:
    """The (h, w) index map of a link, as it was stored."""
    row = IndexMap.objects.get(pk=link["map"])
    return np.frombuffer(gzip.decompress(bytes(row.data)), dtype=np.uint8).reshape(row.height, row.width)


def document_of(state: palettes.State, picture_id: UUID | None) -> Document:
    """The palette with, where a picture is named, its pixels as strip positions."""
    if picture_id is None:
        return Document(state.palette)
    link = _link_of(state, picture_id)
    place = {swatch.id: index for index, swatch in enumerate(state.palette.swatches)}
    if any(swatch_id is None and count for swatch_id, count in zip(link["table"], link["counts"], strict=True)):
        raise BadInput("Some pixels have no swatch any more. Reduce the picture again before delivering it.")
    if max((place.get(swatch_id, 0) for swatch_id in link["table"]), default=0) > 255:
        raise BadInput("A swatch beyond index 255 paints the picture; an indexed picture holds 256 colors.")
    return Document(state.palette, look_up([place.get(swatch_id, 0) for swatch_id in link["table"]], index_map_of(link)))


def figures_now(owner: AbstractBaseUser, palette_id: UUID, picture_id: UUID) -> dict[str, Any]:
    """Figures of the picture as its palette stands now, and the size of the file that would be delivered."""
    state = palettes.get_state(owner, palette_id)
    link = _link_of(state, picture_id)
    picture = get_owned(Picture, owner, picture_id)
    working = WORKING.get(picture, preview=False, alpha_threshold=link["recipe"]["alpha_threshold"])
    by_id = {swatch.id: swatch.color for swatch in state.palette.swatches}
    rgb = [by_id[i].bytes[:3] if i in by_id else (0, 0, 0) for i in link["table"]]
    figures = asdict(measure(working.rgba, working.histogram, index_map_of(link), oklab_of_rgb(np.array(rgb, dtype=np.uint8))))
    counts = figures.pop("counts")
    figures["used"] = len({i for i, count in zip(link["table"], counts, strict=False) if i and count})
    writer = FORMATS["indexed-png"].write
    assert writer is not None
    try:
        figures["bytes"] = len(writer(document_of(state, picture_id)))
    except BadInput:
        figures["bytes"] = None
    return figures


def proposed_size(proposed: Proposed) -> int | None:
    """Bytes of the indexed PNG that keeping the proposal would deliver; None where it was made at a smaller scale."""
    if not proposed.is_full:
        return None
    writer = FORMATS["indexed-png"].write
    assert writer is not None
    place = {swatch.id: index for index, swatch in enumerate(proposed.adopted.palette.swatches)}
    table = [place[swatch_id] for swatch_id in proposed.adopted.table]
    return len(writer(Document(proposed.adopted.palette, look_up(table, proposed.reduction.indices))))
