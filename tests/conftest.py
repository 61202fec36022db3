"""Shared fixtures. Playwright's sync API runs an event loop in this thread; the ORM is used beside it on purpose."""

import gc
import os
from collections.abc import Iterator
from typing import Any

import pytest
from django.db import connection
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


@pytest.fixture(scope="session")
def django_db_setup(django_db_setup: None, django_db_blocker: Any) -> Iterator[None]:
    """Nobody is in the tests' database when it is removed at the end: a thread of a server, or what processes share, may hold on."""
    yield
    with django_db_blocker.unblock(), connection._nodb_cursor() as cursor:
        cursor.execute(
            "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = %s", [connection.settings_dict["NAME"]]
        )


def pytest_collection() -> None:
    """Thousands of tests and all that they import stay: nothing among them is looked for that could go."""
    gc.disable()


def pytest_collection_finish() -> None:
    gc.freeze()
    gc.enable()


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
