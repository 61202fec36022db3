"""Write openapi.json from the API."""

import json
import sys

import django

from tools.steps import ROOT

PATH = ROOT / "openapi.json"


def render() -> str:
    """The schema as it is checked in."""
    from huvren.studio.api import api

    return json.dumps(api.get_openapi_schema(path_prefix="/api/"), indent=2, ensure_ascii=False) + "\n"


if __name__ == "__main__":
    django.setup()
    PATH.write_text(render(), encoding="utf-8")
    sys.exit(0)
