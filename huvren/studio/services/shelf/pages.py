"""The shelf in pages: cards of one kind, as they are looked for and sorted, from a place on."""

import base64
import contextlib
import json
from bisect import bisect_left, bisect_right
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

import psycopg
from django.core.exceptions import ValidationError
from django.db import connection
from django.db.models import Q, QuerySet, TextField
from django.db.models.functions import Cast

from huvren.core.errors import BadInput
from huvren.studio.access import User, visible
from huvren.studio.models import Kind, Palette, Picture, RampCard, Reference
from huvren.studio.services.shelf.cards import nearest_first, opaque
from huvren.studio.services.shelf.searching import Wanted, palettes_like, pictures_like, ramps_like, read_search

Card = dict[str, Any]
Rows = QuerySet[Any, Any]
Order = Sequence[str]
"""Columns to sort by, one after the other, as `order_by` takes them; the last one is never the same twice."""

BY_PALETTE: Order = ("-palette__updated", "palette_id", "position", "id")
AT_ONCE = 500
"""Rows that are fetched together where all of them are looked at."""


@dataclass(frozen=True)
class Page:
    """Cards from a place on; where the next ones begin; how many are found, and how many there are in all."""

    cards: list[Card]
    next: str | None
    found: int
    all: int


@dataclass(frozen=True)
class _Kind:
    """How cards of a kind are found: their rows, what is looked for among them, the columns of a card, and how they may be sorted.

    colors : the colors of what `colored_by` holds, three 8-bit sRGB channels each; None where cards have none to be near to.
    """

    model: type[Palette] | type[Picture] | type[RampCard]
    in_trash: str
    like: Callable[[Rows, Wanted], Rows]
    columns: tuple[str, ...]
    sortings: Mapping[str, Order]
    colors: Callable[[Any], bytes] | None = None
    colored_by: str = ""
    finish: Callable[[User, list[Card], bool], list[Card]] = lambda user, cards, trash: cards


def _finish_palettes(user: User, cards: list[Card], trash: bool) -> list[Card]:
    for card in cards:
        card["picture"] = next(iter(card.pop("painted")), None)
        card["trashed"] = trash
    return cards


def _finish_pictures(user: User, cards: list[Card], trash: bool) -> list[Card]:
    """With the palettes that paint them, newest first."""
    ids = [card["id"] for card in cards]
    named = Reference.objects.filter(kind=Kind.PICTURE, target__in=ids).values("palette")
    painting: dict[str, list[UUID]] = {}
    for palette, painted in visible(user, Palette).filter(pk__in=named, trashed__isnull=not trash).values_list("id", "painted"):
        for picture in painted:
            painting.setdefault(picture, []).append(palette)
    for card in cards:
        card["palettes"] = painting.get(str(card["id"]), [])
        card["trashed"] = trash
    return cards


def _finish_ramps(user: User, cards: list[Card], trash: bool) -> list[Card]:
    names = {"ramp": "id", "palette_id": "palette", "palette__name": "palette_name", "palette__updated": "updated"}
    return [{names.get(name, name): value for name, value in card.items() if name != "id"} for card in cards]


KINDS: Mapping[str, _Kind] = {
    "palettes": _Kind(
        Palette, "trashed", palettes_like, ("id", "name", "updated", "count", "strip", "favorite", "tags", "painted"),
        {
            "latest": ("-updated", "-id"),
            "newest": ("-favorite", "-updated", "-id"),
            "name": ("-favorite", "sort_key", "-updated", "-id"),
            "count": ("-favorite", "-count", "-updated", "-id"),
        },
        bytes, "colors", _finish_palettes,
    ),
    "ramps": _Kind(
        RampCard, "palette__trashed", ramps_like,
        ("id", "ramp", "palette_id", "palette__name", "palette__updated", "name", "tags", "strip"),
        {
            "latest": BY_PALETTE, "newest": BY_PALETTE, "count": BY_PALETTE,
            "name": ("sort_key", *BY_PALETTE),
        },
        opaque, "strip", _finish_ramps,
    ),
    "pictures": _Kind(
        Picture, "trashed", pictures_like, ("id", "name", "format", "width", "height", "distinct", "created", "favorite"),
        {
            "latest": ("-created", "-id"),
            "newest": ("-favorite", "-created", "-id"),
            "name": ("-favorite", "sort_key", "-created", "-id"),
            "count": ("-favorite", "-distinct", "-created", "-id"),
        },
        finish=_finish_pictures,
    ),
}  # fmt: skip


def _rows(user: User, of: _Kind, trash: bool = False) -> Rows:
    return visible(user, of.model).filter(**{f"{of.in_trash}__isnull": not trash})


def page(
    user: User, kind: str, *, search: str = "", sorting: str = "newest", trash: bool = False, after: str = "", limit: int = 60
) -> Page:
    """Cards of a kind that are looked for, from the place on where another page ended.

    search : see `read_search`. sorting : one of its kind; favorites stand before the others but for
    `latest`, and where a color is looked for the nearest come first. Raises `BadColor`, and `BadInput` for a place that is none.
    """
    of, wanted = KINDS[kind], read_search(search)
    everything = _rows(user, of, trash)
    rows = of.like(everything, wanted)
    in_all = everything.count()
    if wanted.near is not None and of.colors is not None:
        return _nearest(user, of, rows, wanted, trash, after, limit, in_all)
    order = of.sortings[sorting]
    found = in_all if not search.strip() else rows.count()
    taken = list(_from(rows.order_by(*order), order, after).values(*_columns(of, order))[: limit + 1])
    following = _place([taken[limit - 1][name.lstrip("-")] for name in order]) if len(taken) > limit else None
    cards = [{name: row[name] for name in of.columns} | {"near": None} for row in taken[:limit]]
    return Page(of.finish(user, cards, trash), following, found, in_all)


