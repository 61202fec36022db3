"""Write openapi.json from the API."""

import json
import sys
from typing import Any

import django

from tools.steps import ROOT, STATE

PATH = ROOT / "openapi.json"
FOR_TYPES = STATE / "openapi-for-types.json"


def render() -> str:
    """The schema as it is checked in."""
    from huvren.studio.api import api

    return json.dumps(api.get_openapi_schema(path_prefix="/api/"), indent=2, ensure_ascii=False) + "\n"


def open_ended(part: Any) -> Any:
    """The schema with ids of registries as any text: the browser gets them from the menus, so that its types know none of them."""
    if isinstance(part, dict):
        return {key: open_ended(one) for key, one in part.items() if key != "enum" or "x-registry" not in part}
    return [open_ended(one) for one in part] if isinstance(part, list) else part


if __name__ == "__main__":
    django.setup()
    text = render()
    PATH.write_text(text, encoding="utf-8")
    FOR_TYPES.write_text(json.dumps(open_ended(json.loads(text))), encoding="utf-8")
    sys.exit(0)
