"""Sets of limits that an artist named, to take from palette to palette."""

from collections.abc import Mapping

from huvren.core.checks import clean_limits
from huvren.core.errors import BadInput
from huvren.core.palette.values import clean_name
from huvren.studio.access import User, key_of, visible
from huvren.studio.models import LimitSet

MOST_KEPT = 200


def keep(user: User, name: str, limits: Mapping[str, object]) -> LimitSet:
    """Keep limits by name; a set of the same name is replaced. Raises `BadInput` and `Unknown` for limits that cannot be."""
    cleaned = clean_name(name, "name of a set")
    if not cleaned:
        raise BadInput("A set of limits needs a name. Type at least one letter.")
    if visible(user, LimitSet).exclude(name=cleaned).count() >= MOST_KEPT:
        raise BadInput(f"The shelf holds {MOST_KEPT} sets of limits already. Take one away first.")
    kept, _ = LimitSet.objects.update_or_create(owner_id=key_of(user), name=cleaned, defaults={"limits": clean_limits(limits)})
    return kept
