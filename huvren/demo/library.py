"""What lies on the demo artist's shelf."""

from collections.abc import Callable
from dataclasses import dataclass, replace

from huvren.core.color.arrays import Bytes
from huvren.core.color.eight_bits import hex_of
from huvren.core.color.notation import parse_color
from huvren.core.palette.operations import Operation
from huvren.core.palette.operations.adjust import AdjustSwatches
from huvren.core.palette.operations.slots import PinSwatches, SetSlots
from huvren.core.palette.operations.variants import AddVariant, ShowVariant
from huvren.core.palette.values import Group, KeptRamp, Palette, Swatch
from huvren.core.ramp.plan import PlanStop, RampPlan
from huvren.core.ramp.starting import STARTING
from huvren.core.reduction.recipe import ReduceRecipe
from huvren.demo import plates


@dataclass(frozen=True)
class Plate:
    """A picture, and the palette that reduces it."""

    file: str
    draw: Callable[[], Bytes]
    recipe: ReduceRecipe
    palette: str
    steps: tuple[Callable[[Palette], Operation], ...] = ()
    """What the artist did after the reduction: each gives an operation for the palette as it then is."""
    beside: tuple[tuple[str, Callable[[], Bytes], ReduceRecipe], ...] = ()
    """Further pictures that are painted with the palette: file, drawing, recipe."""


def _show(name: str) -> Callable[[Palette], Operation]:
    return lambda palette: ShowVariant(id=next(variant.id for variant in palette.variants if variant.name == name))


EVENING: tuple[Callable[[Palette], Operation], ...] = (
    lambda palette: AddVariant(name="At dusk", first_name="First light"),
    lambda palette: AdjustSwatches(lightness=-14, chroma=85, warmth=-45),
    _show("First light"),
)
"""Plate 7 is printed twice: by first light, and at dusk."""

PLACES: tuple[Callable[[Palette], Operation], ...] = (
    lambda palette: SetSlots(slots=20),
    lambda palette: PinSwatches(ids=[palette.swatches[0].id], pinned=True),
)
"""The wing beat is for a display of twenty places, the first of them clear."""

PLATES = (
    Plate("Trap counts, one season.png", plates.trap_chart, ReduceRecipe(colors=12), "Trap counts, flat"),
    Plate("Wing beat, eight frames.png", plates.wing_beat_sheet, ReduceRecipe(colors=16), "Wing beat, 16", PLACES),
    Plate(
        "Plate 9, ink moth.png", plates.plate_ink, ReduceRecipe(colors=32, dither="floyd-steinberg", strength=70),
        "Plate 9, under stars",
    ),
    Plate(
        "Plate 7, reed moth.png", plates.plate_reeds, ReduceRecipe(colors=20, dither="ordered"), "Plate 7, first light",
        EVENING,
    ),
    Plate(
        "Plate 4, lantern moth.png", plates.plate_lamplight, ReduceRecipe(colors=24), "Plate 4, lamplight",
        beside=(
            ("Plate 4, tail piece.png", plates.tail_piece, ReduceRecipe(chooser="as-it-is", dither="floyd-steinberg", strength=60)),
        ),
    ),
)  # fmt: skip

MARKS = ("#e85421", "#fac43c", "#1e5c8c")
"""The three ink colors of the lantern moth's eye-spots, locked in its palette before it is reduced."""


def palette_of(name: str, groups: dict[str, dict[str, str]], locked: tuple[str, ...] = ()) -> Palette:
    """A palette from names and codes by group; an empty group name means none."""
    made: list[Group] = []
    swatches: list[Swatch] = []
    for group_name, colors in groups.items():
        group = Group(group_name) if group_name else None
        made += [group] if group else []
        for swatch_name, code in colors.items():
            swatches.append(Swatch(parse_color(code), swatch_name, locked=swatch_name in locked, group=group.id if group else None))
    return Palette(name, tuple(swatches), tuple(made))


def lamplight_start() -> Palette:
    """The palette of plate 4 before its reduction: only the eye-spot inks, locked."""
    names = ("Eye-spot", "Eye ring", "Eye blue")
    return palette_of("Plate 4, lamplight", {"Marks": dict(zip(names, MARKS, strict=True))}, names)


LAMPLIGHT_GROUPS = (("Night", 0.32), ("Wings", 0.62), ("Lamp", 2.0))
"""Plate 4's swatches below these OKLab lightnesses, with greens taken out as “Leaves”."""


def group_lamplight(palette: Palette) -> Palette:
    """Sort plate 4's chosen swatches into the groups that its printers speak of."""
    made = {name: Group(name) for name in ("Night", "Leaves", "Wings", "Marks", "Lamp")}
    made["Marks"] = next(group for group in palette.groups if group.name == "Marks")
    swatches = []
    for swatch in palette.swatches:
        lightness, _, hue = swatch.color.to("oklch")
        name = next(name for name, limit in LAMPLIGHT_GROUPS if lightness < limit)
        if swatch.group is not None:
            name = "Marks"
        elif 105 < hue < 215:
            name = "Leaves"
        swatches.append(replace(swatch, group=made[name].id))
    order = {group.id: place for place, group in enumerate(made.values())}
    swatches.sort(key=lambda swatch: order[swatch.group or ""])
    used = {swatch.group for swatch in swatches}
    return replace(palette, swatches=tuple(swatches), groups=tuple(group for group in made.values() if group.id in used))


def dusk_to_lamp() -> Palette:
    """Two inks, and the ramp between them that goes muddy in plain RGB, tied to both."""
    palette = palette_of("Dusk to lamp", {"": {"Dusk": "#0b58c4", "Lamp": "#ffa22e"}})
    stops = tuple(PlanStop(swatch=swatch.id) for swatch in palette.swatches)
    return palette.with_ramps([KeptRamp("Dusk to lamp", RampPlan(stops), tags=("proof",))])


def press_ramps() -> Palette:
    """A palette of ramps alone: those that the press begins with."""
    return Palette("Press ramps", tags=("press",), ramps=tuple(KeptRamp(s.name, s.plan, tags=s.tags) for s in STARTING))


def typed_palettes() -> list[Palette]:
    """Palettes that were typed from cards."""
    return [
        palette_of(
            "Press inks, spring run",
            {
                "Blacks": {"Lamp black": "#1b1a1d", "Warm black": "#2b2320", "Blue black": "#1a2130"},
                "Earths": {
                    "Kiln red": "#8c3b2a", "Bole": "#6e4632", "Wing brown": "#8a6a52", "Dun": "#a78a6c",
                    "Straw": "#d9c08c", "Paper": "#f3ead6",
                },
                "Night": {"Dusk blue": "oklch(0.36 0.07 272)", "Moon gray": "#b9bfca", "Fen green": "#35594a"},
                "Marks": {"Eye-spot": "#e85421", "Lamp": "#fac43c", "Scale blue": "#1e5c8c"},
            },
            ("Lamp black", "Paper"),
        ),
        dusk_to_lamp(),
        press_ramps(),
        palette_of(
            "Chart series", {"": {name: hex_of(tone) for name, tone in plates.TRAPS}},
        ),
        # Of this one every check holds.
        palette_of(
            "Trap map, six depths",
            {
                "": {
                    "Night pool": "#0f2340", "Deep fen": "#004263", "Fen": "#1e6377",
                    "Reed": "#118e97", "Sedge": "#76a59e", "Mist": "#9cc5b3",
                },
            },
        ),
    ]  # fmt: skip
