"""Reductions: the live preview, keeping one as a step, and delivering the picture."""

from dataclasses import asdict, dataclass, replace
from typing import Any, Literal
from uuid import UUID

import numpy as np
from django.db import transaction

from huvren.core.color.arrays import Bytes
from huvren.core.errors import BadInput, Unknown
from huvren.core.formats import Document, writers_of
from huvren.core.palette import values
from huvren.core.pictures import encode_gray
from huvren.core.progress import Watch, at_once, never, part_of, unwatched
from huvren.core.reduction.adopt import Adopted, adopt, kept_colors
from huvren.core.reduction.afar import mean_from_afar, sigma_of
from huvren.core.reduction.choosers import CHOOSERS
from huvren.core.reduction.curve import Curve, error_curve
from huvren.core.reduction.histogram import oklab_of_rgb
from huvren.core.reduction.painting import paint
from huvren.core.reduction.pieces import telling_piece
from huvren.core.reduction.recipe import ReduceRecipe, is_tuned, say, searches_longer
from huvren.core.reduction.reduce import Reduction, choose, prepare, reduce_picture
from huvren.core.reduction.report import measure
from huvren.core.reduction.views import afar_map, error_map, tile_map
from huvren.core.stored.job import REDUCTION, ReductionRequest
from huvren.core.stored.link import Link, LinkFigures
from huvren.studio.access import User, find
from huvren.studio.errors import StaleRevision
from huvren.studio.models import Job, Picture
from huvren.studio.services.bench.pictures import WORKING, look_up, stem
from huvren.studio.services.load import jobs
from huvren.studio.services.load.jobs import PaletteMade, Turn
from huvren.studio.services.load.lane import LANE
from huvren.studio.services.shelf import palettes
from huvren.studio.services.shelf.links import Links, follow, frame_of, index_map_of, store_map

MANY = 2
"""From so many others that wait for their turn or have it on, previews do only what is quick."""
NOT_TUNED = "Many others are at work, so the colors of this preview are not tuned to the dither; those of the kept result are."
LOOKED_QUICKLY = "Others are at work, so the colors of this preview were looked for quickly; the kept result takes its time."


@dataclass(frozen=True)
class Proposed:
    """A reduction that is not kept yet."""

    adopted: Adopted
    reduction: Reduction
    is_full: bool
    sentence: str
    pixels: int
    """Of the picture at its full size."""


def _seed(palette_id: UUID | None, base: int, recipe: ReduceRecipe) -> str:
    # A swatch is the same one before and after it is tuned: its id says at which place it was chosen, and for what.
    return f"{palette_id}:{base}:{recipe.model_dump_json(exclude={'tune', 'search', 'distance', 'grain'})}"


@dataclass
class Manners:
    """How an artist's preview goes on while others are at work; whether it was hurried on can be asked afterwards."""

    artist: int
    did_hurry: bool = False

    def are_many(self) -> bool:
        """Whether so many others are there that only what is quick is done."""
        return LANE.is_wanted(by=MANY, besides=self.artist)

    def hurry(self) -> bool:
        """Whether anybody else is there, looked for anew."""
        LANE.look_around(self.artist)
        self.did_hurry = self.did_hurry or LANE.is_wanted(besides=self.artist)
        return self.did_hurry


def propose(
    picture: Picture, palette: values.Palette, recipe: ReduceRecipe, seed: str, *, preview: bool, watch: Watch = unwatched
) -> Proposed:
    """Reduce a picture for a palette: locked swatches stay. A preview searches as is usual, and quickly while others wait."""
    watch("reading the picture", 0.0)
    small = preview and previews_small(picture, recipe)
    working = WORKING.get(picture, preview=small, alpha_threshold=recipe.alpha_threshold)
    keep = kept_colors(palette, recipe)
    done = as_previewed(recipe) if preview else recipe
    manners = Manners(picture.owner_id)
    may_hurry = preview and is_tuned(done)
    is_plain = may_hurry and manners.are_many()
    if is_plain:
        done = done.model_copy(update={"tune": False})
    parts = part_of(watch, 0.25, 0.85)
    reduction = reduce_picture(working.rgba, done, keep, working.histogram, watch=parts, hurry=manners.hurry if may_hurry else never)
    if is_plain or manners.did_hurry:
        reduction = replace(reduction, notes=(*reduction.notes, NOT_TUNED if is_plain else LOOKED_QUICKLY))
    watch("storing the result", 0.85)
    adopted = adopt(palette, reduction, recipe, seed)
    is_full = working.is_full and not (is_plain or manners.did_hurry)
    return Proposed(adopted, reduction, is_full, say(recipe, len(keep)), picture.width * picture.height)


