"""What a swatch, a group and a palette consist of: every field is declared once, where it stands in its class.

A declaration says the stored form and since which version of the document there is one, whether the interface gets the field, what
becomes of it when a swatch is duplicated, merged, brought in or matched, and what the keep report says where a file loses it. The
document, the API, the archive, `held` and the report work from it, so a further field is one line in `values.py`. A format states
which fields it holds (`Keeps.fields`); whatever it does not state is lost and said.
"""

import dataclasses
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cache
from operator import attrgetter
from typing import Any, Literal

from huvren.core.errors import BadInput

Trouble = Callable[[str], None]
"""Told of what does not fit; raises where reading is strict."""
Copied = Literal["same", "empty"]
"""What a copy gets: the same value, or none."""


@dataclass(frozen=True)
class Words:
    """What the keep report says of fields that a file drops. Fields that share their words share one line.

    code : of the loss; text : a sentence with the number of swatches, groups or entries that lose something; partly : the sentence
    where something of it is left, with what is left.
    """

    code: str
    text: Callable[[int], str]
    partly: Callable[[Any], str] | None = None


BY_NAME: Literal["by name"] = "by name"
"""Stands for the words of a field that `holding` and `report` treat by its name, since it says how the others hang together."""


@dataclass(frozen=True)
class Declared:
    """One field.

    lost : the words of the keep report. shape : of its stored form, as pydantic takes it, with its bounds. since : the version of the
    palette's document that brought it. write : value → stored form. read : stored form → value; raises `BadInput` where that cannot
    be. always : whether it is stored even where it is empty. sent : its type in the API, None where the interface does not get it.
    duplicated, brought_in : what the copy gets. merged : the survivor's value, all values that are merged → the value after.
    matched : whether snapping to another palette takes over the partner's. by_variant : whether variants differ in it.
    count : how many things are lost with a value; the number of swatches or groups where it is not given. structural : whether
    `document` reads and writes it by name. examples : values that are not empty, for the tests.
    """

    lost: Words | Literal["by name"]
    shape: Any = None
    since: int = 1
    write: Callable[[Any], Any] | None = None
    read: Callable[[Any], Any] | None = None
    instead: Callable[[Any], Any] | None = None
    """Stored form that cannot be read → what stands in its place; the empty value where nothing can."""
    always: bool = False
    sent: Any = None
    describes: str = ""
    """What the API says of it."""
    duplicated: Copied = "same"
    brought_in: Copied = "same"
    merged: Callable[[Any, Sequence[Any]], Any] | None = None
    matched: bool = False
    by_variant: bool = False
    count: Callable[[Any, Any], int] = lambda before, after: 1
    structural: bool = False
    examples: tuple[Any, ...] = ()

    def __post_init__(self) -> None:
        if self.lost != BY_NAME and not self.examples:
            raise TypeError("A field that files may lose needs examples for the tests.")
        if not self.structural and self.shape is None:
            raise TypeError("A field needs the shape of its stored form.")
        if self.by_variant and not self.structural:
            raise TypeError("Variants store colors alone; a further field that differs between them needs a new form of theirs.")

    def understood(self, stored: Any, empty: Any, trouble: Trouble) -> Any:
        """The value of a stored form; what cannot be read is said and stood in for."""
        if self.read is None:
            return stored
        try:
            return self.read(stored)
        except BadInput as error:
            trouble(str(error))
            return self.instead(stored) if self.instead else empty


def declared(empty: Any = dataclasses.MISSING, *, factory: Any = dataclasses.MISSING, lost: Any, **declaration: Any) -> Any:
    """A field of a dataclass, with its declaration. empty : what it is where nothing is said; none for one that must be given."""
    made = Declared(lost, **declaration)
    if factory is not dataclasses.MISSING:
        return dataclasses.field(default_factory=factory, metadata={"declared": made})
    return dataclasses.field(default=empty, metadata={"declared": made})


@dataclass(frozen=True)
class Field:
    """A field of a class, by its name. key : how formats state that they hold it, such as `swatch.note`."""

    owner: type
    """The class that has it."""
    name: str
    """Of the attribute."""
    empty: Any
    """What it is where nothing is said."""
    declared: Declared
    """All else that is said of it."""

    @property
    def key(self) -> str:
        return f"{self.owner.__name__.lower()}.{self.name}"


@cache
def fields_of(owner: type) -> tuple[Field, ...]:
    """The fields of a class in order. Raises `TypeError` for one that is not declared."""
    made = []
    for entry in dataclasses.fields(owner):
        if "declared" not in entry.metadata:
            raise TypeError(f"The field {entry.name} of {owner.__name__} is not declared; see core/palette/fields.py.")
        made.append(Field(owner, entry.name, entry.default, entry.metadata["declared"]))
    return tuple(made)


