"""Shared fixtures. Playwright's sync API runs an event loop in this thread; the ORM is used beside it on purpose."""

import os
from typing import Any

import pytest
from hypothesis import settings as property_settings

# A run of the tests says the same every time: what fails for one reader fails for all.
property_settings.register_profile("same every time", derandomize=True)
property_settings.load_profile("same every time")
os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "true")
# A busy machine is slow and not wrong: requests of ordinary tests have all the time they need.
os.environ.setdefault("HUVREN_DEADLINE_S", "100000")


@pytest.fixture(autouse=True)
def quick_passwords(settings: Any) -> None:
    """Real password hashing takes most of a second for every artist that a test makes."""
    settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
