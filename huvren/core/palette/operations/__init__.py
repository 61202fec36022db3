"""Palette operations: one file each, a pure function of a palette and typed parameters.

An operation is a frozen pydantic model with a literal `kind`. Registering it puts it into the API schema, the
history and the tests. `apply` gives the new palette; `successors` says which swatch takes over the pixels of a
swatch that is no longer there, where the operation knows better than “the nearest color”.

`every` loads them all; whoever needs one operation (the command line) loads that one alone.
"""

from abc import abstractmethod
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import ClassVar, TypeVar

from pydantic import BaseModel, ConfigDict

from huvren.core.palette.values import Palette, Usage
from huvren.core.registry import Registry

UNUSED: Usage = {}


@dataclass(frozen=True)
class Outcome:
    """The palette after, and who takes over the pixels of a swatch that went."""

    palette: Palette
    successors: Mapping[str, str] = field(default_factory=dict)


class Operation(BaseModel):
    """Base of every palette operation."""

    model_config = ConfigDict(frozen=True, extra="forbid", defer_build=True)
    summary: ClassVar[str] = ""

    @abstractmethod
    def label(self, palette: Palette) -> str:
        """What the history says, given the palette before."""

    @abstractmethod
    def apply(self, palette: Palette, usage: Usage = UNUSED) -> Outcome:
        """The palette after. `usage` : pixels of each swatch in the linked pictures.

        Raises `BadInput` or `Unknown` and changes nothing when it cannot be done.
        """


@dataclass(frozen=True)
class OperationEntry:
    id: str
    model: type[Operation]


OPERATIONS: Registry[OperationEntry] = Registry("palette operation")
OperationType = TypeVar("OperationType", bound=type[Operation])


def operation(model: OperationType) -> OperationType:
    """Class decorator: register under the default of the model's `kind`."""
    if not model.summary:
        raise TypeError(f"The operation {model.__name__} has no summary.")
    kind = getattr(model, "model_fields")["kind"].default  # noqa: B009  (mypy has no overload for a type variable)
    OPERATIONS.register(OperationEntry(kind, model))
    return model


def count_swatches(number: int) -> str:
    """“1 swatch” or “12 swatches”."""
    return f"{number} swatch" if number == 1 else f"{number} swatches"
