"""Where artists are signed in: sessions in the database that know whose they are, so that they can be shown and ended."""

import hashlib
from datetime import datetime
from typing import Any

from django.contrib.auth import SESSION_KEY
from django.contrib.sessions.backends.db import SessionStore as DatabaseSessions
from django.http import HttpRequest
from django.utils import timezone

from huvren.studio.models import Artist, SignedIn
from huvren.studio.prepared import Prepared

BEGAN, ADDRESS = "began", "address"


PRESENT = Prepared(lambda key, now: SignedIn.objects.filter(session_key=key, expire_date__gt=now), str, datetime)
"""A session that has not ended, by its key and the time."""


class SessionStore(DatabaseSessions):
    """Django's sessions in our own table. The name is a part of how they are signed."""

    def _get_session_from_db(self) -> Any:
        found = PRESENT(self.session_key, timezone.now())
        return found[0] if found else super()._get_session_from_db()  # type: ignore[misc]

    @classmethod
    def get_model_class(cls) -> Any:
        return SignedIn

    def create_model_instance(self, data: Any) -> Any:
        row: Any = super().create_model_instance(data)
        row.artist_id = data.get(SESSION_KEY)
        row.began = datetime.fromisoformat(data[BEGAN]) if BEGAN in data else None
        row.address = data.get(ADDRESS, "")
        return row


def remember(request: HttpRequest) -> None:
    """Note in the session of somebody who has just signed in when that was, and from where."""
    request.session[BEGAN] = timezone.now().isoformat()
    request.session[ADDRESS] = request.META.get("REMOTE_ADDR", "")


def shown_key(session_key: str) -> str:
    """What a session is called where it is listed: its key would be as good as the password."""
    return hashlib.sha256(session_key.encode()).hexdigest()[:32]


def sessions_of(artist: int) -> list[SignedIn]:
    """Where an artist is signed in, the latest first."""
    rows = SignedIn.objects.filter(artist=artist, expire_date__gt=timezone.now())
    return sorted(rows, key=lambda row: (row.began is not None, row.began or row.expire_date), reverse=True)


def end_sessions(artist: Artist | int, *, but: str | None = None, only: str | None = None) -> int:
    """Sign an artist out everywhere, but for the session with one key, or only in the one that is listed so; in how many places."""
    rows = SignedIn.objects.filter(artist=artist).exclude(session_key=but or "")
    keys = [key for key in rows.values_list("session_key", flat=True) if only is None or shown_key(key) == only]
    return rows.filter(session_key__in=keys).delete()[0]
