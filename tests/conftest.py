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


def pytest_collection_modifyitems(config: pytest.Config, items: list[pytest.Item]) -> None:
    """Two processes begin at the two halves of the list: each gets half of the files that drive a browser, which take longest."""
    if not hasattr(config, "workerinput"):
        return
    files = sorted({item.path for item in items if "browser" in item.path.parts})
    early = set(files[::2])
    slow = [item for item in items if item.path in early], [item for item in items if item.path in set(files) - early]
    others = [item for item in items if item.path not in files]
    room = len(items) // 2 - len(slow[0])
    items[:] = [*slow[0], *others[: max(room, 0)], *slow[1], *others[max(room, 0) :]]
