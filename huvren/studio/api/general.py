"""Whether the server answers, who is signed in, and how much of what one may keep is in use."""

import json

from django.conf import settings
from django.http import HttpRequest, HttpResponse, QueryDict
from django.middleware.csrf import get_token
from ninja import Router
from pydantic import BaseModel, Field

from huvren import __version__
from huvren.studio import bounds
from huvren.studio.api.parts.media import of_media
from huvren.studio.bounds import SIGNED_OUT
from huvren.studio.middleware.bodies import refusal, size_said
from huvren.studio.middleware.problems import problem
from huvren.studio.services.load import preparing, quotas, readiness
from huvren.studio.services.shelf.palettes import seen_palette

router = Router(tags=["general"])
ARTIST, PALETTE = "X-Huvren-Artist", "X-Huvren-Palette"
"""What our proxy hands on to the streams of changes."""
KEPT = ("/api/pictures", "/api/library/archive")
"""Where a file is sent to stay; others are only looked into."""


class SessionOut(BaseModel):
    user: str
    demo: bool
    version: str
    trash_days: float = Field(description="days after which the trash is emptied")


class ReadyOut(BaseModel):
    """Each part says “ok” or what is wrong with it."""

    ready: bool
    database: str
    queue: str
    heavy: str
    disk: str


class UsedOut(BaseModel):
    used: int
    most: int


class UsageOut(BaseModel):
    """What the artist keeps, the trash included, and the most that one may."""

    bytes: UsedOut
    pictures: UsedOut
    palettes: UsedOut
    jobs: UsedOut


@router.get("/health", auth=None, response=dict[str, str])
def health(request: HttpRequest) -> dict[str, str]:
    """Whether this process answers; nothing else is asked."""
    return {"status": "ok"}


@router.get("/ready", auth=None, response={200: ReadyOut, 503: ReadyOut})
def ready(request: HttpRequest) -> HttpResponse:
    """Whether work can be done: the database, the queue, the disk and who takes heavy work. Answers within a second."""
    found = readiness.service_state()
    said = ReadyOut(ready=found.is_ready, database=found.database, queue=found.queue, disk=found.disk, heavy=found.heavy)
    return HttpResponse(said.model_dump_json(), content_type="application/json", status=200 if found.is_ready else 503)


class PreparingOut(BaseModel):
    share: float | None = Field(description="how much is prepared, 0..1; null where all is")


@router.get("/preparing", auth=None, response=PreparingOut)
def preparation(request: HttpRequest) -> PreparingOut:
    """How far the first preparation is: until it ends, what draws and reduces answers 503 and when to ask again."""
    return PreparingOut(share=preparing.share())


@router.get("/session", response=SessionOut)
def session(request: HttpRequest) -> SessionOut:
    """Who is signed in."""
    # The page sets the token too; while the interface is worked on, another server hands out the page.
    get_token(request)
    return SessionOut(user=request.user.get_username(), demo=settings.DEMO, version=__version__, trash_days=settings.TRASH_DAYS)


@router.get("/usage", response=UsageOut)
def usage(request: HttpRequest) -> UsageOut:
    """How much the artist keeps of what one may."""
    used = quotas.used(request.user)
    return UsageOut(**{
        name: UsedOut(used=getattr(used, name), most=getattr(bounds.QUOTA, name)) for name in UsageOut.model_fields
    })  # fmt: skip


@router.get("/changes", response={204: None}, openapi_extra=of_media("text/event-stream"))
def changes(request: HttpRequest) -> HttpResponse:
    """What changes on the artist's shelf, as server-sent events (`huvren.site.streams`).

    `?palette=` is what the window shows: the first event says where that stands. Behind our proxy these requests go to a process of
    their own; where there is none, this answers 204, and a window asks no more.
    """
    return HttpResponse(status=204)


@router.get("/may-listen", auth=None, include_in_schema=False)
def may_listen(request: HttpRequest) -> HttpResponse:
    """Asked by our own proxy before it opens a stream of changes: whose they are, and the palette where that may be seen."""
    if not request.user.is_authenticated:
        return problem(401, "signed_out", SIGNED_OUT)
    asked = QueryDict(request.META.get("HTTP_X_HUVREN_PATH", "").partition("?")[2]).get("palette", "")
    return HttpResponse(status=204, headers={ARTIST: str(request.user.pk), PALETTE: seen_palette(request.user, asked)})


@router.get("/may-send", auth=None, include_in_schema=False)
def may_send(request: HttpRequest) -> HttpResponse:
    """Asked by our own proxy before it takes a large body: 204, or why it is not taken in a header."""
    path = request.META.get("HTTP_X_HUVREN_PATH", "").partition("?")[0]
    try:
        length = int(request.META.get("HTTP_X_HUVREN_BYTES") or 0)
    except ValueError:
        length = 0
    if not request.user.is_authenticated:
        return problem(401, "signed_out", SIGNED_OUT)
    refused = refusal(path, length, True)
    is_kept = length > 0 and path in KEPT
    if refused is None and is_kept and quotas.bytes_of(request.user.pk) + length > bounds.QUOTA.bytes:
        most = size_said(bounds.QUOTA.bytes)
        said = f"That would fill your shelf beyond the {most} that it holds. Put what you do not need into the trash and empty it."
        refused = problem(413, "full", said)
    if refused is None:
        return HttpResponse(status=204)
    # The proxy knows three answers here, and hands on what stands in this header.
    said = json.dumps(json.loads(refused.content))
    return HttpResponse(said, status=403, content_type="application/problem+json", headers={"X-Huvren-Refusal": said})