def as_previewed(recipe: ReduceRecipe) -> ReduceRecipe:
    """The recipe without its longer search, which is a job's work."""
    return recipe.model_copy(update={"search": "usual"})


def preview(user: User, palette_id: UUID, picture_id: UUID, recipe: ReduceRecipe) -> tuple[palettes.State, Proposed]:
    """What keeping this recipe would give; nothing is stored."""
    state = palettes.get_state(user, palette_id)
    picture = find(user, Picture, picture_id)
    return state, propose(picture, state.palette, recipe, _seed(palette_id, state.row.head, recipe), preview=True)


def figures_of(reduction: Reduction) -> dict[str, Any]:
    """The figures line, as kept with the link."""
    figures = asdict(reduction.figures)
    del figures["counts"]
    return figures


MOST_MARKED_TILES = 60


def worst_tiles(reduction: Reduction) -> tuple[tuple[float, float, float], ...]:
    """[row, column, mean ΔEOK×100] of the tiles that the limit cost most, the worst first."""
    if reduction.tile_losses is None:
        return ()
    losses = reduction.tile_losses
    order = np.argsort(-losses, axis=None)[:MOST_MARKED_TILES]
    rows, columns = np.unravel_index(order, losses.shape)
    return tuple(
        (int(row), int(column), round(float(losses[row, column]), 2))
        for row, column in zip(rows, columns, strict=True)
        if losses[row, column] > 0
    )


def tile_picture(reduction: Reduction) -> bytes:
    """What the tile limit cost, as a gray PNG of a pixel a tile; empty where there is no limit."""
    return b"" if reduction.tile_losses is None else encode_gray(tile_map(reduction.tile_losses))


def previews_small(picture: Picture, recipe: ReduceRecipe) -> bool:
    """Whether a recipe is previewed on a smaller copy. A tile limit is not, unless the picture is very large: its tiles
    are counted in the picture's own pixels; neither are the picture's own colors."""
    if CHOOSERS[recipe.chooser].counts_all:
        return False
    return recipe.tile is None or takes_long(picture)


def curve_of(user: User, picture_id: UUID) -> Curve:
    """How many colors the picture needs, looked at on the scale of previews; `distinct` is that of the whole picture."""
    picture = find(user, Picture, picture_id)
    working = WORKING.get(picture, preview=True, alpha_threshold=128)
    return replace(error_curve(working.histogram), distinct=picture.distinct)


def piece_of(user: User, palette_id: UUID, picture_id: UUID, recipe: ReduceRecipe) -> Bytes:
    """(h, w, 3) uint8: a piece of the picture as a recipe would paint it, from a small copy."""
    picture = find(user, Picture, picture_id)
    state = palettes.get_state(user, palette_id)
    working = WORKING.get(picture, preview=True, alpha_threshold=recipe.alpha_threshold, tiny=True)
    prepared = prepare([working.rgba], recipe, [working.histogram])
    chosen = choose(prepared, as_previewed(recipe), kept_colors(state.palette, recipe), hurry=at_once)
    frame = prepared.frames[0]
    indices = paint(frame.rgba, frame.histogram, chosen.rgb, chosen.transparent, recipe).indices
    rgb = np.concatenate([chosen.rgb, np.full((1, 3), 255, dtype=np.uint8)])
    return np.asarray(rgb[indices[telling_piece(working.rgba, recipe.alpha_threshold)]])


MapKind = Literal["pixels", "afar"]
"""What an error map shows: pixels one by one, or what the eye mixes of them from afar."""


def _map(kind: MapKind, rgba: Bytes, indices: Bytes, rgb: Bytes, clear: int, recipe: ReduceRecipe) -> Bytes:
    if kind == "afar":
        return afar_map(rgba, indices, rgb, recipe.alpha_threshold, sigma_of(recipe.distance))
    return error_map(rgba, indices, oklab_of_rgb(rgb), clear)


def errors_of(user: User, palette_id: UUID, picture_id: UUID, recipe: ReduceRecipe | None, kind: MapKind = "pixels") -> Bytes:
    """(h, w) uint8, where the result differs: of a recipe that is tried out, or as the palette stands."""
    picture = find(user, Picture, picture_id)
    state = palettes.get_state(user, palette_id)
    if recipe is not None:
        small = previews_small(picture, recipe)
        working = WORKING.get(picture, preview=small, alpha_threshold=recipe.alpha_threshold)
        keep = kept_colors(state.palette, recipe)
        reduction = reduce_picture(working.rgba, as_previewed(recipe), keep, working.histogram)
        return _map(kind, working.rgba, reduction.indices, reduction.rgb, reduction.transparent, recipe)
    link = _link_of(state, picture_id)
    working = WORKING.get(picture, preview=False, alpha_threshold=link.recipe.alpha_threshold)
    by_id = {swatch.id: swatch.color for swatch in state.palette.swatches}
    colors = [None if swatch_id is None else by_id.get(swatch_id) for swatch_id in link.table]
    rgb = np.array([color.bytes[:3] if color else (0, 0, 0) for color in colors], dtype=np.uint8)
    clear = next((index for index, color in enumerate(colors) if color is not None and color.alpha == 0), -1)
    return _map(kind, working.rgba, index_map_of(link), rgb, clear, link.recipe)


