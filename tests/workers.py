"""Real worker processes on the tests' database."""

import os
import subprocess
import sys
from pathlib import Path

from django.db import connection

ROOT = Path(__file__).resolve().parent.parent


def start_worker() -> subprocess.Popen[bytes]:
    """A worker as `./run demo` starts it, on the database of this test run."""
    environment = {**os.environ, "HUVREN_DB_NAME": connection.settings_dict["NAME"], "PYTHONPATH": str(ROOT)}
    return subprocess.Popen([sys.executable, str(ROOT / "manage.py"), "work"], env=environment, cwd=ROOT)


def forget_queue() -> None:
    """The queue's tables are not the ORM's, so a transactional test empties them itself."""
    with connection.cursor() as cursor:
        cursor.execute("TRUNCATE procrastinate_jobs, procrastinate_workers CASCADE")
