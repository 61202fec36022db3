"""The recipe of a reduction: its settings, and the sentence that says them."""

from typing import Annotated, Literal

from pydantic import AfterValidator, ConfigDict, Field, field_validator

from huvren.core.bounded import Bounded
from huvren.core.choices import ColorText, DepthText, OneOf
from huvren.core.color.notation import parse_color
from huvren.core.ramp.plan import plain_only
from huvren.core.ramp.recipe import RampRecipe
from huvren.core.reduction.afar import ARMS_LENGTH, FARTHEST, NEAREST, distance_name
from huvren.core.reduction.choosers import CHOOSERS
from huvren.core.reduction.depth import parse_depth
from huvren.core.reduction.dithers import DITHERS
from huvren.core.reduction.grain import FINE, FINEST, FREE, grain_name
from huvren.core.reduction.metrics import METRICS
from huvren.core.reduction.orders import ORDERS
from huvren.core.reduction.weighing import MOST_MARKS, Mark, check_marks

FEWEST, MOST = 1, 256
MOST_LISTED = 1024


def _depth(text: str) -> str:
    parse_depth(text)
    return text.strip()


class TileLimit(Bounded):
    """At most `colors` colors in each tile of width × height pixels."""

    model_config = ConfigDict(frozen=True, extra="forbid", defer_build=True)
    width: int = Field(ge=1, le=256)
    height: int = Field(ge=1, le=256)
    colors: int = Field(ge=1, le=MOST)


class ReduceRecipe(Bounded):
    """Settings of a reduction. `colors` counts every index, the transparent one included."""

    model_config = ConfigDict(frozen=True, extra="forbid", defer_build=True)
    kind: Literal["reduce"] = "reduce"
    colors: int = Field(default=24, ge=FEWEST, le=MOST)
    chooser: Annotated[str, OneOf(CHOOSERS)] = "perceptual"
    accent: int = Field(default=0, ge=0, le=100, description="percent: how far small saturated areas are protected")
    solid: list[Literal["black", "white"]] = Field(default=[], max_length=2, description="solid colors that must be there")
    listed: list[ColorText] = Field(default=[], max_length=MOST_LISTED, description="the colors of the list, as text")
    list_name: str = Field(default="", max_length=200)
    depth: Annotated[DepthText, AfterValidator(_depth)] = "5-6-5"
    marks: list[Mark] = Field(default=[], max_length=MOST_MARKS, description="parts of the picture that count more or not")
    order: Annotated[str, OneOf(ORDERS)] = "lightness"
    space: Annotated[str, OneOf(METRICS)] = "oklab"
    dither: Annotated[str, OneOf(DITHERS)] = "none"
    strength: int = Field(default=100, ge=0, le=100, description="percent")
    working: Literal["linear", "oklab"] = "linear"
    serpentine: bool = True
    flats: float = Field(default=0, ge=0, le=50, description="ΔEOK×100 within which a color is not dithered; 0 for none")
    pair_limit: float = Field(default=0, ge=0, le=100, description="largest ΔEOK×100 between two dithered colors; 0 for none")
    tile: TileLimit | None = None
    alpha_threshold: int = Field(default=128, ge=0, le=255, description="8-bit alpha below this is transparent")
    flatten: ColorText | None = Field(default=None, max_length=60, description="a color to lay clear pixels over, or null")
    tune: bool = Field(default=True, description="whether the colors are chosen for what the dither mixes of them")
    grain: int = Field(
        default=FINE, ge=FREE, le=FINEST, description="how fine tuned colors look close up: 0 free, 50 fine, 100 finest"
    )
    distance: int = Field(default=ARMS_LENGTH, ge=NEAREST, le=FARTHEST, description="pixels a degree of the view, for “from afar”")
    search: Literal["usual", "longer"] = Field(default="usual", description="how long better colors are looked for")
    tone: RampRecipe | None = Field(default=None, description="a ramp of plain colors that the picture is toned by first")

    @field_validator("listed")
    @classmethod
    def _colors(cls, texts: list[str]) -> list[str]:
        for text in texts:
            parse_color(text)
        return texts

    @field_validator("marks")
    @classmethod
    def _drawable(cls, marks: list[Mark]) -> list[Mark]:
        check_marks(marks)
        return marks

    @field_validator("tone")
    @classmethod
    def _plain(cls, tone: RampRecipe | None) -> RampRecipe | None:
        if tone is not None:
            tone.plan().ramp(plain_only)
        return tone

    @field_validator("flatten")
    @classmethod
    def _ground(cls, text: str | None) -> str | None:
        return text if text is None else parse_color(text).hex[:7]