def _link(picture: Picture, proposed: Proposed, recipe: ReduceRecipe) -> Link:
    reduction = proposed.reduction
    height, width = reduction.indices.shape
    table = tuple(proposed.adopted.table) or (None,)
    row = store_map(picture, reduction.indices, tile_picture(reduction))
    return Link(
        picture=str(picture.id), width=width, height=height, table=table,
        frames=(frame_of(row, reduction.figures.counts[: len(table)]),), recipe=recipe,
        figures=LinkFigures(**figures_of(reduction)), notes=tuple(reduction.notes), worst_tiles=worst_tiles(reduction),
    )  # fmt: skip


def links_beside(state: palettes.State, palette: values.Palette, picture_id: UUID) -> Links:
    """The other linked pictures, as they would be painted by the palette after this one was reduced."""
    others = tuple(link for link in state.links if link.picture != str(picture_id))
    return follow(others, state.palette, palette, {})


def unlink(user: User, palette_id: UUID, base: int, picture_id: UUID, once: UUID | None = None) -> palettes.State:
    """Take a picture off the palette, as one step. The picture itself stays on the shelf.

    Raises `Unknown` where it is not linked, else as `palettes.check_wish` does.
    """
    with transaction.atomic():
        state = palettes.open_for_change(user, palette_id, base, once)
        _link_of(state, picture_id)
        others = tuple(link for link in state.links if link.picture != str(picture_id))
        name = stem(find(user, Picture, picture_id).name)
        return palettes.add_revision(state, state.palette, f"Take “{name}” off the palette", others)


def keep(
    user: User,
    palette_id: UUID,
    base: int,
    picture_id: UUID,
    recipe: ReduceRecipe,
    turn: Turn | None = None,
    once: UUID | None = None,
) -> palettes.State:
    """Reduce at full size and store the result as one step. The work is done before the palette is locked."""
    picture = find(user, Picture, picture_id)
    state = palettes.get_state(user, palette_id)
    palettes.check_wish(state.row, base, once, lambda: state)
    watch = turn.watch if turn else unwatched
    proposed = propose(picture, state.palette, recipe, _seed(palette_id, base, recipe), preview=False, watch=watch)
    with transaction.atomic():
        state = palettes.open_for_change(user, palette_id, base, once)
        palette = proposed.adopted.palette
        links = list(links_beside(state, palette, picture_id))
        label = f"{stem(picture.name)}: {proposed.sentence}" if links else proposed.sentence
        place = next((at for at, link in enumerate(state.links) if link.picture == str(picture_id)), len(links))
        links.insert(place, _link(picture, proposed, recipe))
        kept = palettes.add_revision(state, palette, label, tuple(links))
        if turn:
            turn.finish(PaletteMade(palette_id))
    return kept


def create_from_picture(user: User, picture_id: UUID, recipe: ReduceRecipe, turn: Turn | None = None) -> palettes.State:
    """A new palette from a picture, reduced by the recipe."""
    picture = find(user, Picture, picture_id)
    seed = _seed(None, 0, recipe) + str(picture_id)
    watch = turn.watch if turn else unwatched
    proposed = propose(picture, values.Palette(stem(picture.name)), recipe, seed, preview=False, watch=watch)
    with transaction.atomic():
        state = palettes.create(user, proposed.adopted.palette, proposed.sentence, (_link(picture, proposed, recipe),))
        if turn:
            turn.finish(PaletteMade(state.row.id))
    return state


def takes_long(picture: Picture) -> bool:
    """Whether reducing this picture is a job rather than an answer that is waited for."""
    return picture.width * picture.height > jobs.JOB_PIXELS


def is_a_job(picture: Picture, recipe: ReduceRecipe) -> bool:
    """Whether keeping this recipe is: of a large picture, or where it searches longer."""
    return takes_long(picture) or searches_longer(recipe)


def keep_or_start(
    user: User, palette_id: UUID, base: int, picture_id: UUID, recipe: ReduceRecipe, once: UUID | None = None
) -> palettes.State | Job:
    """Keep a reduction at once, or as a job where the picture is large; the job of a wish has its id, and is begun once."""
    picture = find(user, Picture, picture_id)
    if not is_a_job(picture, recipe):
        return keep(user, palette_id, base, picture_id, recipe, once=once)
    if once is not None and (begun := jobs.begun_by(user, once)):
        return begun
    state = palettes.get_state(user, palette_id)
    palettes.check_wish(state.row, base, None, lambda: state)
    request = ReductionRequest(picture=picture_id, palette=palette_id, base=base, recipe=recipe)
    label = f"{picture.name}: {say(recipe, len(kept_colors(state.palette, recipe)))}"
    return jobs.start(user, REDUCING, label, request, palette_id, once)


