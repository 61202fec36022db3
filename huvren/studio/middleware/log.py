"""One line of JSON for every request, and figures of them where they are asked for."""

import logging
import time
import uuid

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.utils.functional import SimpleLazyObject

from huvren.studio import metrics
from huvren.studio.middleware import Handler

LOG = logging.getLogger("huvren.requests")
SLOW_MS = 1000
HEADER = "HTTP_X_REQUEST_ID"


def _user_of(request: HttpRequest) -> int | None:
    """The key of who asks, where the request looked that up: what needs no artist needs no database here either."""
    user = getattr(request, "_cached_user", None) or request.__dict__.get("user")
    return None if user is None or isinstance(user, SimpleLazyObject) else user.pk


class RequestLog:
    """Outermost. The id comes from our proxy where that stands between; it is in the answer, so that somebody can name it."""

    def __init__(self, handler: Handler) -> None:
        self.handler = handler

    def __call__(self, request: HttpRequest) -> HttpResponse:
        begun = time.perf_counter()
        given = request.META.get(HEADER, "") if settings.BEHIND_OWN_PROXY else ""
        request_id = given if given.isalnum() and len(given) <= 40 else uuid.uuid4().hex
        response = self.handler(request)
        taken_ms = (time.perf_counter() - begun) * 1000
        response.headers["X-Request-Id"] = request_id
        route = f"/{request.resolver_match.route}" if request.resolver_match else "-"
        LOG.log(
            logging.WARNING if taken_ms > SLOW_MS or response.status_code >= 500 else logging.INFO,
            "slow request" if taken_ms > SLOW_MS else "request",
            extra={
                "request_id": request_id, "user": _user_of(request), "method": request.method, "route": route,
                "path": request.path[:200], "status": response.status_code, "ms": round(taken_ms, 1),
            },
        )  # fmt: skip
        metrics.count(request.method or "", route, response.status_code, taken_ms / 1000)
        return response
