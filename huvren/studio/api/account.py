"""The artist's own account: another password, and where one is signed in."""

from datetime import datetime

from django.conf import settings
from django.contrib.auth import update_session_auth_hash
from django.http import HttpRequest
from ninja import Router, Status
from pydantic import BaseModel, Field

from huvren.core.bounded import Bounded
from huvren.core.errors import BadInput, Unknown
from huvren.studio import sign_in
from huvren.studio.access import key_of
from huvren.studio.models import Artist
from huvren.studio.sessions import end_sessions, sessions_of, shown_key

router = Router(tags=["account"])


class PlaceOut(BaseModel):
    """Where one is signed in."""

    id: str
    began: datetime | None
    address: str = Field(description="of the computer that signed in, as the server saw it; empty where that is not known")
    until: datetime = Field(description="when it ends by itself")
    is_this: bool = Field(description="the one that asks")


class AccountOut(BaseModel):
    name: str
    has_password: bool = Field(description="not so in the demo, which signs visitors of its own computer in")
    places: list[PlaceOut]


class PasswordIn(Bounded):
    present: str = Field(max_length=sign_in.LONGEST_PASSWORD)
    wanted: str = Field(max_length=sign_in.LONGEST_PASSWORD)


class EndedOut(BaseModel):
    ended: int


def _is_of_demo(request: HttpRequest) -> bool:
    """Whether the visitor is signed in by the demo, without a session or a password."""
    return bool(settings.DEMO) and not request.session.session_key


@router.get("", response=AccountOut)
def account(request: HttpRequest) -> AccountOut:
    """The name, and where it is signed in."""
    places = [
        PlaceOut(
            id=shown_key(row.session_key), began=row.began, address=row.address, until=row.expire_date,
            is_this=row.session_key == request.session.session_key,
        )
        for row in sessions_of(key_of(request.user))
    ]  # fmt: skip
    places.sort(key=lambda place: not place.is_this)
    return AccountOut(name=request.user.get_username(), has_password=not _is_of_demo(request), places=places)


@router.post("/password", response={204: None})
def change_password(request: HttpRequest, payload: PasswordIn) -> Status[None]:
    """Another password. One stays signed in here and is signed out everywhere else."""
    if _is_of_demo(request):
        raise BadInput("The demo signs you in by itself; there is no password to change.")
    artist = Artist.objects.get(pk=key_of(request.user))
    sign_in.change_password(artist, payload.present, payload.wanted, request.META.get("REMOTE_ADDR", ""))
    update_session_auth_hash(request, artist)
    request.session.save()
    end_sessions(artist, but=request.session.session_key)
    return Status(204, None)


@router.delete("/places", response=EndedOut)
def end_others(request: HttpRequest) -> EndedOut:
    """Sign out everywhere else."""
    return EndedOut(ended=end_sessions(key_of(request.user), but=request.session.session_key))


@router.delete("/places/{place_id}", response={204: None})
def end_place(request: HttpRequest, place_id: str) -> Status[None]:
    """Sign out in one place."""
    if not end_sessions(key_of(request.user), only=place_id):
        raise Unknown("You are not signed in there any more.")
    return Status(204, None)