def named(user: User, kind: str, ids: Sequence[UUID]) -> list[Card]:
    """The cards of those that are on the shelf, of a kind that has ids of its own."""
    of = KINDS[kind]
    rows = _rows(user, of).filter(pk__in=ids).values(*of.columns)
    return of.finish(user, [{**row, "near": None} for row in rows], False)


def ramps_of(user: User, palette: UUID) -> list[Card]:
    """The cards of the ramps that a palette keeps."""
    of = KINDS["ramps"]
    rows = _rows(user, of).filter(palette=palette).values(*of.columns)
    return of.finish(user, [{**row, "near": None} for row in rows], False)


def ids(user: User, kind: str, *, search: str = "", trash: bool = False) -> list[str]:
    """The ids of all palettes or pictures that are looked for."""
    of, wanted = KINDS[kind], read_search(search)
    rows = of.like(_rows(user, of, trash), wanted)
    if wanted.near is not None and of.colors is not None:
        return [key for _, key in _gaps(of, rows, wanted)]
    return list(rows.values_list(Cast("id", TextField()), flat=True))


def _columns(of: _Kind, order: Order) -> list[str]:
    return list(dict.fromkeys([*of.columns, *(name.lstrip("-") for name in order)]))


def _gaps(of: _Kind, rows: Rows, wanted: Wanted) -> list[tuple[float, str]]:
    """ΔEOK×100 and key of all rows that have a color so near, the nearest first. Raises `BadColor`."""
    if of.colors is None or wanted.near is None:
        return []
    colors_of, stored = of.colors, _binary(rows.order_by(*of.sortings["latest"]).values_list(Cast("id", TextField()), of.colored_by))
    return nearest_first(((key, colors_of(colors)) for key, colors in stored), wanted.near, wanted.within)


def _binary(rows: Rows) -> Iterator[tuple[Any, ...]]:
    """The same values, some rows after the others, by the binary form of the protocol, in which bytes are not written as digits."""
    connection.ensure_connection()
    with connection.wrap_database_errors, psycopg.Cursor(connection.connection) as cursor:
        yield from cursor.stream(*rows.query.sql_with_params(), binary=True, size=AT_ONCE)


def _nearest(user: User, of: _Kind, rows: Rows, wanted: Wanted, trash: bool, after: str, limit: int, in_all: int) -> Page:
    ordered = _gaps(of, rows, wanted)
    begin = _behind(ordered, after) if after else 0
    shown = ordered[begin : begin + limit]
    following = _place(shown[-1]) if begin + limit < len(ordered) else None
    found = _rows(user, of, trash).filter(pk__in=[key for _, key in shown]).values(*of.columns)
    by_key = {str(row["id"]): row for row in found}
    cards = [{**by_key[key], "near": gap} for gap, key in shown if key in by_key]
    return Page(of.finish(user, cards, trash), following, len(ordered), in_all)


def _behind(ordered: list[tuple[float, str]], after: str) -> int:
    """Where a page begins; if the last one of the page before has gone meanwhile, at the first that is as near as that was."""
    values = _read_place(after, 2)
    with _is_place():
        gap, key = float(values[0]), str(values[1])
    begin = bisect_left(ordered, gap, key=lambda entry: entry[0])
    alike = range(begin, bisect_right(ordered, gap, key=lambda entry: entry[0]))
    return next((place + 1 for place in alike if ordered[place][1] == key), begin)


def _place(values: Sequence[Any]) -> str:
    text = json.dumps([value if isinstance(value, bool | int | float) else str(value) for value in values], ensure_ascii=False)
    return base64.urlsafe_b64encode(text.encode()).decode()


def _read_place(text: str, count: int) -> list[Any]:
    with _is_place():
        values = json.loads(base64.urlsafe_b64decode(text.encode()))
        if not isinstance(values, list) or len(values) != count or any("\0" in str(value) for value in values):
            raise ValueError
        return values


def _moment(text: Any) -> datetime:
    with _is_place():
        moment = datetime.fromisoformat(text)
        if moment.tzinfo is None:
            raise ValueError
        return moment


@contextlib.contextmanager
def _is_place() -> Iterator[None]:
    """Whatever is wrong with a place becomes a sentence about it."""
    try:
        yield
    except (ValueError, TypeError, OverflowError, RecursionError, ValidationError) as error:
        raise BadInput("That is no place on the shelf. Begin at its first page.") from error


def _from(rows: Rows, order: Order, after: str) -> Rows:
    """The rows behind a place, by the columns they are sorted by."""
    if not after:
        return rows
    values = _read_place(after, len(order))
    behind, same = Q(), Q()
    for name, value in zip(order, values, strict=True):
        column = name.lstrip("-")
        if column.endswith(("updated", "created")):
            value = _moment(value)
        behind |= same & Q(**{f"{column}__{'lt' if name.startswith('-') else 'gt'}": value})
        same &= Q(**{column: value})
    with _is_place():
        return rows.filter(behind)
