"""Who asks, as the proxy that stands before every server says it."""

from django.conf import settings
from django.http import HttpRequest, HttpResponse

from huvren.studio.middleware import Handler

ADDRESS, SCHEME = "HTTP_X_HUVREN_CLIENT", "HTTP_X_HUVREN_SCHEME"
OURS = (ADDRESS, SCHEME, "HTTP_X_HUVREN_PROTOCOL", "HTTP_X_HUVREN_BYTES", "HTTP_X_HUVREN_PATH")


class ClientAddress:
    """The visitor's own address and scheme, where our proxy stands between; it always sets both. Elsewhere such words are the
    visitor's own and are thrown away."""

    def __init__(self, handler: Handler) -> None:
        self.handler = handler

    def __call__(self, request: HttpRequest) -> HttpResponse:
        if settings.BEHIND_OWN_PROXY:
            request.META["REMOTE_ADDR"] = request.META.get(ADDRESS, "")
            if request.META.get(SCHEME) == "https":
                request.META["wsgi.url_scheme"] = "https"
        else:
            for name in OURS:
                request.META.pop(name, None)
        return self.handler(request)
