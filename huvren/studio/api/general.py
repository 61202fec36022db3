"""Whether the server answers, and who is signed in."""

from django.conf import settings
from django.http import HttpRequest
from ninja import Router
from pydantic import BaseModel, Field

from huvren import __version__
from huvren.studio.models import Palette

router = Router(tags=["general"])


class SessionOut(BaseModel):
    user: str
    demo: bool
    version: str
    trash_days: float = Field(description="days after which the trash is emptied")


@router.get("/health", auth=None, response=dict[str, str])
def health(request: HttpRequest) -> dict[str, str]:
    """Whether the server and its database answer."""
    Palette.objects.exists()
    return {"status": "ok"}


@router.get("/session", response=SessionOut)
def session(request: HttpRequest) -> SessionOut:
    """Who is signed in."""
    return SessionOut(user=request.user.get_username(), demo=settings.DEMO, version=__version__, trash_days=settings.TRASH_DAYS)
