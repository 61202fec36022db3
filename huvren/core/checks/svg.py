"""A drawing as SVG, whole in itself: images are PNG data, neutrals are those of a light sheet."""

import base64
from collections.abc import Callable, Mapping
from html import escape

import numpy as np

from huvren.core.checks.drawing import Drawing, Shape
from huvren.core.pictures import encode_png

LIGHT: Mapping[str, str] = {
    "ink": "#1c1c1c", "quiet": "#5c5c5c", "line": "#c9c9c9", "raised": "#ffffff", "ground": "#f4f4f4", "none": "none",
}  # fmt: skip


def _png(shape: Shape) -> str:
    colors = np.array([[int(code[at : at + 2], 16) for at in (1, 3, 5)] + [255] for code in shape.table], dtype=np.uint8)
    table = np.zeros((256, 4), np.uint8)
    table[: len(colors)] = colors
    assert shape.indices is not None
    return "data:image/png;base64," + base64.b64encode(encode_png(np.ascontiguousarray(table[shape.indices]))).decode()


def _paint(paint: str) -> str:
    return LIGHT.get(paint, paint)


def _rect(s: Shape, title: str) -> str:
    x, y, width, height = s.at
    return (
        f'<rect x="{x:.1f}" y="{y:.1f}" width="{max(width, 0):.1f}" height="{max(height, 0):.1f}" fill="{_paint(s.fill)}" '
        f'stroke="{_paint(s.stroke)}">{title}</rect>'
    )


def _line(s: Shape, title: str) -> str:
    x1, y1, x2, y2 = s.at
    return (
        f'<line x1="{x1:.1f}" y1="{y1:.1f}" x2="{x2:.1f}" y2="{y2:.1f}" stroke="{_paint(s.stroke)}" stroke-width="{s.size:g}">'
        f"{title}</line>"
    )


def _circle(s: Shape, title: str) -> str:
    x, y, radius = s.at
    return f'<circle cx="{x:.1f}" cy="{y:.1f}" r="{radius:.1f}" fill="{_paint(s.fill)}" stroke="{_paint(s.stroke)}">{title}</circle>'


def _text(s: Shape, title: str) -> str:
    x, y = s.at
    weight = ' font-weight="600"' if s.bold else ""
    return (
        f'<text x="{x:.1f}" y="{y:.1f}" font-size="{s.size:g}" fill="{_paint(s.fill)}" text-anchor="{s.anchor}"{weight}>'
        f"{escape(s.text)}{title}</text>"
    )


def _path(s: Shape, title: str) -> str:
    return f'<path d="{escape(s.path)}" fill="{_paint(s.fill)}" stroke="{_paint(s.stroke)}" stroke-width="{s.size:g}">{title}</path>'


def _image(s: Shape, title: str) -> str:
    x, y, width, height = s.at
    return (
        f'<image x="{x:.1f}" y="{y:.1f}" width="{width:.1f}" height="{height:.1f}" preserveAspectRatio="none" '
        f'style="image-rendering:pixelated" href="{_png(s)}">{title}</image>'
    )


SHAPES: Mapping[str, Callable[[Shape, str], str]] = {
    "rect": _rect, "line": _line, "circle": _circle, "text": _text, "path": _path, "image": _image,
}  # fmt: skip


def drawing_as_svg(drawing: Drawing) -> str:
    """The drawing as an `<svg>` element."""
    shapes = (SHAPES[shape.kind](shape, f"<title>{escape(shape.title)}</title>" if shape.title else "") for shape in drawing.shapes)
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {drawing.width:g} {drawing.height:g}" role="img" '
        f'aria-label="{escape(drawing.caption)}" font-family="system-ui, sans-serif">{"".join(shapes)}</svg>'
    )
