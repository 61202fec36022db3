"""Heavy requests take their turn in the lane."""

from django.http import HttpRequest, HttpResponse

from huvren.studio.bounds import HEAVY, HEAVY_BYTES
from huvren.studio.middleware import Handler
from huvren.studio.middleware.problems import problem
from huvren.studio.services.load import preparing
from huvren.studio.services.load.lane import LANE, NoTurn


def is_heavy(request: HttpRequest) -> bool:
    """By its address or its body."""
    return HEAVY.search(request.path) is not None or int(request.META.get("CONTENT_LENGTH") or 0) >= HEAVY_BYTES


class Lanes:
    def __init__(self, handler: Handler) -> None:
        self.handler = handler

    def __call__(self, request: HttpRequest) -> HttpResponse:
        if not is_heavy(request) or not request.user.is_authenticated:
            return self.handler(request)
        if (ready := preparing.share()) is not None:
            said = (
                f"Huvren is being prepared, once and for all: {ready:.0%} of what draws and reduces is ready. "
                "This goes on by itself as soon as it can."
            )
            return problem(503, "preparing", said, retry_s=1)
        try:
            with LANE.turn_of(request.user.pk):
                return self.handler(request)
        except NoTurn:
            said = "The server has very much to do just now. Nothing was changed; try again in a moment."
            return problem(503, "busy", said, retry_s=2)
