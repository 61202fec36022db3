"""Jobs: how long work stands, calling it off, doing it again; and batches."""

from uuid import UUID

from django.http import FileResponse, HttpRequest
from ninja import Router, Status

from huvren.studio.api.schemas import BatchIn, JobOut, job_out
from huvren.studio.services import batches, jobs

router = Router(tags=["jobs"])


@router.get("", response=list[JobOut])
def listed(request: HttpRequest) -> list[JobOut]:
    """The artist's newest jobs, newest first."""
    return [job_out(job) for job in jobs.listed(request.user)]


@router.post("/batches", response={202: JobOut})
def start_batch(request: HttpRequest, payload: BatchIn) -> Status[JobOut]:
    """Reduce many pictures by one recipe."""
    return Status(202, job_out(batches.start(request.user, payload.pictures, payload.recipe, payload.name)))


@router.post("/{job_id}/cancel", response=JobOut)
def cancel(request: HttpRequest, job_id: UUID) -> JobOut:
    """Call a job off. Nothing of it is kept, but for the pictures that a batch has finished."""
    return job_out(jobs.cancel(request.user, job_id))


@router.post("/{job_id}/retry", response=JobOut)
def retry(request: HttpRequest, job_id: UUID) -> JobOut:
    """Do a failed or cancelled job again."""
    return job_out(jobs.retry(request.user, job_id))


@router.delete("/{job_id}", response={204: None})
def clear(request: HttpRequest, job_id: UUID) -> Status[None]:
    """Forget a job that has ended."""
    jobs.clear(request.user, job_id)
    return Status(204, None)


@router.get("/{job_id}/zip")
def zipped(request: HttpRequest, job_id: UUID) -> FileResponse:
    """What a batch has made: pictures, palettes and a table of figures."""
    return FileResponse(batches.zipped(request.user, job_id), as_attachment=True, filename="Huvren batch.zip")
