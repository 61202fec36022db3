"""Palettes: making them, applying operations, walking the history."""

import contextlib
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from uuid import UUID

from django.db import transaction
from django.db.models import Exists, F, OuterRef, QuerySet, Subquery
from django.utils import timezone

from huvren.core.errors import BadInput, Unknown
from huvren.core.palette import values
from huvren.core.palette.document import understand_palette
from huvren.core.palette.operations import Operation
from huvren.core.stored.link import understand_links
from huvren.core.versions import BadDocument
from huvren.studio.access import User, as_user, find, key_of, visible
from huvren.studio.bounds import MB
from huvren.studio.errors import DoneAlready, StaleRevision
from huvren.studio.models import Palette, Picture, Revision
from huvren.studio.prepared import Prepared
from huvren.studio.services.load.quotas import check_bytes, make_room
from huvren.studio.services.load.remembering import Remembered
from huvren.studio.services.shelf.cards import write_card
from huvren.studio.services.shelf.links import Links, follow, usage_of
from huvren.studio.services.shelf.revisions import store_revision, stored_of


@dataclass(frozen=True)
class Contents:
    """What a revision holds, as values. problems : a sentence for whatever could not be understood."""

    palette: values.Palette
    links: Links
    problems: tuple[str, ...] = ()


@dataclass(frozen=True)
class State:
    """A palette at its head: the row, the revision, and what it holds."""

    row: Palette
    revision: Revision
    contents: Contents
    can_undo: bool
    can_redo: bool
    notes: tuple[str, ...] = ()
    """What should be said of the step that was just made."""

    @property
    def palette(self) -> values.Palette:
        return self.contents.palette

    @property
    def understood(self) -> values.Palette | None:
        """The palette, where all of it could be understood."""
        return None if self.contents.problems else self.contents.palette

    @property
    def links(self) -> Links:
        return self.contents.links


def read_contents(name: str, document: object, links: object) -> Contents:
    """A stored revision as far as it can be understood; it never raises."""
    linked = understand_links(links)
    try:
        palette = understand_palette(document)
    except BadDocument as error:
        problem = f"{error} It is shown empty; earlier steps of its history are as they were."
        return Contents(values.Palette(name), (), (problem, *linked.problems))
    return Contents(palette.value, linked.value, palette.problems + linked.problems)


BYTES_OF_SWATCH, BYTES_OF_STOP, BYTES_OF_ENTRY = 900, 500, 120
"""About what a swatch, a stop of a ramp and an entry of a table or of a variant take as values."""


def _bytes_of(contents: Contents) -> int:
    palette = contents.palette
    ramps = sum(len(ramp.plan.stops) * BYTES_OF_STOP + len(ramp.baked) * BYTES_OF_ENTRY for ramp in palette.ramps)
    entries = sum(len(variant.colors) for variant in palette.variants)
    entries += sum(len(link.table) + sum(len(frame.counts) for frame in link.frames) for link in contents.links)
    return (len(palette.swatches) + len(palette.groups) + 2) * BYTES_OF_SWATCH + ramps + entries * BYTES_OF_ENTRY


RECENT: Remembered[tuple[UUID, int], Contents] = Remembered(80 * MB, _bytes_of)
"""What revisions hold, as values, by palette and row. Revisions never change and a row's number is given out once, even where the
row is rolled back, so what is remembered is always right; a step's number is not such a key."""


def contents_of(revision: Revision, name: str) -> Contents:
    """What a revision holds; its documents are only fetched and read where they are not known."""
    return RECENT.get((revision.palette_id, revision.pk), lambda: read_contents(name, *stored_of(revision)))


SEARCHED = ("strip", "colors", "searched", "tag_words")
"""What of a palette's row is only written, and looked for by the database."""


def _heads() -> QuerySet[Revision]:
    """Present revisions without what they hold, with their palette and with the number of its last one as `last`."""
    newest = Revision.objects.filter(palette=OuterRef("palette")).order_by("-number").values("number")[:1]
    rows = Revision.objects.filter(number=F("palette__head")).annotate(last=Subquery(newest))
    return rows.select_related("palette").defer("packed", *(f"palette__{name}" for name in SEARCHED))


