"""Colors by themselves: reading, comparing, and the planes of the editor."""

from django.http import HttpRequest, HttpResponse
from ninja import Query, Router

from huvren.core.color.contrast import contrast_ratio
from huvren.core.color.difference import ciede2000, delta_eok
from huvren.core.color.notation import parse_color, parse_colors
from huvren.core.color.planes import chroma_lightness_plane
from huvren.core.color.spaces import convert
from huvren.core.errors import BadInput
from huvren.core.palette.naming import suggest_name
from huvren.core.pictures import encode_png
from huvren.studio.api.schemas import CompareIn, CompareOut, ParsedColor, ParsedOut

router = Router(tags=["colors"])
LONGEST_TEXT = 20_000


@router.get("/compare", response=CompareOut)
def compare(request: HttpRequest, pair: Query[CompareIn]) -> CompareOut:
    """Difference and contrast of two colors."""
    first, second = parse_color(pair.first), parse_color(pair.second)
    return CompareOut(
        delta_eok=float(delta_eok(first.oklab, second.oklab)),
        ciede2000=float(ciede2000(convert(first.srgb, "srgb", "lab-d65"), convert(second.srgb, "srgb", "lab-d65"))),
        contrast=contrast_ratio(first.srgb, second.srgb),
    )


@router.get("/parse", response=ParsedOut)
def parse(request: HttpRequest, text: str) -> ParsedOut:
    """What would be added for a typed text: shown while it is being typed."""
    if len(text) > LONGEST_TEXT:
        raise BadInput(f"That is more than {LONGEST_TEXT:,} characters; add it without the preview.")
    return ParsedOut(colors=[ParsedColor(hex=c.hex, name=suggest_name(c)) for c in parse_colors(text)])


@router.get("/plane")
def plane(request: HttpRequest, hue: float, width: int = 270, height: int = 142) -> HttpResponse:
    """Chroma to the right, lightness upward, at one hue: a PNG, clear outside sRGB."""
    if not (1 <= width <= 1024 and 1 <= height <= 1024):
        raise BadInput("A plane is between 1 and 1024 pixels wide and high.")
    data = encode_png(chroma_lightness_plane(hue % 360, width, height), level=1)
    return HttpResponse(data, content_type="image/png", headers={"Cache-Control": "private, max-age=86400"})
