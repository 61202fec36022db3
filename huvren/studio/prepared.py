"""Questions that are asked with every request: put together once, and asked again with other values.

Putting a query together takes the ORM three times as long as the database takes to answer it. What is asked stays a queryset, with
everything that it says of access; only its text is kept, with the places at which its values stand.
"""

import threading
from collections.abc import Callable, Sequence
from datetime import UTC, datetime
from typing import Any, Generic, Literal, TypeVar
from uuid import UUID

from django.core.exceptions import EmptyResultSet
from django.db import connection
from django.db.models import Model, QuerySet
from django.db.models.query import get_related_populators

Row = TypeVar("Row", bound=Model)
_STAND_INS: dict[type, Callable[[int], Any]] = {
    int: lambda place: 1_914_553_000 + place,
    str: lambda place: f"stands for a value {place}",
    UUID: lambda place: UUID(int=0x53A1D000_0000_4000_8000_000000000000 + place),
    datetime: lambda place: datetime(1901, 2, 3, 4, 5, place, tzinfo=UTC),
}
"""By type, values that no question is meant for and that each stand for one that is."""


class Prepared(Generic[Row]):
    """A queryset as a function of a few values.

    build : from one value of each type to the queryset. Each must stand in it as it is, as many times as it likes, and decide
    nothing else of it. Rows come with what `select_related`, `annotate` and `defer` say. Raises `ValueError` for a value that does
    not stand in what was built.
    """

    def __init__(self, build: Callable[..., QuerySet[Row]], *types: type) -> None:
        self.build = build
        self.stand_ins = [_STAND_INS[kind](place) for place, kind in enumerate(types)]
        self._lock = threading.Lock()
        self._asked: _Asked[Row] | Literal[False] | None = None

    def __call__(self, *values: Any) -> list[Row]:
        with self._lock:
            if self._asked is None:
                self._asked = _asked(self.build(*self.stand_ins), self.stand_ins)
        return self._asked.rows(values) if self._asked else []


def _asked(rows: QuerySet[Row], stand_ins: Sequence[Any]) -> "_Asked[Row] | Literal[False]":
    """False where nothing can be found whatever is asked: what nobody may see is not asked for."""
    try:
        return _Asked(rows, stand_ins)
    except EmptyResultSet:
        return False


class _Asked(Generic[Row]):
    """The text of a query, and how its rows become objects."""

    def __init__(self, rows: QuerySet[Row], stand_ins: Sequence[Any]) -> None:
        compiler = rows.query.get_compiler(connection=connection)
        self.sql, params = compiler.as_sql()
        self.params = list(params)
        self.places = [(at, stand_ins.index(value)) for at, value in enumerate(params) if value in stand_ins]
        if {place for _, place in self.places} != set(range(len(stand_ins))):
            raise ValueError("A value of a prepared question does not stand in it.")
        select, info = compiler.select, compiler.klass_info
        assert info is not None
        own = info["select_fields"]
        self.model: type[Row] = info["model"]
        self.first, self.behind = own[0], own[-1] + 1
        self.names = [select[place][0].target.attname for place in range(self.first, self.behind)]
        self.related = get_related_populators(info, select, connection.alias)  # type: ignore[call-arg]
        self.annotations = compiler.annotation_col_map
        self.converters = compiler.get_converters([expression for expression, *_ in select])
        self.compiler = compiler

    def rows(self, values: Sequence[Any]) -> list[Row]:
        params = list(self.params)
        for at, place in self.places:
            params[at] = values[place]
        with connection.cursor() as cursor:
            cursor.execute(self.sql, params)
            found = cursor.fetchall()
        # The converters of this connection's types are the same for each of its threads.
        return [self._object(row) for row in self.compiler.apply_converters(found, self.converters)]

    def _object(self, row: Sequence[Any]) -> Row:
        made = self.model.from_db(connection.alias, self.names, row[self.first : self.behind])
        for populator in self.related:
            populator.populate(row, made)
        for name, place in self.annotations.items():
            setattr(made, name, row[place])
        return made
