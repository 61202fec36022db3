"""Every palette operation, loaded and registered: what an API, a history or a test asks for."""

from typing import Annotated, TypeAlias, Union

from pydantic import Field

from huvren.core.palette.operations import (  # noqa: F401
    OPERATIONS,
    add,
    adjust,
    bake_ramp,
    bring_in,
    check_limits,
    compare,
    delete,
    derive,
    duplicate,
    groups,
    lock,
    merge,
    move,
    naming,
    notes,
    ramps,
    recolor,
    rename,
    several,
    slots,
    sort,
    variants,
)

__all__ = ["OPERATIONS", "AnyOperation"]

# By name, as the order of registering depends on which operation was loaded first.
AnyOperation: TypeAlias = Annotated[  # type: ignore[valid-type]  # built from the registry
    Union[tuple(entry.model for entry in sorted(OPERATIONS, key=lambda entry: entry.id))],  # noqa: UP007
    Field(discriminator="kind"),
]
