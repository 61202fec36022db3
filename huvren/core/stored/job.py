"""What a job is asked to do, as it is stored until a worker takes it up."""

from functools import cache
from typing import Any
from uuid import UUID

from pydantic import ConfigDict, TypeAdapter, field_serializer, field_validator

from huvren.core.bounded import Bounded
from huvren.core.reduction.recipe import ReduceRecipe
from huvren.core.stored.recipe import RECIPE, recipe_to_document
from huvren.core.versions import KINDS, Kind


class _WithRecipe(Bounded):
    """A request that carries a recipe, which keeps a version of its own."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    recipe: ReduceRecipe

    @field_validator("recipe", mode="before")
    @classmethod
    def _read(cls, value: object) -> object:
        return value if isinstance(value, ReduceRecipe) else RECIPE.understand(value).value

    @field_serializer("recipe")
    def _write(self, recipe: ReduceRecipe) -> dict[str, Any]:
        return recipe_to_document(recipe)


class ReductionRequest(_WithRecipe):
    """Reduce a picture for a palette as it is at `base`, or to a new palette where none is named."""

    picture: UUID
    palette: UUID | None = None
    base: int | None = None


class BatchRequest(_WithRecipe):
    """Reduce many pictures by one recipe, each to a palette of its own."""

    pictures: list[UUID]


class ArchiveRequest(Bounded):
    """Bring in the archive whose bytes lie beside the job."""

    model_config = ConfigDict(frozen=True, extra="forbid")


ARCHIVE: Kind[ArchiveRequest] = KINDS.register(
    Kind("job-archive", "request to bring an archive in", 1, cache(lambda: TypeAdapter(ArchiveRequest)))
)
REDUCTION: Kind[ReductionRequest] = KINDS.register(
    Kind("job-reduction", "request for a reduction", 2, cache(lambda: TypeAdapter(ReductionRequest)), {1: lambda document: document})
)
BATCH: Kind[BatchRequest] = KINDS.register(
    Kind("job-batch", "request for a batch", 2, cache(lambda: TypeAdapter(BatchRequest)), {1: lambda document: document})
)
