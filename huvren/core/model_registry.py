"""Models that say by a literal `kind` what they are, such as operations and derivations: their common base and their registry."""

from dataclasses import dataclass
from typing import ClassVar, Generic, TypeVar

from pydantic import ConfigDict

from huvren.core.bounded import Bounded
from huvren.core.registry import Registry


class ModelOfKind(Bounded):
    """Base of every such model: frozen, and nothing in it but what it declares."""

    model_config = ConfigDict(frozen=True, extra="forbid", defer_build=True)
    summary: ClassVar[str] = ""


ModelType = TypeVar("ModelType", bound=ModelOfKind)
Decorated = TypeVar("Decorated", bound=type[ModelOfKind])


@dataclass(frozen=True)
class ModelEntry(Generic[ModelType]):
    """A model under its kind."""

    id: str
    """By which it is named in documents, addresses and commands."""
    model: type[ModelType]
    """Its settings."""


class ModelRegistry(Registry[ModelEntry[ModelType]]):
    """Such models by the default of their `kind`, in the order in which they were registered."""

    def model(self, model: Decorated) -> Decorated:
        """Class decorator: register a model. Raises `TypeError` for one without a summary."""
        if not model.summary:
            raise TypeError(f"The {self.kind} {model.__name__} has no summary.")
        kind = getattr(model, "model_fields")["kind"].default  # noqa: B009  (mypy has no overload for a type variable)
        self.register(ModelEntry(kind, model))  # type: ignore[arg-type]  # bound by whoever decorates
        return model
