"""How requests are read, in one place: JSON with bounds, and text that can be kept and shown. Nothing behind need think of it."""

from typing import Any

from django.http import HttpRequest
from django.utils.datastructures import MultiValueDict
from ninja.parser import Parser

from huvren.core.errors import BadInput
from huvren.core.json_text import NOT_KEPT, is_storable, read_json

MOST_BRACKETS, MOST_COMMAS = 1_000_000, 3_000_000
"""Of a body: a palette of the most swatches, with tags and a variant, has about half as many."""
MOST_VALUES, LONGEST_VALUE = 100, 20_000
"""Of a query or a form, each by its name; an address as a whole is shorter yet."""


class BoundedParser(Parser):
    """Bodies, forms and queries of the API. Raises `BadJson` or `BadInput`."""

    def parse_body(self, request: HttpRequest) -> Any:
        return read_json(request.body, MOST_BRACKETS, MOST_COMMAS)

    def parse_querydict(self, data: MultiValueDict[str, Any], list_fields: list[str], request: HttpRequest) -> Any:
        for key, values in data.lists():
            if len(values) > MOST_VALUES or any(len(value) > LONGEST_VALUE for value in values if isinstance(value, str)):
                raise BadInput(f"“{key[:40]}” is given {MOST_VALUES} times at most, with {LONGEST_VALUE:,} letters at most.")
            if not is_storable(key) or not all(is_storable(value) for value in values if isinstance(value, str)):
                raise BadInput(NOT_KEPT)
        return super().parse_querydict(data, list_fields, request)
