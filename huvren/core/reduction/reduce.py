"""The reduction itself, in three steps that can be called apart.

`prepare` counts the colors of one frame or of several, `choose` finds the colors for all of them together, `lay_out` paints
each. One picture is one frame: `reduce_picture` does all three. Frames of a sequence share their colors.
"""

import time
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from huvren.core.color.arrays import Bytes, Floats
from huvren.core.color.eight_bits import to_eight_bits
from huvren.core.color.notation import parse_color
from huvren.core.color.transfer import decode_srgb_array, encode_srgb_array
from huvren.core.errors import BadInput
from huvren.core.progress import Hurry, Watch, never, part_of, unwatched
from huvren.core.ramp.plan import plain_only
from huvren.core.reduction.afar import mean_from_afar, sigma_of
from huvren.core.reduction.bettering import better
from huvren.core.reduction.choosers import CHOOSERS
from huvren.core.reduction.choosing import ColorBytes, choose_colors, must_keep
from huvren.core.reduction.dithers import DITHERS
from huvren.core.reduction.histogram import Histogram, build_histogram, oklab_of_rgb, unite
from huvren.core.reduction.painting import paint
from huvren.core.reduction.recipe import MOST, ReduceRecipe, searches_longer
from huvren.core.reduction.report import Figures, measure, measure_nearest
from huvren.core.reduction.toning import toned
from huvren.core.reduction.weighing import draw_mask, weigh_by_marks


@dataclass(frozen=True)
class Frame:
    """rgba : (h, w, 4) uint8; histogram of it; weights : (d,) how much each of its colors counts, or None for its pixels."""

    rgba: Bytes
    histogram: Histogram
    """Its distinct colors and their pixels."""
    weights: Floats | None


@dataclass(frozen=True)
class Prepared:
    """One frame or several, counted. histogram, weights : of all frames together; room : for opaque colors."""

    frames: tuple[Frame, ...]
    """One for a picture."""
    histogram: Histogram
    weights: Floats | None
    room: int
    wants_transparent: bool
    """Whether an index is needed for clear pixels."""
    notes: tuple[str, ...]
    """Sentences for the artist."""


@dataclass(frozen=True)
class Chosen:
    """rgb : (k, 3) uint8, the opaque colors in index order; oklab : (k, 3) float32; transparent : its index or −1."""

    rgb: Bytes
    oklab: Floats
    transparent: int
    notes: tuple[str, ...]
    """Sentences for the artist."""


@dataclass(frozen=True)
class Reduction:
    """rgb : (k, 3) uint8 in index order, kept colors first, then from dark to light, the transparent index last.

    indices : (h, w) uint8; transparent : its index or −1; notes : what a reader should know; seconds : per step
    tile_losses : (rows, columns) mean ΔEOK×100 that a tile limit cost, or None
    """

    rgb: Bytes
    indices: Bytes
    transparent: int
    figures: Figures
    """How near it comes."""
    notes: tuple[str, ...] = ()
    seconds: dict[str, float] = field(default_factory=dict)
    tile_losses: Floats | None = None


def flatten_over(rgba: Bytes, ground: str) -> Bytes:
    """(h, w, 4) uint8 laid over an opaque color, mixed in linear light.

    Parameters
    ----------
    rgba : Bytes
        (h, w, 4) uint8.
    ground : str
        The color below, as text.

    Returns
    -------
    Bytes
        (h, w, 4) uint8 laid over an opaque color, mixed in linear light.
    """
    under = decode_srgb_array(np.array(parse_color(ground).bytes[:3]) / 255)
    result = rgba.copy()
    partly = rgba[..., 3] < 255
    cover = rgba[partly, 3:].astype(np.float64) / 255
    mixed = decode_srgb_array(rgba[partly, :3] / 255) * cover + under * (1 - cover)
    result[partly, :3] = to_eight_bits(encode_srgb_array(mixed))
    result[..., 3] = 255
    return result


def _painted_over(frame: Bytes) -> Bytes:
    """A copy without transparency."""
    opaque = frame.copy()
    opaque[..., 3] = 255
    return opaque


