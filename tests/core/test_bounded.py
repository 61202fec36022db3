"""What comes from outside is bounded in every field, whether or not the field says so."""

from typing import Annotated, Any, Literal

import pytest
from pydantic import ConfigDict, Field, TypeAdapter, ValidationError
from typing_extensions import TypedDict

from huvren.core.bounded import MOST_ENTRIES, MOST_ITEMS, MOST_KEYS, MOST_LETTERS, MOST_NUMBER, MOST_WHOLE, Bounded, bounded_reader


class Inner(Bounded):
    words: list[str] = []
    pair: tuple[str, int] = ("", 0)
    many: tuple[int, ...] = ()


class Model(Bounded):
    text: str = ""
    short: str = Field(default="", max_length=3)
    whole: int = 0
    positive: int = Field(default=1, gt=0)
    share: float = Field(default=0, ge=0, lt=1)
    number: float = 0
    kind: Literal["a"] = "a"
    anything: dict[str, Any] = {}
    perhaps: Annotated[dict[str, list[float]] | None, Field(max_length=2)] = None
    inner: Inner = Inner()
    several: list[Inner | int] = []


LONG = "a" * (MOST_LETTERS + 1)
MANY = {str(n): 0 for n in range(MOST_ENTRIES + 1)}
BEYOND = [
    {"text": LONG}, {"short": "aaaa"}, {"whole": MOST_WHOLE + 1}, {"whole": -MOST_WHOLE - 1}, {"positive": 0},
    {"positive": MOST_WHOLE + 1}, {"share": 1.0}, {"share": -0.1}, {"number": MOST_NUMBER * 2}, {"number": float("inf")},
    {"number": float("nan")}, {"anything": MANY}, {"perhaps": {"a": [], "b": [], "c": []}}, {"perhaps": {LONG: []}},
    {"perhaps": {"a": [MOST_NUMBER * 2]}}, {"inner": {"words": [""] * (MOST_ITEMS + 1)}}, {"inner": {"words": [LONG]}},
    {"inner": {"pair": [LONG, 0]}}, {"inner": {"many": [0] * (MOST_ITEMS + 1)}},
    {"several": [{"many": [MOST_WHOLE + 1]}]}, {"several": [0] * (MOST_ITEMS + 1)},
]  # fmt: skip
WITHIN = [
    {"text": "a" * MOST_LETTERS, "short": "aaa", "whole": MOST_WHOLE, "positive": MOST_WHOLE, "share": 0.999, "number": -MOST_NUMBER},
    {"anything": dict(list(MANY.items())[1:]), "perhaps": {"a": [MOST_NUMBER], "b": []}, "inner": {"pair": ["a" * MOST_LETTERS, 1]}},
    {"several": [0] * MOST_ITEMS, "inner": {"words": ["a"] * MOST_ITEMS}},
]


@pytest.mark.parametrize("wish", BEYOND, ids=range(len(BEYOND)))
def test_what_is_beyond_the_bounds_is_refused(wish: dict[str, Any]) -> None:
    with pytest.raises(ValidationError):
        Model.model_validate(wish)


@pytest.mark.parametrize("wish", WITHIN, ids=range(len(WITHIN)))
def test_what_is_just_within_them_is_taken(wish: dict[str, Any]) -> None:
    assert Model.model_validate(wish).model_dump(mode="json", include=set(wish), exclude_unset=True) == wish


def test_the_schema_says_the_bounds_and_those_of_a_field_itself_stay() -> None:
    said = TypeAdapter(list[Model]).json_schema()["$defs"]
    fields = said["Model"]["properties"]
    assert fields["text"]["maxLength"] == MOST_LETTERS
    assert fields["short"]["maxLength"] == 3
    assert fields["positive"] == {"default": 1, "exclusiveMinimum": 0, "maximum": MOST_WHOLE, "title": "Positive", "type": "integer"}
    assert (fields["share"]["minimum"], fields["share"]["exclusiveMaximum"]) == (0, 1)
    assert "maximum" not in fields["share"]
    words = said["Inner"]["properties"]["words"]
    assert (words["maxItems"], words["items"]["maxLength"]) == (MOST_ITEMS, MOST_LETTERS)
    assert said["Inner"]["properties"]["pair"]["maxItems"] == 2


def test_an_object_of_very_many_parts_is_refused_in_one_sentence() -> None:
    with pytest.raises(ValidationError) as refused:
        Model.model_validate({f"unknown {n}": 0 for n in range(MOST_KEYS + 1)})
    assert refused.value.error_count() == 1
    assert "201 parts" in str(refused.value)
    Model.model_validate({f"unknown {n}": 0 for n in range(MOST_KEYS)})


def test_a_list_of_wrong_parts_is_refused_for_the_first() -> None:
    with pytest.raises(ValidationError) as refused:
        Model.model_validate({"inner": {"words": [1, 2, 3]}, "several": ["a", "b"]})
    assert refused.value.error_count() == 3, "one of the words, and the first of several for each kind that it could be"


class Deferred(Bounded):
    model_config = ConfigDict(defer_build=True)
    word: str


def test_a_model_that_is_made_when_it_is_needed_is_read_within_its_own_bounds() -> None:
    read = bounded_reader(TypeAdapter(Deferred))
    assert read({"word": "a"}).word == "a"
    with pytest.raises(ValidationError, match="at most 20000"):
        read({"word": "a" * (MOST_LETTERS + 1)})


class Part(TypedDict, total=False):
    __pydantic_config__ = ConfigDict(extra="forbid")  # type: ignore[misc]
    word: str
    inner: "Part"


def test_documents_are_read_within_bounds_wherever_something_is_in_them() -> None:
    read = bounded_reader(TypeAdapter(list[Part]))
    assert read([{"word": "a" * MOST_LETTERS, "inner": {"word": "b"}}] * 3)[2]["inner"] == {"word": "b"}
    many: dict[str, Any] = {f"unknown {n}": 0 for n in range(MOST_KEYS + 1)}
    for document in ([many], [{"inner": many}], [{"inner": {"inner": many}}]):
        with pytest.raises(ValidationError, match="201 parts"):
            read(document)
    with pytest.raises(ValidationError, match="at most 20000"):
        read([{"inner": {"word": "a" * (MOST_LETTERS + 1)}}])
    with pytest.raises(ValidationError) as refused:
        read([{"word": 1}, {"word": 2}])
    assert refused.value.error_count() == 1
