"""Shared fixtures. Playwright's sync API runs an event loop in this thread; the ORM is used beside it on purpose."""

import os

os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "true")