def prepare(
    frames: Sequence[Bytes], recipe: ReduceRecipe, histograms: Sequence[Histogram | None] = (), mask: Bytes | None = None
) -> Prepared:
    """Count the colors of one (h, w, 4) uint8 frame or several.

    Parameters
    ----------
    frames : Sequence[Bytes]
        (h, w, 4) uint8 each.
    recipe : ReduceRecipe
        The settings.
    histograms : Sequence[Histogram | None]
        Those built earlier from the same frames, None for each that was not.
    mask : Bytes | None
        See `mask_of_gray`; in place of the recipe's marks, or None.

    Returns
    -------
    Prepared
        The frames with their colors counted, together and each.

    Raises
    ------
    BadInput
        Where there is no frame or one has no pixels.
    """
    if not frames:
        raise BadInput("There is no picture to reduce.")
    notes: list[str] = []
    known = list(histograms) or [None] * len(frames)
    pictures = list(frames)
    if recipe.tone is not None:
        ramp = recipe.tone.plan().ramp(plain_only)
        pictures, known = [toned(rgba, ramp, recipe.tone.steps) for rgba in pictures], [None] * len(pictures)
    for place, rgba in enumerate(pictures):
        known_one = known[place]
        if recipe.flatten is not None and int(rgba[..., 3].min()) < 255:
            pictures[place], known[place] = flatten_over(rgba, recipe.flatten), None
        elif known_one is not None and known_one.alpha_threshold != recipe.alpha_threshold:
            known[place] = None
    counted = [known_one or build_histogram(rgba, recipe.alpha_threshold) for rgba, known_one in zip(pictures, known, strict=True)]
    together = unite(counted)
    wants_transparent = together.transparent > 0
    if wants_transparent and recipe.colors == 1 and together.distinct and not CHOOSERS[recipe.chooser].sets_count:
        # One index cannot show both; the shape of the picture is given up rather than its color.
        notes.append("One color leaves no index for transparency, so transparent pixels are painted too.")
        pictures = [_painted_over(rgba) for rgba in pictures]
        counted = [build_histogram(rgba, recipe.alpha_threshold) for rgba in pictures]
        together, wants_transparent = unite(counted), False
    weights = [_weights(rgba, histogram, recipe, mask) for rgba, histogram in zip(pictures, counted, strict=True)]
    told = [row for row in weights if row is not None]
    total = None
    if told:
        total = np.zeros(together.distinct, dtype=np.float32)
        for histogram, row in zip(counted, told, strict=True):
            total[np.searchsorted(together.colors, histogram.colors)] += row
        if not total.any():
            notes.append("The marks ignore the whole picture, so all of it counts.")
    made = tuple(Frame(*row) for row in zip(pictures, counted, weights, strict=True))
    return Prepared(made, together, total, recipe.colors - wants_transparent, wants_transparent, tuple(notes))


def _weights(rgba: Bytes, histogram: Histogram, recipe: ReduceRecipe, mask: Bytes | None) -> Floats | None:
    if mask is None and recipe.marks:
        mask = draw_mask(recipe.marks, rgba.shape[1], rgba.shape[0])
    return None if mask is None else weigh_by_marks(rgba, histogram, mask)


def choose(
    prepared: Prepared, recipe: ReduceRecipe, keep: Sequence[ColorBytes] = (), watch: Watch = unwatched, hurry: Hurry = never
) -> Chosen:
    """The colors for all frames. keep : 8-bit sRGB colors that must be among them; hurry : to look for them quickly, only to show.

    Raises `BadInput` for settings that contradict each other, and whatever the watch raises.
    """
    wanted = must_keep(recipe, keep, prepared.room, recipe.colors)
    rgb = choose_colors(prepared.histogram, recipe, wanted, prepared.room, prepared.weights)
    if len(rgb) + prepared.wants_transparent <= MOST:
        rgb = better(
            prepared.frames,
            prepared.histogram,
            prepared.weights,
            recipe,
            rgb,
            len(wanted),
            prepared.wants_transparent,
            watch,
            hurry,
        )
    total = len(rgb) + prepared.wants_transparent
    if total > MOST:
        raise BadInput(f"That makes {total} colors; an indexed picture holds {MOST}. Take fewer.")
    notes: tuple[str, ...] = ()
    if recipe.tile is not None and recipe.tile.colors > len(rgb) and len(rgb):
        notes = (f"The limit of {recipe.tile.colors} colors a tile has no effect: there are {len(rgb)} in all.",)
    return Chosen(rgb, oklab_of_rgb(rgb), len(rgb) if prepared.wants_transparent else -1, notes)


