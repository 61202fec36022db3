"""SVG gradients (SVG 2 §14): written with stops baked in sRGB, as drawings interpolate there; `drawing.py` reads them."""

from collections.abc import Mapping
from html import escape

from huvren.core.color.value import Color
from huvren.core.formats.format import FORMATS, Document, Format, Keeps, Option, RampKeeps
from huvren.core.ramp.baking import Baked, bake, stepped
from huvren.core.ramp.plan import RampPlan, plain_only

FORM = Option("form", "drawn as", (("linear", "a linear gradient"), ("radial", "a radial gradient")))


def held_ramp(plan: RampPlan, options: Mapping[str, str]) -> Baked:
    ramp = plan.ramp(plain_only)
    return bake(ramp, 0.5, is_straight=True) if plan.steps is None else stepped(ramp, plan.steps)


def write(document: Document) -> bytes:
    """One gradient with the ramp's name as its title, shown in a rectangle."""
    name, plan, _ = document.ramp
    baked = held_ramp(plan.untied(document.palette.color_of), document.options)
    kind = WRITER.option(document, "form")
    rows = []
    for place, srgb, alpha in zip(baked.places.tolist(), baked.srgb.tolist(), baked.alpha.tolist(), strict=True):
        code = Color("srgb", (srgb[0], srgb[1], srgb[2])).hex
        clear = f' stop-opacity="{round(alpha, 4):g}"' if alpha < 1 else ""
        rows.append(f'      <stop offset="{round(place, 5):g}" stop-color="{code}"{clear}/>')
    stops = "\n".join(rows)
    return (
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 512 128">\n'
        f"  <title>{escape(name, quote=False)}</title>\n"
        f'  <defs>\n    <{kind}Gradient id="ramp">\n{stops}\n    </{kind}Gradient>\n  </defs>\n'
        '  <rect width="512" height="128" fill="url(#ramp)"/>\n</svg>\n'
    ).encode()


WRITER = FORMATS.register(
    Format(
        "svg-gradient", (".svg",), "gradient", "picture", "image/svg+xml", Keeps(title=True, alpha="all"),
        "A gradient for drawings, linear or radial.", contents=frozenset({"ramps"}), ramp=RampKeeps("baked", held_ramp, steps=True),
        is_text=True, options=(FORM,), write=write,
    )
)  # fmt: skip
