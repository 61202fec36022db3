"""Signing in, and what guessing costs.

Wrong passwords are counted by name and address together, by address alone and by name alone, each attempt before its password is
looked at, so that many at once count as many. Beyond the free ones every further wrong one doubles the wait, up to a most. Whoever
guesses from elsewhere at somebody's name can make them wait a minute, never lock them out. Hashing a password is meant to be slow:
in a process few do it at a time, and the others wait for a moment or are asked to come again.
"""

import threading
from dataclasses import dataclass
from datetime import timedelta
from typing import Any

from django.contrib.auth.forms import AuthenticationForm
from django.contrib.auth.password_validation import validate_password
from django.contrib.auth.views import LoginView
from django.core.exceptions import ValidationError
from django.db import connection
from django.db.models import QuerySet
from django.http import HttpRequest, HttpResponse
from django.utils import timezone

from huvren.core.errors import BadInput
from huvren.studio.models import Artist, FailedSignIn
from huvren.studio.sessions import remember

LONGEST_NAME, LONGEST_PASSWORD = 150, 1000
FORGOTTEN_AFTER = timedelta(days=1)
HASHED_AT_ONCE = 2
WAIT_FOR_HASHING_S = 5.0
_HASHING = threading.BoundedSemaphore(HASHED_AT_ONCE)


@dataclass(frozen=True)
class Patience:
    """How many wrong passwords are free, the first wait after them, and the longest."""

    free: int
    first_s: float
    longest_s: float

    def wait_s(self, failures: int) -> float:
        """Seconds to wait after so many wrong passwords."""
        beyond = failures - self.free
        return 0.0 if beyond < 0 else min(self.first_s * 2.0 ** min(beyond, 30), self.longest_s)


PATIENCE = {"both": Patience(5, 10, 900), "address": Patience(40, 10, 900), "name": Patience(60, 5, 60)}


def _keys(name: str, address: str) -> dict[str, str]:
    plain = name.strip().casefold()[:LONGEST_NAME].replace("\0", "")
    return {"both": f"both:{address}:{plain}", "address": f"address:{address}", "name": f"name:{plain}"}


def _rows(name: str, address: str) -> QuerySet[FailedSignIn]:
    return FailedSignIn.objects.filter(key__in=_keys(name, address).values())


def wait_s(name: str, address: str) -> float:
    """Seconds until somebody at this address may try this name again; 0 where that is now."""
    now = timezone.now()
    longest = 0.0
    for row in _rows(name, address):
        if now - row.last < FORGOTTEN_AFTER:
            due = PATIENCE[row.key.partition(":")[0]].wait_s(row.count)
            longest = max(longest, due - (now - row.last).total_seconds())
    return longest


COUNT = """
INSERT INTO studio_failedsignin (key, count, last) VALUES (%s, 1, now())
ON CONFLICT (key) DO UPDATE SET last = now(),
  count = CASE WHEN studio_failedsignin.last < now() - %s * interval '1 second' THEN 1 ELSE studio_failedsignin.count + 1 END
"""


def count_attempt(name: str, address: str) -> None:
    """Count an attempt as wrong until it turns out to be right. Counts that are older than a day begin anew."""
    with connection.cursor() as cursor:
        for key in sorted(_keys(name, address).values()):
            cursor.execute(COUNT, [key, FORGOTTEN_AFTER.total_seconds()])


def forget(name: str, address: str) -> None:
    """A right password: what was counted for this name here is forgotten; elsewhere the attempt that was counted is taken back."""
    keys = _keys(name, address)
    FailedSignIn.objects.filter(key=keys["both"]).delete()
    for row in FailedSignIn.objects.filter(key__in=(keys["address"], keys["name"]), count__gt=0):
        FailedSignIn.objects.filter(pk=row.pk).update(count=row.count - 1)


def forget_old() -> int:
    """Remove what is not counted any more; how many rows that were."""
    return FailedSignIn.objects.filter(last__lt=timezone.now() - FORGOTTEN_AFTER).delete()[0]


def _said(seconds: float) -> str:
    whole = max(1, round(seconds))
    return f"{whole} seconds" if whole < 120 else f"{round(whole / 60)} minutes"


class WrongPassword(BadInput):
    """What was typed as the present password is another one."""

    code = "wrong_password"


def change_password(artist: Artist, present: str, wanted: str, address: str) -> None:
    """Give an account another password. Guessing at the present one costs what it costs at the door. Raises `BadInput`."""
    name = artist.get_username()
    if (wait := wait_s(name, address)) > 0:
        raise BadInput(f"Too many wrong passwords. Wait {_said(wait)}, then try again.")
    if not _HASHING.acquire(timeout=WAIT_FOR_HASHING_S):
        raise BadInput("Many are signing in at this moment. Wait a little, then try again.")
    try:
        count_attempt(name, address)
        if not artist.check_password(present):
            raise WrongPassword("That is not the present password. Nothing was changed.")
        forget(name, address)
        if present == wanted:
            raise BadInput("That is the present password. Choose another one.")
        try:
            validate_password(wanted, artist)
        except ValidationError as error:
            raise BadInput(" ".join(error.messages)) from error
        artist.set_password(wanted)
        artist.save(update_fields=["password"])
    finally:
        _HASHING.release()


class SignInForm(AuthenticationForm):
    """Name and password, with waits that grow."""

    def __init__(self, request: HttpRequest | None = None, *args: Any, **kwargs: Any) -> None:
        super().__init__(request, *args, **kwargs)
        self.fields["password"].max_length = LONGEST_PASSWORD  # type: ignore[attr-defined]

    def clean(self) -> dict[str, Any]:
        name, password = self.cleaned_data.get("username") or "", self.cleaned_data.get("password") or ""
        address = self.request.META.get("REMOTE_ADDR", "") if self.request else ""
        if not name or not password:
            return self.cleaned_data
        if len(password) > LONGEST_PASSWORD:
            raise self.get_invalid_login_error()
        if (wait := wait_s(name, address)) > 0:
            raise ValidationError(f"Too many wrong passwords. Wait {_said(wait)}, then try again.")
        if not _HASHING.acquire(timeout=WAIT_FOR_HASHING_S):
            raise ValidationError("Many are signing in at this moment. Wait a little, then try again.")
        try:
            count_attempt(name, address)
            cleaned = super().clean()
        finally:
            _HASHING.release()
        forget(name, address)
        return cleaned

    def get_invalid_login_error(self) -> ValidationError:
        return ValidationError("That name and password do not belong together. Try again.")


class SignIn(LoginView):
    template_name = "studio/sign_in.html"
    redirect_authenticated_user = True
    authentication_form = SignInForm

    def form_valid(self, form: AuthenticationForm) -> HttpResponse:
        response = super().form_valid(form)
        remember(self.request)
        return response
