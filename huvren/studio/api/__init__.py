"""The HTTP API: JSON under /api/, described by OpenAPI at /api/openapi.json."""

from ninja import NinjaAPI
from ninja.security import django_auth

from huvren import __version__
from huvren.studio.api import (
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
    problems,
    ramps,
    recipes,
    reductions,
    shelf,
)

api = NinjaAPI(title="Huvren", version=__version__, auth=django_auth, docs_url=None, urls_namespace="api")
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
