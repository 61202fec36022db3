"""One registry is the only list: menus, API choices, command-line choices and tests derive from it."""

from collections.abc import Iterator
from typing import Generic, Protocol, TypeVar

from huvren.core.errors import Unknown


class Entry(Protocol):
    @property
    def id(self) -> str: ...


EntryType = TypeVar("EntryType", bound=Entry)


class Registry(Generic[EntryType]):
    """Entries by id, in the order they were registered."""

    def __init__(self, kind: str) -> None:
        self.kind = kind
        self._entries: dict[str, EntryType] = {}

    def register(self, entry: EntryType) -> EntryType:
        """Add `entry`; a missing or doubled id fails at import."""
        if not entry.id:
            raise TypeError(f"A {self.kind} was registered without an id.")
        if entry.id in self._entries:
            raise TypeError(f"The {self.kind} {entry.id!r} is registered twice.")
        self._entries[entry.id] = entry
        return entry

    def __getitem__(self, entry_id: str) -> EntryType:
        try:
            return self._entries[entry_id]
        except KeyError:
            choices = ", ".join(self._entries)
            raise Unknown(f"There is no {self.kind} “{entry_id}”. Choose one of: {choices}.") from None

    def __contains__(self, entry_id: object) -> bool:
        return entry_id in self._entries

    def __iter__(self) -> Iterator[EntryType]:
        return iter(self._entries.values())

    def __len__(self) -> int:
        return len(self._entries)

    def get(self, entry_id: str) -> EntryType | None:
        return self._entries.get(entry_id)

    def known(self, entry_id: str) -> str:
        """The id itself; raises `ValueError`, as pydantic wants it, for one that is not registered."""
        try:
            return self[entry_id].id
        except Unknown as error:
            raise ValueError(str(error)) from error

    def ids(self) -> tuple[str, ...]:
        return tuple(self._entries)
