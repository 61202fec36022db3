"""Whether PostgreSQL takes as many connections as what is about to start may open."""

from typing import Any

from django.core.management.base import BaseCommand, CommandError
from django.db import connection

TAKEN = """
SELECT current_setting('max_connections')::int - current_setting('superuser_reserved_connections')::int
  - coalesce(nullif(current_setting('reserved_connections', true), ''), '0')::int
"""


class Command(BaseCommand):
    help = "Refuse where PostgreSQL takes fewer connections than are wanted."

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument("wanted", type=int)
        parser.add_argument("--why", default="", help="what wants them, in words")

    def handle(self, *args: Any, **options: Any) -> None:
        with connection.cursor() as cursor:
            cursor.execute(TAKEN)
            taken = int(cursor.fetchone()[0])
        if options["wanted"] > taken:
            why = f": {options['why']}" if options["why"] else ""
            raise CommandError(
                f"PostgreSQL takes {taken} connections, and {options['wanted']} may be opened{why}. "
                "Set HUVREN_WORKERS lower, or max_connections of PostgreSQL higher."
            )
