"""The application with an address that gets stuck: for so many seconds it does not look up, as no address of ours should."""

import threading
from typing import Any

from django.core.handlers.wsgi import WSGIRequest
from django.http import HttpRequest, HttpResponse

from huvren.site.wsgi import application as whole
from huvren.studio.middleware.deadline import Deadline


def _stuck(request: HttpRequest) -> HttpResponse:
    threading.Event().wait(float(request.GET["seconds"]))
    return HttpResponse("in the end")


_late = Deadline(_stuck)


def application(environ: dict[str, Any], start: Any) -> Any:
    if environ["PATH_INFO"] != "/stuck":
        return whole(environ, start)
    answer = _late(WSGIRequest(environ))
    start(f"{answer.status_code} {answer.reason_phrase}", list(answer.items()))
    return [answer.content]