def is_tuned(recipe: ReduceRecipe) -> bool:
    """Whether the colors of a recipe are tuned to its dither: one that mixes, by a chooser that lets its colors be moved."""
    mixes = recipe.dither != "none" and recipe.strength > 0
    return recipe.tune and mixes and bool(CHOOSERS[recipe.chooser].tunes)


def searches_longer(recipe: ReduceRecipe) -> bool:
    """Whether a recipe asks for a longer search and has colors to look for."""
    return recipe.search == "longer" and (is_tuned(recipe) or CHOOSERS[recipe.chooser].evens_out)


def _chosen(recipe: ReduceRecipe) -> str:
    chooser = CHOOSERS[recipe.chooser]
    if chooser.needs == "list":
        return f"{chooser.label}, “{recipe.list_name or f'{len(recipe.listed)} colors'}”"
    if chooser.needs == "depth":
        return f"{chooser.label} {recipe.depth}"
    return chooser.label


def _dithered(recipe: ReduceRecipe) -> str:
    dither = DITHERS[recipe.dither]
    if dither.id == "none":
        return dither.label
    said = dither.label + (f" at {recipe.strength} %" if dither.has_strength and recipe.strength != 100 else "")
    if recipe.working == "oklab":
        said += " in OKLab"
    if dither.is_diffusion and not recipe.serpentine:
        said += " one way"
    if recipe.flats:
        said += f", flats clean within {recipe.flats:g}"
    if recipe.pair_limit:
        said += f", pairs within {recipe.pair_limit:g}"
    return said


def _chosen_parts(recipe: ReduceRecipe, kept: int) -> list[str]:
    noun = "color" if recipe.colors == 1 else "colors"
    count = "" if CHOOSERS[recipe.chooser].sets_count else f" to {recipe.colors} {noun}"
    parts = [f"Reduce{count} chosen by {_chosen(recipe)}"]
    if recipe.accent:
        parts.append(f"accents protected {recipe.accent} %")
    if recipe.marks:
        parts.append(f"{len(recipe.marks)} {'mark' if len(recipe.marks) == 1 else 'marks'} weighed")
    if kept:
        parts.append(f"keeping {kept} locked")
    if recipe.solid:
        parts.append(f"with solid {' and '.join(recipe.solid)}")
    return parts


def say(recipe: ReduceRecipe, kept: int = 0) -> str:
    """The recipe sentence, as the history and the command line say it."""
    chooser = CHOOSERS[recipe.chooser]
    if chooser.needs == "palette":
        parts = [f"Paint with {chooser.label}"]
    else:
        parts = _chosen_parts(recipe, kept)
    if recipe.space != "oklab":
        parts.append(f"matched in {METRICS[recipe.space].label}")
    if recipe.tone:
        steps = f"{recipe.tone.steps} steps" if recipe.tone.steps else f"{len(recipe.tone.stops)} colors"
        parts.append(f"toned by a ramp of {steps}")
    parts.append(f"dithered {_dithered(recipe)}")
    if is_tuned(recipe):
        parts.append("colors tuned to it" + (f" with {grain_name(recipe.grain)}" if recipe.grain != FINE else ""))
    if searches_longer(recipe):
        parts.append("searched longer")
    if recipe.distance != ARMS_LENGTH:
        parts.append(f"seen from {distance_name(recipe.distance)}")
    if recipe.tile:
        parts.append(f"at most {recipe.tile.colors} in each {recipe.tile.width}×{recipe.tile.height} tile")
    if recipe.flatten:
        parts.append(f"laid over {recipe.flatten}")
    if recipe.order != "lightness" and chooser.needs != "palette":
        parts.append(f"ordered {ORDERS[recipe.order].label}")
    return ", ".join(parts) + "."
