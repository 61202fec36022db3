"""Connections to the database beside those of requests."""

from typing import Any

import psycopg
from django.conf import settings


def opened(purpose: str, *, connect_s: int, statement_ms: int, is_passing: bool = False) -> psycopg.Connection[tuple[Any, ...]]:
    """One that commits each statement. Raises `psycopg.Error`.

    purpose : said in PostgreSQL's list of who is there. is_passing : what is written is worth nothing after the database was lost,
    so nobody waits for its disk.
    """
    known = {key: str(value) for key, value in settings.DATABASES["default"].items()}
    return psycopg.connect(
        host=known["HOST"], port=known["PORT"], dbname=known["NAME"], user=known["USER"], password=known["PASSWORD"],
        connect_timeout=connect_s, tcp_user_timeout=5000, autocommit=True, application_name=f"huvren {purpose}",
        options=f"-c statement_timeout={statement_ms}" + (" -c synchronous_commit=off" if is_passing else ""),
    )  # fmt: skip
