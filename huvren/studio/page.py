"""The one page: the built interface, for whoever is signed in."""

import functools
from pathlib import Path

from django.conf import settings
from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.views.decorators.csrf import ensure_csrf_cookie

INDEX = Path(settings.ROOT) / "web" / "dist" / "index.html"


@functools.lru_cache(maxsize=1)
def _index(changed: int) -> str:
    del changed
    return INDEX.read_text(encoding="utf-8")


@login_required
@ensure_csrf_cookie
def page(request: HttpRequest) -> HttpResponse:
    """The interface, with this answer's nonce where scripts look for it."""
    if not INDEX.exists():
        return HttpResponse("The interface is not built yet. Run ./run build.", status=503, content_type="text/plain")
    html = _index(INDEX.stat().st_mtime_ns).replace("__NONCE__", request.csp_nonce)  # type: ignore[attr-defined]
    return HttpResponse(html, headers={"Cache-Control": "no-cache"})
