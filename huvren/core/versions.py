"""Documents that outlive the code that wrote them: each carries its version, and every older version can be read.

A `Kind` of document names its present version, its typed shape and one upgrader for each step from an older version to the
next. Reading never ends in an unforeseen error: read `strictly`, a document that does not fit is refused in words; read for
somebody who owns it, what could not be understood is left out or stood in for, and said.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, Generic, TypeVar

from pydantic import TypeAdapter, ValidationError

from huvren.core.errors import BadInput
from huvren.core.registry import Registry

Shape = TypeVar("Shape")
Upgrader = Callable[[dict[str, Any]], dict[str, Any]]
MOST_MENDS = 24
LONGEST_SHOWN = 40


class BadDocument(BadInput):
    """A document that cannot be understood."""

    code = "bad_document"


@dataclass(frozen=True)
class Understood(Generic[Shape]):
    """What a document says, and a sentence for everything in it that could not be understood."""

    value: Shape
    problems: tuple[str, ...] = ()


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


@dataclass(frozen=True)
class Kind(Generic[Shape]):
    """One kind of stored document.

    noun : what a sentence calls it. version : the present one; a document without one is of version 1. adapter : gives the
    shape's pydantic adapter, made when it is first needed. upgraders : from each older version to the next.
    stand_ins : what stands where a part with this name cannot be read.
    """

    id: str
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
            return self.adapter().validate_python(present)
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
                return Understood(self.adapter().validate_python(present), tuple(problems))
            except ValidationError as error:
                for row in error.errors(include_url=False, include_context=False):
                    present = self._without(present, row["loc"], row["type"])
                    problems.append(f"Not understood: {_sentence(row)}.")
        raise BadDocument(f"This {self.noun} cannot be understood. {problems[0] if problems else ''}".strip())

    def _without(self, document: Any, loc: tuple[int | str, ...], kind: str) -> Any:
        """A copy in which the part at `loc` is gone, or stood in for."""
        named = [place for place, part in enumerate(loc) if part in self.stand_ins]
        if named:
            return _replaced(document, loc[: named[-1] + 1], self.stand_ins[str(loc[named[-1]])])
        path = list(loc)
        # Tags of unions stand in the place of an error without being a part of the document.
        while path and not _leads(document, path):
            path.pop()
        return _removed(document, path)


def _leads(document: Any, path: list[int | str]) -> bool:
    """Whether the document has a part at the path."""
    for part in path:
        is_key = isinstance(document, dict) and part in document
        if not is_key and not (isinstance(document, list) and isinstance(part, int) and part < len(document)):
            return False
        document = document[part]
    return True


def _replaced(document: Any, path: tuple[int | str, ...], value: Any) -> Any:
    if not path:
        return value
    head, rest = path[0], path[1:]
    if isinstance(document, dict):
        return {**document, head: _replaced(document.get(head), rest, value)}
    if isinstance(document, list) and isinstance(head, int) and head < len(document):
        return [*document[:head], _replaced(document[head], rest, value), *document[head + 1 :]]
    return value


def _removed(document: Any, path: Sequence[int | str]) -> Any:
    if not path:
        return {}
    head, rest = path[0], path[1:]
    if isinstance(document, dict):
        if not rest:
            return {key: value for key, value in document.items() if key != head}
        return {**document, head: _removed(document[head], rest)}
    place = int(head)
    return [*document[:place], *([_removed(document[place], rest)] if rest else []), *document[place + 1 :]]


KINDS: Registry[Kind[Any]] = Registry("kind of stored document")
