"""The HTTP API: JSON under /api/, described by OpenAPI at /api/openapi.json."""

from collections.abc import Callable
from typing import Any

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from ninja import NinjaAPI
from ninja.security import django_auth

from huvren import __version__
from huvren.studio.api import (
    account,
    checks,
    colors,
    deliveries,
    general,
    imports,
    jobs,
    library,
    menus,
    palettes,
    pictures,
    ramps,
    recipes,
    reductions,
    shelf,
)
from huvren.studio.api.parts import problems
from huvren.studio.api.parts.media import say_media
from huvren.studio.api.parts.reading import BoundedParser
from huvren.studio.bounds import SIGNED_OUT
from huvren.studio.middleware.problems import problem


def _for_artists(view: Callable[..., HttpResponse]) -> Callable[..., HttpResponse]:
    """The schema is for whoever is signed in, or for everybody where a setting says so."""

    def guarded(request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponse:
        if settings.PUBLIC_SCHEMA or request.user.is_authenticated:
            return view(request, *args, **kwargs)
        return problem(401, "signed_out", SIGNED_OUT)

    return guarded


class Api(NinjaAPI):
    """The schema says of every route how it refuses: a problem document, whatever the reason."""

    def get_openapi_schema(self, **options: Any) -> Any:
        schema = super().get_openapi_schema(**options)
        shapes = schema["components"]["schemas"]
        shapes["Problem"] = PROBLEM
        _require_tags(shapes, schema)
        body = {"schema": {"$ref": "#/components/schemas/Problem"}}
        refused = {"description": "Refused, in words", "content": {"application/problem+json": body}}
        for path in schema["paths"].values():
            for operation in path.values():
                say_media(operation)
                operation["responses"]["4XX"] = refused
                operation["responses"].setdefault(503, refused)
        return schema


def _require_tags(shapes: dict[str, Any], part: Any) -> None:
    """What tells the members of a union apart has a default in Python, and has to be there in JSON."""
    if isinstance(part, dict):
        if isinstance(tag := part.get("discriminator"), dict):
            for shape in (shapes[name.rpartition("/")[2]] for name in tag.get("mapping", {}).values()):
                shape["required"] = sorted({*shape.get("required", []), tag["propertyName"]})
        for one in part.values():
            _require_tags(shapes, one)
    elif isinstance(part, list):
        for one in part:
            _require_tags(shapes, one)


PROBLEM = {
    "title": "Problem", "type": "object", "required": ["type", "status", "code", "message"],
    "properties": {
        "type": {"type": "string"}, "status": {"type": "integer"}, "code": {"type": "string"}, "message": {"type": "string"},
        "current": {"description": "the newer palette, where a step was meant for an older one"},
    },
}  # fmt: skip
api = Api(
    title="Huvren", version=__version__, auth=django_auth, docs_url=None, urls_namespace="api", parser=BoundedParser(),
    docs_decorator=_for_artists,
)  # fmt: skip
problems.register(api)
api.add_router("", general.router)
api.add_router("", menus.router)
api.add_router("", shelf.router)
api.add_router("", checks.router)
api.add_router("/palettes", palettes.router)
api.add_router("/palettes", reductions.router)
api.add_router("/palettes", deliveries.router)
api.add_router("/palettes", ramps.router)
api.add_router("/imports", imports.router)
api.add_router("/recipes", recipes.router)
api.add_router("/pictures", pictures.router)
api.add_router("/colors", colors.router)
api.add_router("/jobs", jobs.router)
api.add_router("/library", library.router)
api.add_router("/account", account.router)