def lay_out(frame: Frame, chosen: Chosen, recipe: ReduceRecipe) -> tuple[Bytes, Figures, Floats | None]:
    """Paint one frame with the chosen colors: (h, w) uint8 indices, the figures, and what a tile limit cost, or None.

    Parameters
    ----------
    frame : Frame
        A picture with its colors counted.
    chosen : Chosen
        The colors, and how they were come by.
    recipe : ReduceRecipe
        The settings.

    Returns
    -------
    tuple[Bytes, Figures, Floats | None]
        (h, w) uint8 indices, the figures, and what a tile limit cost.
    """
    histogram = frame.histogram
    painted = paint(frame.rgba, histogram, chosen.rgb, chosen.transparent, recipe)
    if painted.is_nearest:
        figures = measure_nearest(histogram, painted.nearest, painted.spans, chosen.transparent)
    else:
        figures = measure(frame.rgba, histogram, painted.indices, chosen.oklab)
    afar = mean_from_afar(frame.rgba, painted.indices, chosen.rgb, histogram.alpha_threshold, sigma_of(recipe.distance))
    return painted.indices, replace(figures, afar=afar), painted.losses


FEW, CLEARLY, MOST_COMPARED = 4, 0.95, 1_000_000
"""Up to so many colors, and pixels, another way of dithering is tried too, and named where it is clearly nearer from afar."""
COMPARING_AT = 0.95
"""Of all the work."""
OTHER_WAY = {True: "ordered", False: "floyd-steinberg"}


def _better_way(
    rgba: Bytes,
    recipe: ReduceRecipe,
    keep: Sequence[ColorBytes],
    histogram: Histogram,
    mask: Bytes | None,
    figures: Figures,
    watch: Watch,
    hurry: Hurry,
) -> tuple[str, ...]:
    """A note where very few colors, diffused or ordered, do better the other way."""
    few = recipe.colors <= FEW and recipe.dither != "none" and recipe.search == "usual"
    if not few or figures.afar is None or rgba[..., 0].size > MOST_COMPARED or hurry():
        return ()
    other = recipe.model_copy(update={"dither": OTHER_WAY[DITHERS[recipe.dither].is_diffusion]})
    prepared = prepare([rgba], other, [histogram], mask)
    afar = lay_out(prepared.frames[0], choose(prepared, other, keep, lambda step, _: watch(step, COMPARING_AT)), other)[1].afar
    if afar is None or afar >= CLEARLY * figures.afar:
        return ()
    label = DITHERS[other.dither].label
    return (f"With so few colors “{label}” comes nearer from afar: ΔE {afar:.1f} in place of {figures.afar:.1f}.",)


def reduce_picture(
    rgba: Bytes,
    recipe: ReduceRecipe,
    keep: Sequence[ColorBytes] = (),
    histogram: Histogram | None = None,
    watch: Watch = unwatched,
    mask: Bytes | None = None,
    hurry: Hurry = never,
) -> Reduction:
    """All three steps for one (h, w, 4) uint8 picture.

    Parameters
    ----------
    rgba : Bytes
        (h, w, 4) uint8.
    recipe : ReduceRecipe
        The settings.
    keep : Sequence[ColorBytes]
        8-bit sRGB colors that must be in the palette.
    histogram : Histogram | None
        One built earlier from the same picture, or None.
    watch : Watch
        Told of every step; what it raises is passed on.
    mask : Bytes | None
        See `mask_of_gray`; in place of the recipe's marks, or None.
    hurry : Hurry
        Whether colors are looked for quickly from then on, only to show.

    Returns
    -------
    Reduction
        Palette, index map and figures.

    Raises
    ------
    BadInput
        For settings that contradict each other.
    """
    clock = [time.perf_counter()]
    watch("counting colors", 0.0)
    prepared = prepare([rgba], recipe, [histogram], mask)
    clock.append(time.perf_counter())
    watch("choosing colors", 0.1)
    # A longer search is most of the work.
    chosen_at = 0.9 if searches_longer(recipe) else 0.4
    chosen = choose(prepared, recipe, keep, part_of(watch, 0.1, chosen_at), hurry)
    clock.append(time.perf_counter())
    watch("laying out pixels", chosen_at)
    indices, figures, losses = lay_out(prepared.frames[0], chosen, recipe)
    notes = prepared.notes + chosen.notes
    notes += _better_way(rgba, recipe, keep, prepared.frames[0].histogram, mask, figures, watch, hurry)
    clock.append(time.perf_counter())
    seconds = {step: clock[place + 1] - clock[place] for place, step in enumerate(("count", "choose", "map"))}
    return Reduction(chosen.rgb, indices, chosen.transparent, figures, notes, seconds, losses)
