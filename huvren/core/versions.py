"""Documents that outlive the code that wrote them: each carries its version, and every older version can be read.

A `Kind` of document names its present version, its typed shape and one upgrader for each step from an older version to the
next. Reading never ends in an unforeseen error: read `strictly`, a document that does not fit is refused in words; read for
somebody who owns it, what could not be understood is left out or stood in for, and said.
"""

from collections.abc import Callable, Mapping, Sequence
from copy import deepcopy
from dataclasses import dataclass, field
from functools import cache
from typing import Any, Generic, TypeVar

from pydantic import TypeAdapter, ValidationError

from huvren.core.bounded import bounded_reader
from huvren.core.errors import BadInput
from huvren.core.registry import Registry

Shape = TypeVar("Shape")
Upgrader = Callable[[dict[str, Any]], dict[str, Any]]
MOST_MENDS = 24
MOST_SAID = 40
LONGEST_SHOWN = 40


class BadDocument(BadInput):
    """A document that cannot be understood."""

    code = "bad_document"


@dataclass(frozen=True)
class Understood(Generic[Shape]):
    """What a document says, and a sentence for everything in it that could not be understood."""

    value: Shape
    """What could be understood."""
    problems: tuple[str, ...] = ()
    """What could not, in sentences."""


def _shown(value: object) -> str:
    text = str(value)
    return text if len(text) <= LONGEST_SHOWN else text[: LONGEST_SHOWN - 1] + "…"


def _place(loc: tuple[int | str, ...]) -> str:
    return " › ".join(str(part) for part in loc)


def _sentence(error: Mapping[str, Any]) -> str:
    """One of pydantic's errors, with the place where it is."""
    *above, last = error["loc"] or ("",)
    if error["type"] == "missing":
        return f"{_place(tuple(above))}{': ' if above else ''}the field '{last}' is missing"
    if error["type"] == "extra_forbidden":
        return f"{_place(tuple(above))}{': ' if above else ''}“{_shown(last)}” is unknown here"
    return f"{_place(error['loc'])}: {str(error['msg']).removeprefix('Value error, ').rstrip('.')}"


@cache
def _reader(adapter: Callable[[], TypeAdapter[Any]]) -> Callable[[Any], Any]:
    return bounded_reader(adapter())


@dataclass(frozen=True)
class Kind(Generic[Shape]):
    """One kind of stored document.

    noun : what a sentence calls it. version : the present one; a document without one is of version 1. adapter : gives the
    shape's pydantic adapter, made when it is first needed. upgraders : from each older version to the next.
    stand_ins : what stands where a part with this name cannot be read.
    """

    id: str
    """By which it is named in documents, addresses and commands."""
    noun: str
    version: int
    adapter: Callable[[], TypeAdapter[Shape]]
    upgraders: Mapping[int, Upgrader] = field(default_factory=dict)
    stand_ins: Mapping[str, Any] = field(default_factory=dict)

    def __post_init__(self) -> None:
        if set(self.upgraders) != set(range(1, self.version)):
            raise TypeError(f"The stored {self.id} of version {self.version} needs an upgrader for every version before it.")

    def stamped(self, document: Mapping[str, Any]) -> dict[str, Any]:
        """A document as it is stored: with its version in front."""
        return {"version": self.version, **document}

    def _present(self, document: object, problems: list[str]) -> dict[str, Any]:
        """The document brought up to the present version, without its number."""
        if not isinstance(document, dict):
            raise BadDocument(f"This is no {self.noun}: an object was expected, not “{_shown(document)}”.")
        version = document.get("version", 1)
        if not isinstance(version, int) or isinstance(version, bool) or version < 1:
            raise BadDocument(f"“{_shown(version)}” is no version of a {self.noun}.")
        if version > self.version:
            problems.append(
                f"This {self.noun} was written by a newer Huvren (version {version} of its form; this one knows {self.version})."
            )
        document = {key: value for key, value in document.items() if key != "version"}
        for step in range(version, self.version):
            try:
                document = self.upgraders[step](document)
            except (KeyError, TypeError, ValueError, AttributeError, IndexError) as error:
                raise BadDocument(f"This {self.noun} of version {step} is damaged: {_shown(error)}.") from error
        return document

    def read(self, document: object) -> Shape:
        """Strictly, for what comes from outside. Raises `BadDocument` with the first thing that is wrong."""
        problems: list[str] = []
        present = self._present(document, problems)
        if problems:
            raise BadDocument(f"{problems[0]} Bring this one up to date.")
        try:
            shape: Shape = _reader(self.adapter)(present)
            return shape
        except ValidationError as error:
            first = error.errors(include_url=False, include_context=False)[0]
            raise BadDocument(f"This {self.noun} cannot be understood: {_sentence(first)}.") from error
        except RecursionError as error:
            raise BadDocument(f"This {self.noun} is nested too deep.") from error

    def understand(self, document: object) -> Understood[Shape]:
        """For what is stored already. Raises `BadDocument` only where nothing at all can be made of it."""
        problems: list[str] = []
        present: Any = self._present(document, problems)
        for _ in range(MOST_MENDS):
            try:
                return Understood(self.adapter().validate_python(present), said_shortly(problems))
            except ValidationError as error:
                rows = error.errors(include_url=False, include_context=False)
            problems += [f"Not understood: {_sentence(row)}." for row in rows]
            present = self._mended(deepcopy(present), [row["loc"] for row in rows])
        raise BadDocument(f"This {self.noun} cannot be understood. {problems[0] if problems else ''}".strip())

    def _mended(self, document: Any, places: Sequence[tuple[int | str, ...]]) -> Any:
        """The document, changed in place, with the parts at these places taken out or stood in for."""
        gone: dict[tuple[int | str, ...], bool] = {}
        for loc in places:
            named = [place for place, part in enumerate(loc) if part in self.stand_ins]
            path = loc[: named[-1] + 1] if named else loc
            # Tags of unions stand in the place of an error without being a part of the document; so does what is missing.
            holder, found = _way(document, path)
            stands_in = bool(named) and found >= len(path) - 1 and isinstance(holder, dict)
            gone.setdefault(path if stands_in else path[:found], stands_in)
        # From the last to the first: what is taken out of a list moves what follows it.
        for path in reversed(gone):
            if not path:
                return {}
            holder, found = _way(document, path)
            if gone[path] and found >= len(path) - 1:
                holder[path[-1]] = deepcopy(self.stand_ins[str(path[-1])])
            elif found == len(path):
                del holder[path[-1]]
        return document


def _way(document: Any, path: Sequence[int | str]) -> tuple[Any, int]:
    """How many parts of a path lead on from a document, and what holds the last part, or would hold it."""
    holder = document
    for found, part in enumerate(path):
        is_key = isinstance(document, dict) and part in document
        if not is_key and not (isinstance(document, list) and isinstance(part, int) and part < len(document)):
            return document, found
        holder, document = document, document[part]
    return holder, len(path)


def said_shortly(problems: Sequence[str]) -> tuple[str, ...]:
    """Each sentence once, and of very many the first ones and how many more there are."""
    once = list(dict.fromkeys(problems))
    more = len(once) - MOST_SAID
    return tuple(once) if more <= 0 else (*once[:MOST_SAID], f"And {more:,} more of the kind.")


KINDS: Registry[Kind[Any]] = Registry("kind of stored document")
