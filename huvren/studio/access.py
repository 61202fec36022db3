"""The one policy: which actor may do what with which kind of object, and so which objects a user may see at all.

Every service asks here; nothing else compares owners. An actor is a relation between a user and an object; a further one (somebody
whom a shelf is shared with) is an entry in `ACTORS` and in the rows of `POLICY`.
"""

from collections.abc import Callable, Mapping
from functools import cache
from types import SimpleNamespace
from typing import Any, Literal, TypeVar, cast
from uuid import UUID

from django.contrib.auth.models import AbstractBaseUser, AnonymousUser
from django.db.models import Model, Q, QuerySet, UUIDField

from huvren.core.errors import Unknown
from huvren.studio.models import IndexMap, Job, JobFile, JobResult, KeptRecipe, LimitSet, Palette, Picture, RampCard, Revision
from huvren.studio.prepared import Prepared

User = AbstractBaseUser | AnonymousUser
Action = Literal["see", "change", "remove"]
Actor = Literal["owner"]
Object = TypeVar("Object", bound=Model)


def key_of(user: User) -> int:
    """The key of a signed-in user, for what becomes theirs. Raises `Unknown` for a visitor."""
    if user.pk is None:
        raise Unknown("Nobody is signed in, so there is no shelf to put that on.")
    return int(user.pk)


OWNER_OF: dict[type[Model], str] = {
    Palette: "owner", Picture: "owner", KeptRecipe: "owner", LimitSet: "owner", Job: "owner",
    Revision: "palette__owner", RampCard: "palette__owner", IndexMap: "picture__owner",
    JobResult: "job__owner", JobFile: "job__owner",
}  # fmt: skip
"""By model, the way to its owner."""

ACTORS: Mapping[Actor, Callable[[User, type[Model]], Q]] = {
    "owner": lambda user, model: Q(**{OWNER_OF[model]: user.pk}),
}
"""Which rows of a model stand in this relation to a user who is signed in."""

_ALL: frozenset[Action] = frozenset({"see", "change", "remove"})
_SEE: frozenset[Action] = frozenset({"see"})
POLICY: Mapping[type[Model], Mapping[Actor, frozenset[Action]]] = {
    Palette: {"owner": _ALL},
    Picture: {"owner": _ALL},
    KeptRecipe: {"owner": _ALL},
    LimitSet: {"owner": _ALL},
    Job: {"owner": _ALL},
    # What is stored once stays as it is, and goes only with what it belongs to.
    Revision: {"owner": _SEE},
    RampCard: {"owner": _SEE},
    IndexMap: {"owner": _SEE},
    JobResult: {"owner": _SEE},
    JobFile: {"owner": frozenset()},
}
"""What each actor may do with each kind of object; what does not stand here nobody may."""


def _rule(user: User, model: type[Model], action: Action) -> Q:
    """Which rows of a model a user may do this with."""
    allowed = Q(pk__in=[])
    if user.pk is None:
        return allowed
    for actor, actions in POLICY[model].items():
        if action in actions:
            allowed |= ACTORS[actor](user, model)
    return allowed


def visible(user: User, model: type[Object], action: Action = "see") -> QuerySet[Object]:
    """All objects of a model that this user may see, or do something else with."""
    return model._default_manager.filter(_rule(user, model, action))


def as_user(key: int) -> User:
    """Whoever has this key, for questions that are put together before anybody asks them."""
    return cast(User, SimpleNamespace(pk=key))


@cache
def _one(model: type[Object], action: Action, lock: bool) -> Prepared[Object]:
    def rows(user: int, object_id: Any) -> QuerySet[Object]:
        found = visible(as_user(user), model, action).filter(pk=object_id)
        return found.select_for_update(of=("self",)) if lock else found

    return Prepared(rows, int, UUID if isinstance(model._meta.pk, UUIDField) else int)


def find(user: User, model: type[Object], object_id: UUID, action: Action = "see", *, lock: bool = False) -> Object:
    """One object, held until the transaction ends where `lock` says so.

    What somebody may not see is as unknown as what is not there. Raises `Unknown`.
    """
    rows: list[Object] = [] if user.pk is None else _one(model, action, lock)(user.pk, object_id)
    if not rows:
        raise Unknown(f"There is no such {model._meta.verbose_name} on your shelf. It may have been removed for good.")
    return rows[0]


def allowed(user: User, action: Action, thing: Model) -> bool:
    """Whether this user may do this with an object."""
    return visible(user, type(thing), action).filter(pk=thing.pk).exists()
