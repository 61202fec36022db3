"""Services: permission, one transaction, a core call, a stored revision."""

from typing import TypeVar
from uuid import UUID

from django.contrib.auth.models import AbstractBaseUser
from django.db.models import Model

from huvren.core.errors import Unknown

Owned = TypeVar("Owned", bound=Model)


def get_owned(model: type[Owned], owner: AbstractBaseUser, object_id: UUID, *, lock: bool = False) -> Owned:
    """An object of this owner. Somebody else's is as unknown as none at all."""
    rows = model._default_manager.select_for_update(of=("self",)) if lock else model._default_manager.all()
    found = rows.filter(pk=object_id, owner=owner).first()
    if found is None:
        raise Unknown(f"There is no such {model._meta.verbose_name} on your shelf. It may have been removed for good.")
    return found