@cache
def plain_fields_of(owner: type) -> tuple[Field, ...]:
    """Those that the document reads and writes by their declaration alone."""
    return tuple(entry for entry in fields_of(owner) if not entry.declared.structural)


@cache
def losable_fields_of(owner: type) -> tuple[Field, ...]:
    """Those that a file loses unless its format states that it holds them."""
    return tuple(entry for entry in fields_of(owner) if entry.declared.lost != BY_NAME)


def shapes_of(owner: type) -> dict[str, Any]:
    """The stored forms of its plain fields by name, as pydantic takes them."""
    return {entry.name: entry.declared.shape for entry in plain_fields_of(owner)}


@cache
def sent_of(owner: type) -> dict[str, Any]:
    """The types of its fields that the interface gets as they are stored."""
    return {entry.name: entry.declared.sent for entry in plain_fields_of(owner) if entry.declared.sent is not None}


def _class(thing: object) -> type:
    return type(thing)


Named = tuple[tuple[str, Callable[[Any], Any] | None], ...]


def _getter(names: Sequence[str]) -> Callable[[Any], tuple[Any, ...]]:
    """All values in one step; the first name is asked twice, as that of a single one would be no tuple."""
    return attrgetter(*names, names[0]) if names else lambda thing: ()


@cache
def _writer(owner: type) -> tuple[Named, Named, Callable[[Any], tuple[Any, ...]], tuple[Any, ...]]:
    """What is always written, what is written where it is not empty, how to get those, and what they are where they are empty."""
    named = tuple((entry.name, entry.declared.write) for entry in plain_fields_of(owner) if entry.declared.always)
    others = [entry for entry in plain_fields_of(owner) if not entry.declared.always]
    empty = tuple(entry.empty for entry in others)
    return named, tuple((e.name, e.declared.write) for e in others), _getter([e.name for e in others]), (*empty, *empty[:1])


def stored(thing: Any) -> dict[str, Any]:
    """The stored forms of a thing's plain fields; what is empty is left out where it may be."""
    always, others, get_others, empty = _writer(_class(thing))
    made = {name: write(getattr(thing, name)) if write else getattr(thing, name) for name, write in always}
    values = get_others(thing)
    # There may be tens of thousands of things, and few of them have more than a name.
    if values != empty:
        for (name, write), value, none in zip(others, values, empty, strict=False):
            if value != none:
                made[name] = write(value) if write else value
    return made


@cache
def _sending(owner: type) -> tuple[tuple[str, Callable[[Any], Any] | None], ...]:
    return tuple((entry.name, entry.declared.write) for entry in plain_fields_of(owner) if entry.name in sent_of(owner))


def sent(thing: Any) -> dict[str, Any]:
    """The fields that the interface gets, in their stored forms, empty ones too."""
    return {name: write(getattr(thing, name)) if write else getattr(thing, name) for name, write in _sending(_class(thing))}


@cache
def _reading(owner: type) -> tuple[tuple[str, Field | None], ...]:
    return tuple((entry.name, entry if entry.declared.read else None) for entry in plain_fields_of(owner))


def understood(owner: type, shape: Any, trouble: Trouble) -> dict[str, Any]:
    """The values of the plain fields that a stored form has, by name."""
    return {
        name: shape[name] if entry is None else entry.declared.understood(shape[name], entry.empty, trouble)
        for name, entry in _reading(owner)
        if name in shape
    }


@cache
def emptied_in_copies(owner: type, how: Literal["duplicated", "brought_in"]) -> dict[str, Any]:
    """What a copy does not take along, with the empty values that it gets."""
    return {entry.name: entry.empty for entry in fields_of(owner) if getattr(entry.declared, how) == "empty"}


@cache
def _merging(owner: type) -> tuple[tuple[str, Callable[[Any, Sequence[Any]], Any]], ...]:
    return tuple((entry.name, entry.declared.merged) for entry in fields_of(owner) if entry.declared.merged)


def merged_into(survivor: Any, all_of_them: Sequence[Any]) -> dict[str, Any]:
    """Fields of the survivor of a merge that are put together from all that are merged; the others stay its own."""
    return {
        name: merged(getattr(survivor, name), [getattr(thing, name) for thing in all_of_them])
        for name, merged in _merging(_class(survivor))
    }


@cache
def _matching(owner: type) -> tuple[str, ...]:
    return tuple(entry.name for entry in fields_of(owner) if entry.declared.matched)


def matched_from(partner: Any) -> dict[str, Any]:
    """Fields that a swatch takes over from its partner when it is snapped to another palette."""
    return {name: getattr(partner, name) for name in _matching(_class(partner))}