def _head(row: Palette) -> Revision:
    return _heads().get(palette=row)


def _state(row: Palette, revision: Revision | None = None) -> State:
    current = revision or _head(row)
    redo = row.revisions.filter(parent=current.number).exists()
    return State(row, current, contents_of(current, row.name), current.parent is not None, redo)


def _seen(user: int, palette_id: UUID) -> QuerySet[Revision]:
    children = Revision.objects.filter(palette=OuterRef("palette"), parent=OuterRef("number"))
    seen = _heads().filter(palette_id=palette_id, palette__in=visible(as_user(user), Palette))
    return seen.annotate(has_children=Exists(children))


SEEN_HEAD = Prepared(_seen, int, UUID)
"""The head of a palette that may be seen, with the palette, by the key of who asks and its id."""


def _seen_head(user: User, palette_id: UUID) -> Revision:
    """Raises `Unknown`."""
    found = SEEN_HEAD(key_of(user), palette_id)
    return found[0] if found else _head(find(user, Palette, palette_id))


def get_state(user: User, palette_id: UUID) -> State:
    """The palette as it is now. Raises `Unknown`."""
    current = _seen_head(user, palette_id)
    if not hasattr(current, "has_children"):
        return _state(current.palette, current)
    row = current.palette
    return State(row, current, contents_of(current, row.name), current.parent is not None, current.has_children)


def seen_palette(user: User, palette_id: str) -> str:
    """The id itself where it is one of a palette that the artist may see, and nothing otherwise."""
    with contextlib.suppress(ValueError):
        if visible(user, Palette).filter(pk=UUID(palette_id)).exists():
            return str(UUID(palette_id))
    return ""


def look_at(user: User, palette_id: UUID) -> Contents:
    """What the palette holds now, by one query: for what is asked again and again while a control moves."""
    revision = _seen_head(user, palette_id)
    return contents_of(revision, revision.palette.name)


def _changed(user: int, palette_id: UUID) -> QuerySet[Revision]:
    locked = _heads().select_for_update(of=("palette",))
    return locked.filter(palette_id=palette_id, palette__in=visible(as_user(user), Palette, "change"))


CHANGED_HEAD = Prepared(_changed, int, UUID)
"""The same of one that may be changed, whose row is held until the transaction ends."""


MOST_REMEMBERED = 32
"""Wishes of a palette that are known to be carried out. Whoever sends one again does so at once, or with the next page."""
MOVED = ("head", "once", "updated")
"""What else of a row is saved with a step."""


def check_wish(row: Palette, base: int, once: UUID | None, state: Callable[[], State]) -> None:
    """Whether what is wished for on the revision `base` may be done now.

    once : the wish's own id, where whoever sends it gave one. Raises `DoneAlready` where it has been done, whatever has come
    after it, and `StaleRevision` where `base` is not the head.
    """
    if once in row.once:
        raise DoneAlready(state())
    if row.head != base:
        raise StaleRevision(state())


def open_for_change(user: User, palette_id: UUID, base: int, once: UUID | None = None) -> State:
    """Lock the palette for the rest of the transaction, and remember the wish with its next head. Raises as `check_wish` does."""
    # One query locks the palette and fetches its head. It comes back empty where another change was waited for, since
    # the head it joined is no longer one; then, and where there is no such palette, it is asked step by step.
    revision = next(iter(CHANGED_HEAD(key_of(user), palette_id)), None)
    row = find(user, Palette, palette_id, "change", lock=True) if revision is None else revision.palette
    check_wish(row, base, once, lambda: _state(row))
    if once is not None:
        row.once = [*row.once, once][-MOST_REMEMBERED:]
    if revision is None:
        revision = _head(row)
    # Whether there is something to redo is not asked: the change about to be made ends that.
    return State(row, revision, contents_of(revision, row.name), revision.parent is not None, False)


