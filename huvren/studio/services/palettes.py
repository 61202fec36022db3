"""Palettes: making them, applying operations, walking the history."""

import threading
from collections import OrderedDict
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any
from uuid import UUID

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.db.models import F, OuterRef, QuerySet, Subquery
from django.utils import timezone

from huvren.core.errors import BadInput, Unknown
from huvren.core.palette import values
from huvren.core.palette.operations import Operation
from huvren.core.palette.values import palette_from_document, palette_to_document
from huvren.studio.errors import StaleRevision
from huvren.studio.models import Palette, Revision
from huvren.studio.services import get_owned
from huvren.studio.services.links import Link, follow, pixels_per_swatch


@dataclass(frozen=True)
class State:
    """A palette at its head: the row, the revision, and the document as values."""

    row: Palette
    revision: Revision
    palette: values.Palette
    can_undo: bool
    can_redo: bool


class _Recent:
    """Palettes as values by palette and revision. Revisions never change, so what is remembered is always right."""

    def __init__(self, most_swatches: int) -> None:
        self.most_swatches = most_swatches
        self._known: OrderedDict[tuple[UUID, int], values.Palette] = OrderedDict()
        self._lock = threading.Lock()

    def put(self, revision: Revision, palette: values.Palette) -> None:
        with self._lock:
            self._known[(revision.palette_id, revision.number)] = palette
            while len(self._known) > 1 and sum(len(known.swatches) for known in self._known.values()) > self.most_swatches:
                self._known.popitem(last=False)

    def get(self, revision: Revision) -> values.Palette:
        """The palette of a revision; its document is only fetched and read where it is not known."""
        key = (revision.palette_id, revision.number)
        with self._lock:
            if key in self._known:
                self._known.move_to_end(key)
                return self._known[key]
        palette = palette_from_document(revision.document)
        self.put(revision, palette)
        return palette


RECENT = _Recent(100_000)


def _heads() -> QuerySet[Revision]:
    """Present revisions without their documents, and with the number of the palette's last one as `last`."""
    newest = Revision.objects.filter(palette=OuterRef("palette")).order_by("-number").values("number")[:1]
    return Revision.objects.filter(number=F("palette__head")).defer("document").annotate(last=Subquery(newest))


def _head(row: Palette) -> Revision:
    return _heads().get(palette=row)


def _state(row: Palette, revision: Revision | None = None) -> State:
    current = revision or _head(row)
    redo = row.revisions.filter(parent=current.number).exists()
    return State(row, current, RECENT.get(current), current.parent is not None, redo)


def get_state(owner: AbstractBaseUser, palette_id: UUID) -> State:
    """The palette as it is now."""
    return _state(get_owned(Palette, owner, palette_id))


def open_for_change(owner: AbstractBaseUser, palette_id: UUID, base: int) -> State:
    """Lock the palette for the rest of the transaction. Raises `StaleRevision` when `base` is not its head."""
    # One query locks the palette and fetches its head. It comes back empty where another change was waited for, since
    # the head it joined is no longer one; then, and where there is no such palette, it is asked step by step.
    together = _heads().select_related("palette").select_for_update(of=("palette",))
    revision = together.filter(palette_id=palette_id, palette__owner=owner).first()
    row = get_owned(Palette, owner, palette_id, lock=True) if revision is None else revision.palette
    if row.head != base:
        raise StaleRevision(_state(row))
    if revision is None:
        revision = _head(row)
    # Whether there is something to redo is not asked: the change about to be made ends that.
    return State(row, revision, RECENT.get(revision), revision.parent is not None, False)


def add_revision(state: State, palette: values.Palette, label: str, links: list[Link]) -> State:
    """Store the palette's next revision and make it the head; `state` is one that was opened for change."""
    row = state.row
    last: int = state.revision.last  # type: ignore[attr-defined]
    revision = Revision.objects.create(
        palette=row, number=last + 1, parent=row.head, label=label[:500],
        document=palette_to_document(palette), links=links,
    )  # fmt: skip
    row.head, row.name = revision.number, palette.name
    row.save(update_fields=["head", "name", "updated"])
    RECENT.put(revision, palette)
    return State(row, revision, palette, True, False)


@transaction.atomic
def create(owner: AbstractBaseUser, palette: values.Palette, label: str, links: list[Link] | None = None) -> State:
    """A new palette with its first revision."""
    row = Palette.objects.create(owner=owner, name=palette.name, head=1)
    revision = Revision.objects.create(
        palette=row, number=1, parent=None, label=label[:500], document=palette_to_document(palette), links=links or []
    )
    return State(row, revision, palette, False, False)


@dataclass(frozen=True)
class Proposed:
    """A step that is not made yet: its label, the palette and links after it, and who takes over from whom."""

    state: State
    label: str
    palette: values.Palette
    links: list[Link]
    successors: Mapping[str, str]


def propose(state: State, operation: Operation) -> Proposed:
    """What an operation would give; nothing is stored."""
    label = operation.label(state.palette)
    outcome = operation.apply(state.palette, pixels_per_swatch(state.revision.links)[0])
    links = follow(state.revision.links, state.palette, outcome.palette, outcome.successors)
    return Proposed(state, label, outcome.palette, links, outcome.successors)


@transaction.atomic
def apply(owner: AbstractBaseUser, palette_id: UUID, base: int, operation: Operation) -> State:
    """Apply one operation as one labeled step."""
    state = open_for_change(owner, palette_id, base)
    proposed = propose(state, operation)
    if proposed.palette == state.palette:
        return _state(state.row, state.revision)
    return add_revision(state, proposed.palette, proposed.label, proposed.links)


@transaction.atomic
def regroup(
    owner: AbstractBaseUser,
    palette_id: UUID,
    base: int,
    arrange: Callable[[values.Palette], values.Palette],
    label: str,
) -> State:
    """One labeled step by any function that keeps every swatch."""
    state = open_for_change(owner, palette_id, base)
    return add_revision(state, arrange(state.palette), label, state.revision.links)


@transaction.atomic
def move_head(owner: AbstractBaseUser, palette_id: UUID, base: int, number: int) -> State:
    """Make another revision the head. No revision is ever removed."""
    state = open_for_change(owner, palette_id, base)
    revision = state.row.revisions.filter(number=number).first()
    if revision is None:
        raise Unknown(f"There is no step {number} in this palette's history.")
    state.row.head, state.row.name = number, revision.document["name"]
    state.row.save()
    return _state(state.row, revision)


def undo(owner: AbstractBaseUser, palette_id: UUID, base: int) -> State:
    """Back to the revision that the present one was made from."""
    parent = get_state(owner, palette_id).revision.parent
    if parent is None:
        raise BadInput("There is nothing to undo: this is how the palette began.")
    return move_head(owner, palette_id, base, parent)


def redo(owner: AbstractBaseUser, palette_id: UUID, base: int) -> State:
    """Forward to the latest revision made from the present one."""
    row = get_owned(Palette, owner, palette_id)
    child = row.revisions.filter(parent=row.head).order_by("-number").first()
    if child is None:
        raise BadInput("There is nothing to redo: this is the latest step.")
    return move_head(owner, palette_id, base, child.number)


def set_trashed(owner: AbstractBaseUser, model: type, object_id: UUID, trashed: bool) -> None:
    """Put an object into the trash, or take it out again."""
    row: Any = get_owned(model, owner, object_id)
    model.objects.filter(pk=row.pk).update(trashed=timezone.now() if trashed else None)  # type: ignore[attr-defined]
