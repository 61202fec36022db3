"""The size of a body is refused before it is taken."""

from django.http import HttpRequest, HttpResponse

from huvren.studio.bounds import MOST_ANONYMOUS_BYTES, SIGNED_OUT, most_bytes
from huvren.studio.middleware import Handler
from huvren.studio.middleware.problems import problem


def size_said(count: int) -> str:
    """“81 MB” or “16 KB”."""
    return f"{count / 1048576:,.0f} MB" if count >= 1048576 else f"{count / 1024:,.0f} KB"


def refusal(path: str, length: int, is_signed_in: bool) -> HttpResponse | None:
    """Why a body of `length` bytes is not taken at an address, or None where it is."""
    if not is_signed_in and length > MOST_ANONYMOUS_BYTES:
        return problem(401, "signed_out", SIGNED_OUT)
    most = most_bytes(path)
    if length > most:
        return problem(413, "too_large", f"That has {size_said(length)}; {size_said(most)} is the most that can be sent here.")
    return None


class BodyLimits:
    """Asked of the header that names the length; what names none has no body here, as the proxy counts what comes in pieces."""

    def __init__(self, handler: Handler) -> None:
        self.handler = handler

    def __call__(self, request: HttpRequest) -> HttpResponse:
        try:
            length = int(request.META.get("CONTENT_LENGTH") or 0)
        except ValueError:
            return problem(400, "bad_request", "The length of that request is no number.")
        if length > MOST_ANONYMOUS_BYTES:
            refused = refusal(request.path, length, request.user.is_authenticated)
            if refused is not None:
                return refused
        return self.handler(request)
