"""Shared fixtures. Playwright's sync API runs an event loop in this thread; the ORM is used beside it on purpose."""

import os
from typing import Any

import pytest

os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "true")


@pytest.fixture(autouse=True)
def quick_passwords(settings: Any) -> None:
    """Real password hashing takes most of a second for every artist that a test makes."""
    settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