def add_revision(state: State, palette: values.Palette, label: str, links: Links) -> State:
    """Store the palette's next revision and make it the head; `state` is one that was opened for change."""
    row = state.row
    check_bytes(row.owner_id)
    last: int = state.revision.last  # type: ignore[attr-defined]
    revision = store_revision(row, last + 1, row.head, label, palette, links, after=state.revision)
    row.head = revision.number
    write_card(row, palette, links, MOVED, state.understood)
    contents = Contents(palette, links)
    RECENT.put((row.id, revision.pk), contents)
    return State(row, revision, contents, True, False)


@transaction.atomic
def create(user: User, palette: values.Palette, label: str, links: Links = ()) -> State:
    """A new palette with its first revision."""
    make_room(user, palettes=1)
    row = Palette(owner_id=key_of(user), head=1)
    write_card(row, palette, links)
    revision = store_revision(row, 1, None, label, palette, links)
    return State(row, revision, Contents(palette, links), False, False)


@dataclass(frozen=True)
class Proposed:
    """A step that is not made yet: its label, the palette and links after it, and who takes over from whom."""

    state: State
    label: str
    manner: str
    palette: values.Palette
    links: Links
    successors: Mapping[str, str]
    notes: tuple[str, ...] = ()


def propose(state: State, operation: Operation) -> Proposed:
    """What an operation would give; nothing is stored."""
    label = operation.label(state.palette)
    outcome = operation.run(state.palette, usage_of(state.links))
    links = follow(state.links, state.palette, outcome.palette, outcome.successors)
    return Proposed(state, label, operation.manner(), outcome.palette, links, outcome.successors, outcome.notes)


@transaction.atomic
def apply(user: User, palette_id: UUID, base: int, operation: Operation, once: UUID | None = None) -> State:
    """Apply one operation as one labeled step."""
    state = open_for_change(user, palette_id, base, once)
    proposed = propose(state, operation)
    if proposed.palette == state.palette:
        return _state(state.row, state.revision)
    return replace(add_revision(state, proposed.palette, proposed.label, proposed.links), notes=proposed.notes)


@transaction.atomic
def regroup(
    user: User,
    palette_id: UUID,
    base: int,
    arrange: Callable[[values.Palette], values.Palette],
    label: str,
) -> State:
    """One labeled step by any function that keeps every swatch."""
    state = open_for_change(user, palette_id, base)
    return add_revision(state, arrange(state.palette), label, state.links)


def _with_head(state: State, revision: Revision) -> State:
    """Make another revision the head of a palette that was opened for change. No revision is ever removed."""
    contents = contents_of(revision, state.row.name)
    state.row.head = revision.number
    write_card(state.row, contents.palette, contents.links, MOVED, state.understood)
    return _state(state.row, revision)


@transaction.atomic
def move_head(user: User, palette_id: UUID, base: int, number: int, once: UUID | None = None) -> State:
    """To any step of the history."""
    state = open_for_change(user, palette_id, base, once)
    revision = state.row.revisions.filter(number=number).first()
    if revision is None:
        raise Unknown(f"There is no step {number} in this palette's history.")
    return _with_head(state, revision)


@transaction.atomic
def undo(user: User, palette_id: UUID, base: int, once: UUID | None = None) -> State:
    """Back to the revision that the present one was made from."""
    state = open_for_change(user, palette_id, base, once)
    parent = state.revision.parent
    if parent is None:
        raise BadInput("There is nothing to undo: this is how the palette began.")
    return _with_head(state, state.row.revisions.get(number=parent))


@transaction.atomic
def redo(user: User, palette_id: UUID, base: int, once: UUID | None = None) -> State:
    """Forward to the latest revision made from the present one."""
    state = open_for_change(user, palette_id, base, once)
    child = state.row.revisions.filter(parent=state.row.head).order_by("-number").first()
    if child is None:
        raise BadInput("There is nothing to redo: this is the latest step.")
    return _with_head(state, child)


def set_trashed(user: User, model: type[Palette] | type[Picture], object_id: UUID, trashed: bool) -> None:
    """Put an object into the trash, or take it out again."""
    row = find(user, model, object_id, "remove")
    model.objects.filter(pk=row.pk).update(trashed=timezone.now() if trashed else None)
