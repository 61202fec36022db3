"""How often something may be asked for in a minute: by artist, counted in PostgreSQL for all processes together."""

import time

from django.conf import settings
from django.db import connection
from django.http import HttpRequest
from ninja.throttling import BaseThrottle

COUNT = """
INSERT INTO studio_asked (key, minute, count) VALUES (%s, %s, 1)
ON CONFLICT (key) DO UPDATE SET minute = excluded.minute,
  count = CASE WHEN studio_asked.minute = excluded.minute THEN studio_asked.count + 1 ELSE 1 END
RETURNING count
"""


class Rate(BaseThrottle):
    """So many a minute. It is counted before the work, and what was refused counts too."""

    def __init__(self, name: str, a_minute: int) -> None:
        self.name = name
        self.a_minute = a_minute

    def allow_request(self, request: HttpRequest) -> bool:
        if not settings.RATES:
            return True
        with connection.cursor() as cursor:
            cursor.execute(COUNT, [f"{self.name}:{request.user.pk}", int(time.time() // 60)])
            return bool(cursor.fetchone()[0] <= self.a_minute)

    def wait(self) -> float:
        """Seconds until the minute is over."""
        return 60 - time.time() % 60


UPLOADS = Rate("uploads", 240)
IMPORTS = Rate("imports", 240)
ARCHIVES = Rate("archives", 20)
PREVIEWS = Rate("previews", 1200)
JOBS = Rate("jobs", 240)
