"""Ramps: the lanes of the ramp stage and their CSS."""

import base64
from uuid import UUID

from django.http import HttpRequest
from ninja import Router
from pydantic import BaseModel, Field

from huvren.core.color.value import Color, srgb_of
from huvren.core.palette.operations.bake_ramp import ramp_in, ramp_names
from huvren.core.ramp.css import write_css
from huvren.core.ramp.profile import profile
from huvren.core.ramp.recipe import RampRecipe, say
from huvren.core.ramp.ways import lanes
from huvren.studio.services import palettes

router = Router(tags=["ramps"])
CURVE_POINTS = 64


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


def _hexes(colors: list[Color]) -> list[str]:
    return [color.hex for color in colors]


@router.post("/{palette_id}/ramps", response=RampOut)
def draw(request: HttpRequest, palette_id: UUID, payload: RampIn) -> RampOut:
    """The same stops in every space, one lane each; nothing is stored."""
    palette = palettes.get_state(request.user, palette_id).palette
    recipe = payload.ramp
    ramp = ramp_in(recipe, palette)
    names = ramp_names(recipe, palette)
    made = []
    for lane in lanes():
        drawn = profile(ramp.through(lane))
        steps = ramp.through(lane).baked(recipe.steps)
        _, inside = srgb_of(steps)
        made.append(
            LaneOut(
                id=lane.id, space=lane.way.id, hue=lane.route.id, label=lane.label, use=lane.way.use,
                rgba=base64.b64encode(drawn.rgba.tobytes()).decode(), steps=_hexes(steps),
                lightness=[round(float(v), 4) for v in drawn.lightness[:: len(drawn.lightness) // CURVE_POINTS]]
                + [round(float(drawn.lightness[-1]), 4)],
                dip=drawn.dip, rise=drawn.rise, outside=int((~inside).sum()),
            )
        )  # fmt: skip
    return RampOut(
        lanes=made, sentence=say(recipe, names),
        stops=[RampStopOut(name=n, hex=s.color.hex, position=at) for n, s, at in zip(names, ramp.stops, ramp.positions, strict=True)],
    )  # fmt: skip


@router.post("/{palette_id}/ramps/css", response=CssOut)
def css(request: HttpRequest, palette_id: UUID, payload: RampIn) -> CssOut:
    """The ramp as a CSS gradient in its space, with an sRGB stand-in before it."""
    palette = palettes.get_state(request.user, palette_id).palette
    return CssOut(text=write_css(ramp_in(payload.ramp, palette)))
