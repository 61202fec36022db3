"""Response headers, and the demo's signing in."""

import ipaddress
import secrets
from collections.abc import Callable

from django.conf import settings
from django.contrib.auth import get_user_model, login
from django.http import HttpRequest, HttpResponse

Handler = Callable[[HttpRequest], HttpResponse]
DEMO_USER = "demo"


class ContentPolicy:
    """Only the page's own origin: scripts and styles carry a nonce, everything else comes from here."""

    def __init__(self, handler: Handler) -> None:
        self.handler = handler

    def __call__(self, request: HttpRequest) -> HttpResponse:
        nonce = secrets.token_urlsafe(16)
        request.csp_nonce = nonce  # type: ignore[attr-defined]
        response = self.handler(request)
        response.headers.setdefault(
            "Content-Security-Policy",
            f"default-src 'self'; script-src 'self' 'nonce-{nonce}'; style-src 'self' 'nonce-{nonce}'; "
            "img-src 'self' data: blob:; font-src 'self'; connect-src 'self'; object-src 'none'; base-uri 'none'; "
            "form-action 'self'; frame-ancestors 'none'",
        )
        response.headers.setdefault("Cross-Origin-Opener-Policy", "same-origin")
        return response


class DemoSignIn:
    """With the demo setting on, a visitor from this very machine is the demo artist."""

    def __init__(self, handler: Handler) -> None:
        self.handler = handler

    def __call__(self, request: HttpRequest) -> HttpResponse:
        if settings.DEMO and not request.user.is_authenticated and self._from_here(request):
            user = get_user_model().objects.filter(username=DEMO_USER).first()
            if user is not None:
                login(request, user, backend="django.contrib.auth.backends.ModelBackend")
        return self.handler(request)

    @staticmethod
    def _from_here(request: HttpRequest) -> bool:
        host = request.get_host().rsplit(":", 1)[0].strip("[]")
        try:
            return ipaddress.ip_address(request.META.get("REMOTE_ADDR", "")).is_loopback and (
                host == "localhost" or ipaddress.ip_address(host).is_loopback
            )
        except ValueError:
            return False
