"""Typed choices for pydantic's models: ids of a registry, and texts of a kind that no pattern describes."""

from dataclasses import dataclass
from typing import Annotated, Any

from pydantic import Field, GetCoreSchemaHandler, GetJsonSchemaHandler
from pydantic_core import core_schema

from huvren.core.registry import Registry


@dataclass(frozen=True)
class OneOf:
    """`Annotated[str, OneOf(DITHERS)]`: an id that is registered. The schema lists all of them, whenever they were registered."""

    registry: Registry[Any]
    """Whose ids may be chosen."""

    def __hash__(self) -> int:
        return id(self.registry)

    def __get_pydantic_core_schema__(self, source: Any, handler: GetCoreSchemaHandler) -> core_schema.CoreSchema:
        return core_schema.no_info_after_validator_function(self.registry.known, handler(source))

    def __get_pydantic_json_schema__(self, schema: core_schema.CoreSchema, handler: GetJsonSchemaHandler) -> dict[str, Any]:
        return {**handler(schema), "enum": list(self.registry.ids()), "x-registry": self.registry.kind}


ColorText = Annotated[str, Field(json_schema_extra={"format": "color"})]
"""A color in any notation of `color/notation.py`; who declares it parses it."""
DepthText = Annotated[str, Field(json_schema_extra={"format": "channel-depth"})]
"""Bits or levels of each channel, as `reduction/depth.py` reads them."""
