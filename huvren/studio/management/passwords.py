"""Passwords at the command line: typed twice where somebody types, one line where it is piped in."""

import getpass
import sys

from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.core.management.base import CommandError

from huvren.studio.models import Artist


def asked_password(user: Artist) -> str:
    """A password that the validators let pass. Raises `CommandError` with what is wrong with it."""
    if sys.stdin.isatty():
        password = getpass.getpass("Password: ")
        if password != getpass.getpass("Once more: "):
            raise CommandError("The two are not the same. Nothing was changed.")
    else:
        password = sys.stdin.readline().rstrip("\r\n")
    try:
        validate_password(password, user)
    except ValidationError as error:
        raise CommandError(" ".join(error.messages)) from error
    return password
