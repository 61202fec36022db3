"""Colors by themselves: reading, describing, comparing, mixing, companions, and the planes of the editor."""

from django.http import HttpRequest, HttpResponse
from ninja import Query, Router
from pydantic import BaseModel, Field

from huvren.core.bounded import Bounded
from huvren.core.color.contrast import contrast_ratio
from huvren.core.color.difference import ciede2000, delta_eok
from huvren.core.color.harmony import SCHEMES, companions
from huvren.core.color.mixing import MODELS, ladder, mix
from huvren.core.color.notation import NOTATIONS, format_css, parse_color
from huvren.core.color.planes import PLANES, chroma_limit, chroma_reach, draw_plane
from huvren.core.color.spaces import convert, edited_spaces
from huvren.core.color.typed import LONGEST_TEXT, understand_colors
from huvren.core.color.value import Color
from huvren.core.errors import BadInput
from huvren.core.palette.naming import suggest_name, suggest_names
from huvren.core.pictures import encode_png
from huvren.studio.api.parts.media import of_media
from huvren.studio.api.parts.palette_out import Triple

router = Router(tags=["colors"])
MOST_WRONG = 100
"""Lines that could not be read which are told one by one."""


class CompareIn(Bounded):
    first: str
    second: str


class CompareOut(BaseModel):
    delta_eok: float
    ciede2000: float
    contrast: float


class ParsedColor(BaseModel):
    hex: str
    name: str


class LinePart(BaseModel):
    text: str
    is_wrong: bool = Field(description="whether it is what keeps the line from being a color")


class WrongLine(BaseModel):
    parts: list[LinePart] = Field(description="the whole line, in pieces")
    why: str


class ParsedOut(BaseModel):
    """colors : what was understood, in order; wrong : the first lines that were not."""

    colors: list[ParsedColor]
    wrong: list[WrongLine]
    taken: str = Field(description="the text of the lines that were understood")
    left: str = Field(description="the text of the lines that were not, all of them")


class ChannelOut(BaseModel):
    name: str
    low: float
    high: float
    label: str
    by: float = Field(description="what the value is multiplied by where it is written")
    digits: int = Field(description="decimals it is then written with")
    is_hue: bool
    is_strength: bool = Field(description="whether the hue needs it to show")
    value: float


class SpaceOut(BaseModel):
    id: str
    label: str
    css: str = Field(description="a CSS color that looks like the coordinates, which stand in the places of {0}, {1} …")
    channels: list[ChannelOut]


class NotationOut(BaseModel):
    id: str
    text: str


class DescribeIn(Bounded):
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


class MixIn(Bounded):
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


@router.get("/compare", response=CompareOut)
def compare(request: HttpRequest, pair: Query[CompareIn]) -> CompareOut:
    """Difference and contrast of two colors."""
    first, second = parse_color(pair.first), parse_color(pair.second)
    return CompareOut(
        delta_eok=float(delta_eok(first.oklab, second.oklab)),
        ciede2000=float(ciede2000(convert(first.srgb, "srgb", "lab-d65"), convert(second.srgb, "srgb", "lab-d65"))),
        contrast=contrast_ratio(first.srgb, second.srgb),
    )


class ParseIn(Bounded):
    text: str = Field(max_length=LONGEST_TEXT)


@router.post("/parse", response=ParsedOut)
def parse_typed(request: HttpRequest, payload: ParseIn) -> ParsedOut:
    """What would be added for a typed text: shown while it is being typed. An address would be too short for most."""
    return parse(request, payload.text)


@router.get("/parse", response=ParsedOut)
def parse(request: HttpRequest, text: str) -> ParsedOut:
    """What would be added for a short text; a text of which nothing is understood is answered as well as any."""
    typed = understand_colors(text)
    suggested = suggest_names([color for color, _ in typed.named])
    return ParsedOut(
        colors=[ParsedColor(hex=c.hex, name=name or words) for (c, name), words in zip(typed.named, suggested, strict=True)],
        wrong=[
            WrongLine(parts=[LinePart(text=text, is_wrong=is_wrong) for text, is_wrong in line.parts], why=line.why)
            for line in typed.wrong[:MOST_WRONG]
        ],
        taken=typed.taken, left=typed.left,
    )  # fmt: skip


