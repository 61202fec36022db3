"""A link: how a revision says what the indices of a reduced picture mean.

One link stands for one picture, or for one sequence of frames that share their colors. The table from index to swatch id is
held once for all frames; each frame has an index map of its own and says how many pixels have which index.
"""

from dataclasses import dataclass, field, replace
from functools import cache
from typing import Annotated, Any

from pydantic import ConfigDict, Field, TypeAdapter, model_validator
from pydantic.dataclasses import dataclass as checked

from huvren.core.reduction.recipe import MOST, ReduceRecipe
from huvren.core.stored.recipe import RECIPE, recipe_to_document
from huvren.core.versions import KINDS, BadDocument, Kind, Understood

_EXACT = ConfigDict(extra="forbid")
MOST_FRAMES = 10_000


@checked(frozen=True, config=_EXACT)
class FrameMap:
    """Where the index map of one frame lies, and how many of its pixels have each index of the table."""

    map: str
    counts: tuple[int, ...]


@checked(frozen=True, config=_EXACT)
class LinkFigures:
    """Figures of the reduction; ΔEOK×100. afar : None where it was not measured."""

    distinct: int = 0
    used: int = 0
    mean: float = 0.0
    p95: float = 0.0
    max: float = 0.0
    afar: float | None = None


@checked(frozen=True, config=_EXACT)
class LinkShape:
    """A stored link. `recipe` is a stored recipe of its own version."""

    picture: str
    width: int
    height: int
    table: tuple[str | None, ...]
    frames: Annotated[tuple[FrameMap, ...], Field(min_length=1, max_length=MOST_FRAMES)]
    recipe: dict[str, Any] = field(default_factory=dict)
    figures: LinkFigures = field(default_factory=LinkFigures)
    notes: tuple[str, ...] = ()
    worst_tiles: tuple[tuple[float, float, float], ...] = ()

    @model_validator(mode="after")
    def _fits(self) -> "LinkShape":
        if len(self.table) > MOST:
            raise ValueError(f"a table has at most {MOST} entries")
        if any(len(frame.counts) != len(self.table) or min(frame.counts, default=0) < 0 for frame in self.frames):
            raise ValueError("the counts of a frame do not fit the table")
        return self


def _with_frames(document: dict[str, Any]) -> dict[str, Any]:
    """Version 1 had one map beside the table."""
    document = dict(document)
    document["frames"] = [{"map": document.pop("map"), "counts": document.pop("counts")}]
    return document


LINK: Kind[LinkShape] = KINDS.register(
    Kind(
        "link", "link to a picture", 3, cache(lambda: TypeAdapter(LinkShape)),
        # Version 2 did not know what is seen from afar.
        upgraders={1: _with_frames, 2: lambda document: document},
        stand_ins={"figures": {}, "notes": [], "worst_tiles": []},
    )
)  # fmt: skip


@dataclass(frozen=True)
class Link:
    """A picture, or a sequence of frames, as it is painted by a palette.

    picture : id; width, height : of every frame in pixels; table : the swatch id of each index, or None for none
    worst_tiles : row, column and loss of the tiles that a limit cost most
    """

    picture: str
    width: int
    height: int
    table: tuple[str | None, ...]
    frames: tuple[FrameMap, ...]
    """One for a picture."""
    recipe: ReduceRecipe
    """That it was reduced by."""
    figures: LinkFigures
    """How near it comes."""
    notes: tuple[str, ...] = ()
    """Sentences for the artist."""
    worst_tiles: tuple[tuple[float, float, float], ...] = ()

    @property
    def counts(self) -> list[int]:
        """Pixels of each index over all frames."""
        if len(self.frames) == 1:
            return list(self.frames[0].counts)
        return [sum(column) for column in zip(*(frame.counts for frame in self.frames), strict=True)]

    def with_table(self, table: tuple[str | None, ...]) -> "Link":
        return replace(self, table=table)


def link_to_document(link: Link) -> dict[str, Any]:
    """A link as it is stored."""
    return LINK.stamped({
        "picture": link.picture, "width": link.width, "height": link.height, "table": list(link.table),
        "frames": [{"map": frame.map, "counts": list(frame.counts)} for frame in link.frames],
        "recipe": recipe_to_document(link.recipe),
        "figures": {name: getattr(link.figures, name) for name in ("distinct", "used", "mean", "p95", "max", "afar")},
        "notes": list(link.notes), "worst_tiles": [list(tile) for tile in link.worst_tiles],
    })  # fmt: skip


def _made(shape: LinkShape, recipe: ReduceRecipe) -> Link:
    return Link(
        shape.picture, shape.width, shape.height, shape.table, shape.frames, recipe, shape.figures, shape.notes, shape.worst_tiles
    )


def link_from_document(document: object) -> Link:
    """Read a link from outside. Raises `BadDocument`."""
    shape = LINK.read(document)
    return _made(shape, RECIPE.read(shape.recipe))


def understand_links(documents: object) -> Understood[tuple[Link, ...]]:
    """The links of a stored revision; one that cannot be read at all is left out and said."""
    made: list[Link] = []
    problems: list[str] = []
    for document in documents if isinstance(documents, list) else []:
        try:
            shape = LINK.understand(document)
            recipe = RECIPE.understand(shape.value.recipe)
        except BadDocument as error:
            problems.append(str(error))
            continue
        problems += [*shape.problems, *recipe.problems]
        made.append(_made(shape.value, recipe.value))
    return Understood(tuple(made), tuple(problems))