def create_or_start(user: User, picture_id: UUID, recipe: ReduceRecipe) -> palettes.State | Job:
    """A new palette from a picture at once, or as a job where the picture is large."""
    picture = find(user, Picture, picture_id)
    if not is_a_job(picture, recipe):
        return create_from_picture(user, picture_id, recipe)
    request = ReductionRequest(picture=picture_id, recipe=recipe)
    return jobs.start(user, REDUCING, f"{picture.name}: {say(recipe)}", request)


def _work(turn: Turn, wanted: ReductionRequest) -> None:
    if wanted.palette is None or wanted.base is None:
        create_from_picture(turn.job.owner, wanted.picture, wanted.recipe, turn)
        return
    try:
        keep(turn.job.owner, wanted.palette, wanted.base, wanted.picture, wanted.recipe, turn)
    except StaleRevision as stale:
        raise BadInput(
            "The palette was changed while its picture waited to be reduced, so the result was not kept. "
            "Nothing was lost: try again to reduce for the palette as it is now."
        ) from stale


def _for_the_newest(request: ReductionRequest, job: Job) -> ReductionRequest:
    """Done again, a reduction is for the palette as it is by then."""
    return request if job.palette is None else request.model_copy(update={"base": job.palette.head})


REDUCING = jobs.KINDS.register(jobs.JobKind("reduction", REDUCTION, PaletteMade, _work, again=_for_the_newest))


def _link_of(state: palettes.State, picture_id: UUID) -> Link:
    for link in state.links:
        if link.picture == str(picture_id):
            return link
    raise Unknown("That picture is not painted with this palette. Reduce it first.")


def document_of(state: palettes.State, picture_id: UUID | None) -> Document:
    """The palette with, where a picture is named, its pixels as strip positions."""
    if picture_id is None:
        return Document(state.palette)
    link = _link_of(state, picture_id)
    numbered = state.palette.slots is not None
    place = {s.id: s.slot if numbered and s.slot is not None else index for index, s in enumerate(state.palette.swatches)}
    if any(swatch_id is None and count for swatch_id, count in zip(link.table, link.counts, strict=True)):
        raise BadInput("Some pixels have no swatch any more. Reduce the picture again before delivering it.")
    table = [0 if swatch_id is None else place.get(swatch_id, 0) for swatch_id in link.table]
    if max(table, default=0) > 255:
        raise BadInput("A swatch beyond index 255 paints the picture; an indexed picture holds 256 colors.")
    frames = tuple(look_up(table, index_map_of(link, frame)) for frame in range(len(link.frames)))
    return Document(state.palette.filled(), frames)


def figures_now(user: User, palette_id: UUID, picture_id: UUID) -> dict[str, Any]:
    """Figures of the picture as its palette stands now, and the size of the file that would be delivered."""
    state = palettes.get_state(user, palette_id)
    link = _link_of(state, picture_id)
    picture = find(user, Picture, picture_id)
    working = WORKING.get(picture, preview=False, alpha_threshold=link.recipe.alpha_threshold)
    by_id = {swatch.id: swatch.color for swatch in state.palette.swatches}
    rgb = np.array([by_id[i].bytes[:3] if i is not None and i in by_id else (0, 0, 0) for i in link.table], dtype=np.uint8)
    indices, recipe = index_map_of(link), link.recipe
    figures = asdict(measure(working.rgba, working.histogram, indices, oklab_of_rgb(rgb)))
    figures["afar"] = mean_from_afar(working.rgba, indices, rgb, recipe.alpha_threshold, sigma_of(recipe.distance))
    counts = figures.pop("counts")
    figures["used"] = len({i for i, count in zip(link.table, counts, strict=False) if i and count})
    try:
        figures["bytes"] = len(writers_of("picture")[0].written(document_of(state, picture_id)))
    except BadInput:
        figures["bytes"] = None
    return figures


def proposed_size(proposed: Proposed) -> int | None:
    """Bytes of the indexed PNG that keeping the proposal would deliver; None where it was made at a smaller scale."""
    if not proposed.is_full:
        return None
    place = {swatch.id: index for index, swatch in enumerate(proposed.adopted.palette.swatches)}
    table = [place[swatch_id] for swatch_id in proposed.adopted.table]
    frames = (look_up(table, proposed.reduction.indices),)
    return len(writers_of("picture")[0].written(Document(proposed.adopted.palette, frames)))