@router.post("/describe", response=DescribeOut)
def describe(request: HttpRequest, payload: DescribeIn) -> DescribeOut:
    """A color in every space of the editor and every notation."""
    if payload.text is not None:
        color = parse_color(payload.text)
    else:
        color = Color(payload.space or "srgb", tuple(payload.coords), payload.alpha)
    if payload.hold is not None:
        _, chroma, hue = color.to("oklch")
        color = Color("oklch", (payload.hold, min(chroma, chroma_limit(payload.hold, hue)), hue), color.alpha)
    spaces = []
    for space in edited_spaces():
        # Angles and ink shares are those of the color as it is shown; its own space keeps what was given.
        values = color.coords if color.space == space.id else Color("srgb", color.srgb).to(space.id)
        assert space.editing
        spaces.append(
            SpaceOut(
                id=space.id, label=space.label, css=space.editing.css,
                channels=[
                    ChannelOut(
                        name=c.name, low=c.low, high=c.high, label=label, by=by, digits=digits, is_hue=c.is_hue,
                        is_strength=c.means == "colorfulness", value=value,
                    )
                    for c, (label, by, digits), value in zip(space.channels, space.editing.scales, values, strict=True)
                ],
            )
        )  # fmt: skip
    notations = [NotationOut(id=notation.id, text=format_css(color, notation.id)) for notation in NOTATIONS]
    return DescribeOut(
        hex=color.hex, name=suggest_name(color), in_srgb=color.in_srgb, alpha=color.alpha, spaces=spaces, notations=notations
    )


@router.post("/mix", response=MixOut)
def mix_by_parts(request: HttpRequest, payload: MixIn) -> MixOut:
    """Two or more colors mixed as paint and as light, with the ladder between the first two."""
    colors = [parse_color(text) for text in payload.texts]
    if len(colors) < 2:
        raise BadInput("Mixing needs two colors or more. Choose another one.")
    made = []
    for model in MODELS:
        mixed = mix(colors, payload.parts, model.id)
        steps = ladder(colors[0], colors[1], payload.steps, model.id)
        made.append(
            MixtureOut(
                model=model.id, label=model.label, use=model.use, hex=mixed.hex, name=suggest_name(mixed),
                ladder=[color.hex for color in steps],
            )
        )  # fmt: skip
    return MixOut(mixtures=made)


@router.get("/companions", response=CompanionsOut)
def companions_of(
    request: HttpRequest, base: str, scheme: str, spread: float | None = None, count: int | None = None
) -> CompanionsOut:
    """The colors of a scheme, the base first."""
    if spread is not None and not 0 <= spread <= 180:
        raise BadInput(f"A spread of {spread:g}° is outside 0 to 180.")
    center = parse_color(base)
    made = companions(center, SCHEMES[scheme[:40]].id, spread, count)
    rows = []
    for color in made:
        lightness, chroma, hue = color.to("oklch")
        rows.append(CompanionOut(hex=color.hex, name=suggest_name(color), oklch=(lightness, chroma, hue)))
    return CompanionsOut(companions=rows, reach=chroma_reach(center.to("oklch")[0]))


@router.get("/plane", openapi_extra=of_media("image/png"))
def plane(
    request: HttpRequest, held: float, kind: str = "chroma-lightness", width: int = 270, height: int = 142, reach: float | None = None
) -> HttpResponse:
    """A plane of the editor as a PNG, clear outside sRGB; `held` is the coordinate that stays, `reach` another end upward."""
    PLANES[kind[:40]]
    if not (1 <= width <= 1024 and 1 <= height <= 1024):
        raise BadInput("A plane is between 1 and 1024 pixels wide and high.")
    if not -1000 < held < 1000:
        raise BadInput(f"{held:g} is no coordinate of a color.")
    if reach is not None and not 0.001 <= reach <= 1000:
        raise BadInput(f"{reach:g} is no end of a plane.")
    data = encode_png(draw_plane(kind, held, width, height, reach), level=1)
    return HttpResponse(data, content_type="image/png", headers={"Cache-Control": "private, max-age=86400"})
