"""The demo's signing in."""

import ipaddress

from django.conf import settings
from django.contrib.auth import get_user_model
from django.http import HttpRequest, HttpResponse

from huvren.studio.middleware import Handler

DEMO_USER = "demo"
PASSED_ON = (
    "HTTP_X_FORWARDED_FOR", "HTTP_X_FORWARDED_HOST", "HTTP_X_FORWARDED_PROTO", "HTTP_FORWARDED", "HTTP_VIA", "HTTP_X_REAL_IP",
    "HTTP_X_FORWARDED_SERVER", "HTTP_CF_CONNECTING_IP", "HTTP_TRUE_CLIENT_IP",
)  # fmt: skip
"""What a proxy says of the visitor it speaks for. Our own, which stands before every server, has a word of its own."""


class DemoSignIn:
    """With the demo setting on, a browser on this very machine is the demo artist. No session is kept for that.

    Whoever comes through another proxy is nobody, even if it runs on this machine: a proxy says whom it speaks for, or it asks
    in HTTP/1.0, which no browser does.
    """

    def __init__(self, handler: Handler) -> None:
        self.handler = handler

    def __call__(self, request: HttpRequest) -> HttpResponse:
        is_probe = request.path in ("/api/health", "/api/ready")
        if settings.DEMO and not is_probe and self._from_here(request) and not request.user.is_authenticated:
            user = get_user_model().objects.filter(username=DEMO_USER).first()
            if user is not None:
                request.user = user
        return self.handler(request)

    @staticmethod
    def _from_here(request: HttpRequest) -> bool:
        if any(name in request.META for name in PASSED_ON) or _protocol(request) == "HTTP/1.0":
            return False
        host = request.get_host().rsplit(":", 1)[0].strip("[]")
        try:
            return ipaddress.ip_address(request.META.get("REMOTE_ADDR", "")).is_loopback and (
                host == "localhost" or ipaddress.ip_address(host).is_loopback
            )
        except ValueError:
            return False


def _protocol(request: HttpRequest) -> str:
    """How the visitor spoke, to our own proxy where that stands between."""
    return str(request.META.get("HTTP_X_HUVREN_PROTOCOL") or request.META.get("SERVER_PROTOCOL", ""))
