"""A question that was put together once finds what the queryset finds that it was made of."""

from datetime import UTC, datetime, timedelta
from typing import Any
from uuid import UUID, uuid4

import pytest
from django.db import connection
from django.db.models import Count, Q
from django.test.utils import CaptureQueriesContext
from django.utils import timezone

from huvren.core.errors import Unknown
from huvren.studio.access import as_user, find, visible
from huvren.studio.models import Artist, Palette, Picture, Revision, SignedIn
from huvren.studio.prepared import Prepared
from huvren.studio.services.shelf import palettes
from tests.server.conftest import Api


def told(row: Any) -> dict[str, Any]:
    """Everything of a row but what Django keeps beside it."""
    return {name: value for name, value in vars(row).items() if not name.startswith("_")}


def test_rows_are_those_of_the_queryset_in_every_field(api: Api, other: Api) -> None:
    api.bench()
    other.bench()
    for model, key in ((Palette, UUID), (Picture, UUID), (Revision, int), (Artist, int)):
        one = Prepared(lambda key, model=model: model._default_manager.filter(pk=key), key)
        rows = list(model._default_manager.all())
        assert len(rows) > 1
        for row in rows:
            assert [told(found) for found in one(row.pk)] == [told(row)]
        assert one(uuid4() if key is UUID else 2**31 - 1) == []


def test_what_is_joined_counted_and_left_out_comes_along(api: Api) -> None:
    def rows(user: int, name: str, since: datetime) -> Any:
        found = Revision.objects.filter(palette__in=visible(as_user(user), Palette), palette__name=name, created__gt=since)
        return found.select_related("palette").defer("packed", "palette__colors").annotate(all=Count("palette__revisions"))

    one = Prepared(rows, int, str, datetime)
    palette = api.bench()
    api.operate(palette, kind="rename_palette", name="Ink; drop % it")
    long_ago = datetime(2001, 2, 3, tzinfo=UTC)
    with CaptureQueriesContext(connection) as asked:
        found = one(api.user.pk, "Ink; drop % it", long_ago)
        assert [(row.number, row.palette.name, row.all) for row in sorted(found, key=lambda row: row.number)] == [
            (1, "Ink; drop % it", 2), (2, "Ink; drop % it", 2)
        ]  # fmt: skip
    assert len(asked) == 1
    assert {"packed"} == found[0].get_deferred_fields()
    assert one(api.user.pk, "Ink", long_ago) == []
    assert one(api.user.pk, "Ink; drop % it", timezone.now() + timedelta(hours=1)) == []
    assert one(api.user.pk + 1, "Ink; drop % it", long_ago) == []


def test_a_value_stands_wherever_it_was_put(api: Api, other: Api) -> None:
    either = Prepared(lambda key: Artist.objects.filter(Q(pk=key) | Q(palettes__owner=key)).distinct(), int)
    other.post("/palettes", {"text": "#102030"}, 201)
    assert [row.pk for row in either(other.user.pk)] == [other.user.pk]
    assert [row.pk for row in either(api.user.pk)] == [api.user.pk]


def test_a_value_that_stands_nowhere_is_an_error_and_not_forgotten() -> None:
    with pytest.raises(ValueError, match="does not stand in it"):
        Prepared(lambda key, name: Palette.objects.filter(name=name), UUID, str)(uuid4(), "x")


def test_what_nobody_may_see_is_not_asked_for(api: Api) -> None:
    api.bench()
    nothing = Prepared(lambda key: Revision.objects.filter(pk__in=[], palette=key), UUID)
    with CaptureQueriesContext(connection) as asked:
        assert nothing(uuid4()) == nothing(Palette.objects.get().pk) == []
    assert len(asked) == 1, "that of this test"


def test_the_state_of_a_palette_is_one_question_and_that_which_its_rows_tell(api: Api, other: Api) -> None:
    palette = api.bench()
    for name in ("One", "Two", "Three"):
        palette = api.operate(palette, kind="rename_palette", name=name)
    for number in (1, 2, 3, 4):
        api.post(f"/palettes/{palette['id']}/go-to", {"base": api.get(f"/palettes/{palette['id']}")["revision"], "number": number})
        with CaptureQueriesContext(connection) as asked:
            state = palettes.get_state(api.user, UUID(palette["id"]))
        assert len([query for query in asked if "packed" not in query["sql"]]) == 1
        row = Palette.objects.get(pk=palette["id"])
        assert (state.row.head, state.row.name, state.row.painted) == (number, row.name, row.painted)
        assert (state.revision.number, state.can_undo, state.can_redo) == (number, number > 1, number < 4)
        assert state.revision.last == 4  # type: ignore[attr-defined]
    for stranger in (other.user, as_user(2**31 - 1)):
        with pytest.raises(Unknown):
            palettes.get_state(stranger, UUID(palette["id"]))
        with pytest.raises(Unknown):
            find(stranger, Palette, UUID(palette["id"]))


def test_a_session_is_found_as_long_as_it_lasts(api: Api) -> None:
    api.get("/session")
    SignedIn.objects.update(expire_date=timezone.now() - timedelta(seconds=1))
    api.get("/session", 401)
    assert Artist.objects.get(pk=api.user.pk) == api.user
    with pytest.raises(Artist.DoesNotExist):
        Artist.objects.get(pk=2**31 - 1)
