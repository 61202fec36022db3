"""A check's picture: shapes on a sheet, whose paints are colors of the artist or the interface's own neutrals.

Shapes are data, so that the browser shows them through a lens and marks swatches in them, and a report holds them as SVG.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Literal

from huvren.core.color.arrays import Bytes

Kind = Literal["rect", "line", "circle", "text", "path", "image"]
NEUTRALS = ("ink", "quiet", "line", "raised", "ground", "none")
"""Paints that are the interface's and follow its surround; every other paint is a color as #rrggbb."""


@dataclass(frozen=True)
class Shape:
    """at : x, y, width, height of a rect or image; x1, y1, x2, y2 of a line; x, y, radius of a circle; x, y of a text.

    path : SVG path data. ids : the swatches it is about. size : of a text, or the width of a stroke. indices : (h, w) uint8 of
    an image, each looked up in `table`.
    """

    kind: Kind
    """What is drawn."""
    at: tuple[float, ...] = ()
    fill: str = "none"
    """A color's code, or a neutral's name."""
    stroke: str = "none"
    """A color's code, or a neutral's name."""
    size: float = 1.0
    text: str = ""
    """The words of a text."""
    anchor: Literal["start", "middle", "end"] = "start"
    """Which end of a text stands at its place."""
    bold: bool = False
    """Whether a text is."""
    path: str = ""
    ids: tuple[str, ...] = ()
    title: str = ""
    """Told on pointing at it."""
    indices: Bytes | None = None
    table: tuple[str, ...] = ()
    """Codes of an index map."""


@dataclass(frozen=True)
class Handle:
    """Something that is dragged round a middle: `view` is the setting, in degrees, that it turns."""

    view: str
    """Id of the view that it changes."""
    x: float
    """Its middle on the sheet."""
    y: float
    """Its middle on the sheet."""
    radius: float
    """Around which it turns."""


TEXT = 1.28
"""Sheets are drawn wider than they are mostly shown; their words are made so much larger, so that they stay readable."""


@dataclass
class Drawing:
    """A sheet that shapes are put on. caption : what is seen, for those who cannot."""

    width: float
    """Of the sheet."""
    height: float
    """Of the sheet."""
    caption: str
    shapes: list[Shape] = field(default_factory=list)
    """Later ones over earlier ones."""
    handle: Handle | None = None
    """What turns by hand, if anything does."""

    def rect(
        self,
        x: float,
        y: float,
        width: float,
        height: float,
        fill: str,
        ids: Sequence[str] = (),
        title: str = "",
        stroke: str = "none",
    ) -> None:
        self.shapes.append(Shape("rect", (x, y, width, height), fill, stroke, ids=tuple(ids), title=title))

    def line(
        self, x1: float, y1: float, x2: float, y2: float, stroke: str = "line", size: float = 1, ids: Sequence[str] = ()
    ) -> None:
        self.shapes.append(Shape("line", (x1, y1, x2, y2), stroke=stroke, size=size, ids=tuple(ids)))

    def circle(
        self, x: float, y: float, radius: float, fill: str, ids: Sequence[str] = (), title: str = "", stroke: str = "none"
    ) -> None:
        self.shapes.append(Shape("circle", (x, y, radius), fill, stroke, ids=tuple(ids), title=title))

    def words(
        self,
        x: float,
        y: float,
        text: str,
        size: float = 12,
        fill: str = "quiet",
        anchor: Literal["start", "middle", "end"] = "start",
        bold: bool = False,
        ids: Sequence[str] = (),
    ) -> None:
        self.shapes.append(
            Shape("text", (x, y), fill, size=round(size * TEXT, 2), text=text, anchor=anchor, bold=bold, ids=tuple(ids))
        )

    def outline(
        self, path: str, fill: str = "none", stroke: str = "none", size: float = 1, ids: Sequence[str] = (), title: str = ""
    ) -> None:
        self.shapes.append(Shape("path", fill=fill, stroke=stroke, size=size, path=path, ids=tuple(ids), title=title))

    def image(
        self,
        x: float,
        y: float,
        width: float,
        height: float,
        indices: Bytes,
        table: Sequence[str],
        ids: Sequence[str] = (),
        title: str = "",
    ) -> None:
        """Add an index map, painted by a table of colors.

        Parameters
        ----------
        x : float
            On the sheet.
        y : float
            On the sheet.
        width : float
            On the sheet.
        height : float
            On the sheet.
        indices : Bytes
            (h, w) uint8 index map.
        table : Sequence[str]
            Code of each index.
        ids : Sequence[str]
            Swatches that it is about.
        title : str
            What is told of it.
        """
        self.shapes.append(Shape("image", (x, y, width, height), ids=tuple(ids), title=title, indices=indices, table=tuple(table)))


def short(text: str, most: int) -> str:
    """A text that has room for so many letters."""
    return text if len(text) <= most else text[: most - 1] + "…"


def polygon(points: Sequence[tuple[float, float]], closed: bool = True) -> str:
    """Path data through points."""
    return "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in points) + ("Z" if closed else "")
