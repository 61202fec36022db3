"""What a format states that it keeps, of a palette and of a ramp; all else is lost there, and said."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Literal

from huvren.core.palette.fields import losable_fields_of
from huvren.core.palette.values import Group, Palette, Swatch
from huvren.core.ramp.baking import Baked
from huvren.core.ramp.plan import RampPlan


@dataclass(frozen=True)
class Keeps:
    """What a format holds of a palette. `alpha` may be kept for one wholly clear swatch alone."""

    title: bool = False
    """Whether it has the name of the palette."""
    names: bool = False
    """Whether it has the names of swatches."""
    groups: bool = False
    """Whether it has groups."""
    joins_groups: bool = False
    """Whether two groups of one name that stand side by side come back as one."""
    alpha: Literal["none", "one clear", "all"] = "none"
    """What of alpha it has."""
    ids: bool = False
    """Whether it has the ids of swatches."""
    places: Literal["none", "index", "all"] = "none"
    """Numbered places that may be empty: not at all, as the position in the file (empty ones are filled), or as they are."""
    fields: frozenset[str] = frozenset()
    """Further fields that it holds as they are, such as `swatch.locked`; what is not stated here or above is lost, and said."""
    everything: bool = False
    """All there is, fields of the future included: only our own lossless form."""
    tags: frozenset[str] = frozenset()
    """Tags of swatches that the format has a word for."""
    missing: bool = False
    """Components given as `none`."""
    spaces: tuple[str, ...] = ("srgb",)
    """Ids of the spaces that it has colors in."""
    depth_bits: int | None = 8
    """Bits a channel of the sRGB form and of alpha; None for floating point."""
    most: int | None = None
    """Swatches at the most."""
    marks_formulas: bool = False
    """Whether names that a spreadsheet would work out stand there with an apostrophe before them."""

    def __post_init__(self) -> None:
        if unknown := self.fields - {entry.key for owner in (Swatch, Group, Palette) for entry in losable_fields_of(owner)}:
            raise TypeError(f"No such field: {', '.join(sorted(unknown))}.")

    def holds(self, key: str) -> bool:
        """Whether a declared field is held as it is, by its key."""
        return self.everything or key in self.fields


@dataclass(frozen=True)
class RampKeeps:
    """What a format holds of one ramp, which is all that such a file is about.

    form : what is written where its own stops do not say all: others baked in their place, or samples. says_all : whether they
    do, for a plan. held : what a reader of the file will draw, straight
    through sRGB; the keep report measures it, and `write` writes the same.
    """

    form: Literal["baked", "samples"]
    held: Callable[[RampPlan, Mapping[str, str]], Baked]
    says_all: Callable[[RampPlan], bool] = field(default=lambda plan: False)
    alpha: bool = True
    """Whether it has alpha."""
    name: bool = True
    """Whether it has a name."""
    steps: bool = False
    """Whether a stepped ramp is stepped in the file; else its steps are drawn as they can be."""
