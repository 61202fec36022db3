"""How requests are read, in one place: JSON with bounds, and text that can be kept and shown. Nothing behind need think of it."""

from typing import Any

from django.http import HttpRequest
from django.utils.datastructures import MultiValueDict
from ninja.parser import Parser

from huvren.core.errors import BadInput
from huvren.core.json_text import NOT_KEPT, is_storable, read_json


class BoundedParser(Parser):
    """Bodies, forms and queries of the API. Raises `BadJson` or `BadInput`."""

    def parse_body(self, request: HttpRequest) -> Any:
        return read_json(request.body)

    def parse_querydict(self, data: MultiValueDict[str, Any], list_fields: list[str], request: HttpRequest) -> Any:
        for key, values in data.lists():
            if not is_storable(key) or not all(is_storable(value) for value in values if isinstance(value, str)):
                raise BadInput(NOT_KEPT)
        return super().parse_querydict(data, list_fields, request)
