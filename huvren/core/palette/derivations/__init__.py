"""Derivations: swatches worked out from others, or from a base color. One file each.

A derivation is a frozen pydantic model with a literal `kind`, registered like an operation. It gives named colors; the
operation `derive_swatches` puts them into the palette.
"""

from typing import Annotated, TypeAlias, Union

from pydantic import Field

from huvren.core.palette.derivations.derivation import (
    DERIVATIONS,
    ColorSource,
    Derivation,
    Named,
    chosen,
    derivation,
)

# isort: off
from huvren.core.palette.derivations import (  # noqa: F401  (menu order)
    harmony,
    grays,
    tints,
    softened,
    mixture,
    samples,
)
# isort: on

AnyDerivation: TypeAlias = Annotated[  # type: ignore[valid-type]  # built from the registry
    Union[tuple(entry.model for entry in DERIVATIONS)],  # noqa: UP007
    Field(discriminator="kind"),
]

__all__ = [
    "DERIVATIONS",
    "AnyDerivation",
    "ColorSource",
    "Derivation",
    "Named",
    "chosen",
    "derivation",
]
