"""Every refusal under /api/ is a problem document, also those that are made before or beside the API."""

import json

from django.http import HttpRequest, HttpResponse

from huvren.studio.middleware import Handler

SAID = {
    400: ("bad_request", "That request cannot be understood."),
    403: ("forbidden", "The page that sent this is not the one that was opened. Reload it and try again; nothing was lost."),
    404: ("unknown_route", "There is nothing at this address of the API."),
    405: ("wrong_method", "That cannot be done at this address; another method is meant."),
    413: ("too_large", "That is more than can be taken."),
}


def problem(status: int, code: str, message: str, *, retry_s: int | None = None) -> HttpResponse:
    """A problem document (RFC 9457)."""
    body = json.dumps({"type": "about:blank", "status": status, "code": code, "message": message}, ensure_ascii=False)
    headers = {} if retry_s is None else {"Retry-After": str(retry_s)}
    return HttpResponse(body, status=status, content_type="application/problem+json", headers=headers)


class ApiProblems:
    def __init__(self, handler: Handler) -> None:
        self.handler = handler

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.handler(request)
        is_said = "json" in response.headers.get("Content-Type", "")
        if response.status_code < 400 or is_said or not request.path.startswith("/api/"):
            return response
        code, message = SAID.get(response.status_code, ("refused", "That was refused."))
        replaced = problem(response.status_code, code, message)
        for name in ("Allow", "Retry-After"):
            if name in response.headers:
                replaced.headers[name] = response.headers[name]
        return replaced
