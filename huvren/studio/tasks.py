"""What the queue carries: the id of a job, nothing else."""

from uuid import UUID

from procrastinate.contrib.django import app

from huvren.studio.services import batches, jobs, reductions  # noqa: F401  (they say what their jobs do)


@app.task(name="work_on", queue="jobs")
def work_on(job: str) -> None:
    """Do one job to its end."""
    jobs.work(UUID(job))
