"""Response headers."""

import secrets

from django.http import HttpRequest, HttpResponse

from huvren.studio.middleware import Handler


class ContentPolicy:
    """Only the page's own origin: scripts and styles carry a nonce, everything else comes from here. It stands before the static
    files, which get the same headers."""

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
        response.headers.setdefault("X-Frame-Options", "DENY")
        return response
