"""Models of what comes from outside: whatever a field does not bound by itself is bounded here, and the schema says so.

What is wrong with a list is said of its first part that is wrong: a hundred thousand sentences would take more than the list.
"""

from collections.abc import Callable
from copy import deepcopy
from typing import Any

from pydantic import BaseModel, GetCoreSchemaHandler, TypeAdapter, model_validator
from pydantic_core import CoreSchema, SchemaValidator

MOST_LETTERS = 20_000
"""Of a text: no more than a query may hold. Names have far fewer, and a sentence of their own that says so."""
MOST_ITEMS = 100_000
"""Of a list: a palette has no more swatches."""
MOST_ENTRIES = 1_000
"""Of an object whose keys are not fixed."""
MOST_KEYS = 200
"""Of an object whose keys are fixed; none has half as many."""
MOST_WHOLE, MOST_NUMBER = 2**53 - 1, 1e15
"""Of a number, either way: what every reader of JSON can hold exactly, and more than any measure here."""
_SEVERAL = {"max_length": MOST_ITEMS, "fail_fast": True}
_BOUNDS: dict[str, dict[str, Any]] = {
    "str": {"max_length": MOST_LETTERS}, "list": _SEVERAL, "tuple": _SEVERAL, "set": _SEVERAL, "frozenset": _SEVERAL,
    "dict": {"max_length": MOST_ENTRIES, "fail_fast": True},
    "int": {"ge": -MOST_WHOLE, "le": MOST_WHOLE}, "float": {"ge": -MOST_NUMBER, "le": MOST_NUMBER, "allow_inf_nan": False},
}  # fmt: skip
_OTHER_WORDS = {"le": "lt", "ge": "gt"}
_PARTS = (
    "schema", "items_schema", "keys_schema", "values_schema", "choices", "fields", "definitions", "lax_schema", "strict_schema",
    "json_schema", "python_schema", "steps",
)  # fmt: skip


def _bound(schema: Any, bounds: dict[str, dict[str, Any]]) -> None:
    """Give a core schema, and all it is made of, the bounds that it lacks."""
    waiting = [schema]
    while waiting:
        one = waiting.pop()
        if isinstance(one, list | tuple):
            waiting += one
        elif isinstance(one, dict):
            kind = one.get("type")
            if not isinstance(kind, str):
                waiting += one.values()
                continue
            is_fixed = kind == "tuple" and "variadic_item_index" not in one
            for word, most in bounds.get(kind, {}).items():
                if not is_fixed and _OTHER_WORDS.get(word) not in one:
                    one.setdefault(word, most)
            waiting += [one[part] for part in _PARTS if part in one]
            if kind == "typed-dict":
                _check_keys(one)


def _few_keys(value: Any) -> Any:
    """The same; what is unknown in it would else be listed key by key. Raises `ValueError`."""
    if isinstance(value, dict) and len(value) > MOST_KEYS:
        raise ValueError(f"it has {len(value):,} parts, most of them unknown here")
    return value


def _check_keys(schema: dict[str, Any]) -> None:
    """Put that before a schema of a typed dictionary, in its place."""
    inner = dict(schema)
    schema.clear()
    schema.update(type="function-before", function={"type": "no-info", "function": _few_keys}, schema=inner)
    if "ref" in inner:
        schema["ref"] = inner.pop("ref")


class Bounded(BaseModel):
    """Base of every model that is read from a request or a file."""

    @model_validator(mode="before")
    @classmethod
    def _has_few_keys(cls, value: Any) -> Any:
        return _few_keys(value)

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: GetCoreSchemaHandler, /) -> CoreSchema:
        schema = handler(source)
        _bound(schema, _BOUNDS)
        return schema


def bounded_reader(adapter: TypeAdapter[Any]) -> Callable[[Any], Any]:
    """Reads what an adapter reads, within bounds: for documents from outside. Their objects may have a key for every swatch."""
    if not isinstance(adapter.core_schema, dict):
        # Of a model that is made when it is first needed: it has its bounds.
        return adapter.validate_python
    schema = deepcopy(adapter.core_schema)
    _bound(schema, _BOUNDS | {"dict": _SEVERAL})
    return SchemaValidator(schema).validate_python
