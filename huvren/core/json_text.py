"""JSON from outside: bounded before it is read, and holding nothing that cannot be kept.

A text of a few megabytes can stand for gigabytes of objects. Every object and list costs a bracket and every part of one a comma,
so both are counted in the bytes, which takes no memory, before anything is built. Numbers are finite, nesting ends somewhere, and
no text holds NUL, which PostgreSQL cannot keep, or half of a surrogate pair, which nothing can write.
"""

from typing import Any

from pydantic_core import from_json

from huvren.core.errors import BadInput

MOST_BRACKETS, MOST_COMMAS = 1_500_000, 6_000_000
"""Of a table of contents, the largest of all."""
NOT_KEPT = "A text in it holds a character that cannot be kept: NUL, or half of a pair. Take it out and try again."


class BadJson(BadInput):
    """Bytes that are no JSON, or stand for more than is built."""

    code = "bad_json"


def is_storable(text: str) -> bool:
    """Whether a text can be kept and shown: no NUL, no half of a surrogate pair."""
    return "\0" not in text and (text.isascii() or not any("\ud800" <= letter <= "\udfff" for letter in text))


def storable(text: str) -> str:
    """The text with what cannot be shown replaced, for sentences about it."""
    return text if is_storable(text) else text.encode("utf-8", "replace").decode().replace("\0", "\ufffd")


def check_storable(value: Any) -> None:
    """Look through a document of JSON. Raises `BadInput` where a text or a key cannot be kept, or a number is beyond 64 bits."""
    waiting = [value]
    while waiting:
        one = waiting.pop()
        if isinstance(one, str):
            if not is_storable(one):
                raise BadInput(NOT_KEPT)
        elif isinstance(one, dict):
            waiting += one
            waiting += one.values()
        elif isinstance(one, list):
            waiting += one
        elif isinstance(one, int) and not -(2**63) <= one < 2**63:
            raise BadInput("A number in it is larger than any that is meant here.")


_DIGITS = bytes.maketrans(b"123456789", b"000000000")


def read_json(data: bytes, most_brackets: int = MOST_BRACKETS, most_commas: int = MOST_COMMAS) -> Any:
    """What the bytes say. Raises `BadJson`, or `BadInput` for what cannot be kept."""
    if data.count(b"{") + data.count(b"[") > most_brackets or data.count(b",") > most_commas:
        raise BadJson("That text holds more objects than are read at once.")
    try:
        value = from_json(data, allow_inf_nan=False, cache_strings="keys")
    except (ValueError, RecursionError) as error:
        raise BadJson(f"That is no JSON that can be read: {storable(str(error))[:200]}.") from error
    # What can be wrong with a text has to be written as an escape, and a number beyond all bounds is long.
    if b"\\u" in data or b"0" * 19 in data.translate(_DIGITS):
        check_storable(value)
    return value
