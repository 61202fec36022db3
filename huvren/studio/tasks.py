"""What the queue carries: the id of a job, and once a night the cleaning."""

from uuid import UUID

from django.db import close_old_connections
from procrastinate.contrib.django import app

from huvren.studio.services.bench import (
    batches,  # noqa: F401  (they say what their jobs do)
    reductions,  # noqa: F401  (they say what their jobs do)
)
from huvren.studio.services.files import archives  # noqa: F401  (they say what their jobs do)
from huvren.studio.services.load import jobs
from huvren.studio.services.shelf import cleaning


@app.task(name="work_on", queue="jobs")
def work_on(job: str) -> None:
    """Do one job to its end."""
    # A database that went away in between is another connection by now.
    close_old_connections()
    try:
        jobs.work(UUID(job))
    finally:
        close_old_connections()


@app.periodic(cron="20 3 * * *")
@app.task(name="clean", queue="jobs", queueing_lock="clean")
def clean(timestamp: int) -> None:
    """Remove what has lain in the trash long enough, and what nothing names any more."""
    del timestamp
    cleaning.clean()
