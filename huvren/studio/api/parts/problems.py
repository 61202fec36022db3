"""The one place where any error becomes a response: a problem document (RFC 9457) with a stable code and a sentence."""

import sys
from typing import Any

from django.db import DataError, InterfaceError, OperationalError
from django.http import HttpRequest, HttpResponse, JsonResponse
from ninja import NinjaAPI
from ninja.errors import AuthenticationError, HttpError, Throttled, ValidationError
from psycopg.errors import LockNotAvailable, QueryCanceled

from huvren.core.errors import BadInput, HuvrenError, TooLarge, Unknown
from huvren.core.json_text import BadJson, storable
from huvren.studio.api.parts.answers import answer
from huvren.studio.api.parts.palette_out import palette_out
from huvren.studio.bounds import SIGNED_OUT
from huvren.studio.errors import FULL_DISK, Busy, DoneAlready, StaleRevision, TooOften, is_disk_full
from huvren.studio.middleware.problems import SAID

STATUS: tuple[tuple[type[HuvrenError], int], ...] = (
    (StaleRevision, 409),
    (Busy, 503),
    (TooOften, 429),
    (BadJson, 400),
    (TooLarge, 413),
    (Unknown, 404),
    (BadInput, 422),
)


def _sentence(error: dict[str, Any]) -> str:
    place = [str(part) for part in error["loc"] if part not in ("body", "payload", "query", "path")]
    message = str(error["msg"]).removeprefix("Value error, ").rstrip(".")
    return f"{' › '.join(place)}: {message}." if place else f"{message}."


RETRY_SECONDS = 2


def unforeseen(request: HttpRequest) -> HttpResponse:
    """Django's handler for what nothing else caught, wherever it came from.

    A database that is away for a moment is a 503 that says when to ask again, and the interface keeps the step until
    then; anything else is a fault of ours. Neither has changed anything: a step is one transaction.
    """
    error = sys.exc_info()[1]
    if is_disk_full(error):
        status, code, message = 507, "disk_full", FULL_DISK
    elif isinstance(error, OperationalError | InterfaceError):
        status, code = 503, "database_away"
        message = "The database cannot be reached just now. Nothing was changed; try again in a moment."
        if isinstance(error.__cause__, LockNotAvailable | QueryCanceled):
            code, message = "busy", "Something else is changing that just now, or it takes too long. Nothing was changed; try again."
    else:
        status, code = 500, "unforeseen"
        message = "The server met an error of its own. Nothing was changed; try again, or go on with something else."
    headers = {"Retry-After": str(RETRY_SECONDS)} if status == 503 else {}
    if not request.path.startswith("/api/"):
        return HttpResponse(message, status=status, content_type="text/plain; charset=utf-8", headers=headers)
    body = {"type": "about:blank", "status": status, "code": code, "message": message}
    return JsonResponse(body, status=status, content_type="application/problem+json", headers=headers)


def register(api: NinjaAPI) -> None:
    """Answer every error of `api` this way."""

    def problem(request: HttpRequest, status: int, code: str, message: str, **more: Any) -> HttpResponse:
        response = api.create_response(
            request, {"type": "about:blank", "status": status, "code": code, "message": message, **more}, status=status
        )
        response["Content-Type"] = "application/problem+json"
        return response

    @api.exception_handler(HuvrenError)
    def known(request: HttpRequest, error: HuvrenError) -> HttpResponse:
        status = next((status for kind, status in STATUS if isinstance(error, kind)), 400)
        more = {"current": palette_out(error.current).model_dump(mode="json")} if isinstance(error, StaleRevision) else {}
        response = problem(request, status, error.code, storable(str(error)), **more)
        if isinstance(error, Busy | TooOften):
            response["Retry-After"] = str(max(RETRY_SECONDS, round(getattr(error, "wait_s", 0))))
        return response

    @api.exception_handler(DoneAlready)
    def done(request: HttpRequest, error: DoneAlready) -> HttpResponse:
        """No problem at all, but the answer that was lost."""
        del request
        return answer(error.current)

    @api.exception_handler(DataError)
    def not_kept(request: HttpRequest, error: DataError) -> HttpResponse:
        """A number or a text that the database cannot hold, and no check foresaw."""
        del error
        return problem(
            request, 422, "bad_input", "A number or a text in that request is outside what can be kept. Nothing was changed."
        )

    @api.exception_handler(ValidationError)
    def invalid(request: HttpRequest, error: ValidationError) -> HttpResponse:
        return problem(request, 422, "bad_request", storable(" ".join(_sentence(item) for item in error.errors[:3])))

    @api.exception_handler(AuthenticationError)
    def anonymous(request: HttpRequest, error: AuthenticationError) -> HttpResponse:
        del error
        return problem(request, 401, "signed_out", SIGNED_OUT)

    @api.exception_handler(Throttled)
    def throttled(request: HttpRequest, error: Throttled) -> HttpResponse:
        return known(request, TooOften(error.wait or 1.0))

    @api.exception_handler(HttpError)
    def other(request: HttpRequest, error: HttpError) -> HttpResponse:
        # Ninja words what its parser raises in its own way; ours are sentences already.
        if isinstance(error.__cause__, HuvrenError):
            return known(request, error.__cause__)
        code, said = SAID.get(error.status_code, ("http_error", str(error)))
        return problem(request, error.status_code, code, said)
