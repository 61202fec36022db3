"""Jobs: how long work stands, calling it off, doing it again; and batches."""

from dataclasses import asdict
from datetime import datetime
from typing import Any, Literal, cast
from uuid import UUID

from django.http import FileResponse, HttpRequest
from ninja import Router, Status
from pydantic import BaseModel, Field

from huvren.core.bounded import Bounded
from huvren.core.reduction.recipe import ReduceRecipe
from huvren.studio.api.parts import rates
from huvren.studio.api.parts.media import of_media
from huvren.studio.models import Job
from huvren.studio.services.bench import batches
from huvren.studio.services.load import jobs

router = Router(tags=["jobs"])


class BatchIn(Bounded):
    """Pictures to reduce by one recipe; `name` is that of a kept recipe, for the label."""

    pictures: list[UUID]
    recipe: ReduceRecipe
    name: str = ""


class JobOut(BaseModel):
    id: UUID
    kind: str
    label: str
    state: Literal["waiting", "working", "done", "failed", "cancelled"]
    share: float = Field(description="0..1")
    step: str = Field(description="what is being done, or why it ended")
    palette: UUID | None = Field(description="the palette it changes or made")
    wanted: int = Field(description="pictures of a batch; 0 for other jobs")
    made: int = Field(description="those that it has finished")
    can_again: bool = Field(description="whether it can be done again")
    created: datetime


def job_out(job: Job) -> JobOut:
    made = getattr(job, "made", None)
    return JobOut(
        id=job.id, kind=job.kind, label=job.label, state=cast(Any, job.state), share=job.share, step=job.step, palette=job.palette_id,
        wanted=jobs.wanted_of(job), made=job.results.count() if made is None else made, can_again=jobs.can_again(job),
        created=job.created,
    )  # fmt: skip


@router.get("", response=list[JobOut])
def listed(request: HttpRequest) -> list[JobOut]:
    """The artist's newest jobs, newest first."""
    return [job_out(job) for job in jobs.listed(request.user)]


@router.post("/batches", response={202: JobOut}, throttle=rates.JOBS)
def start_batch(request: HttpRequest, payload: BatchIn) -> Status[JobOut]:
    """Reduce many pictures by one recipe."""
    return Status(202, job_out(batches.start(request.user, payload.pictures, payload.recipe, payload.name)))


@router.post("/{job_id}/cancel", response=JobOut)
def cancel(request: HttpRequest, job_id: UUID) -> JobOut:
    """Call a job off. Nothing of it is kept, nor of a file that was sent for it, but for the pictures that a batch has finished."""
    return job_out(jobs.cancel(request.user, job_id))


@router.post("/{job_id}/retry", response=JobOut)
def retry(request: HttpRequest, job_id: UUID) -> JobOut:
    """Do a failed or cancelled job again."""
    return job_out(jobs.retry(request.user, job_id))


class MemberOut(BaseModel):
    """A picture of a batch."""

    position: int
    picture: UUID
    name: str
    state: Literal["waiting", "done", "failed", "off"]
    problem: str = Field(description="why there is no result")


class BatchOut(BaseModel):
    recipe: ReduceRecipe
    pictures: list[MemberOut]


def _batch_out(request: HttpRequest, job_id: UUID) -> BatchOut:
    members, recipe = batches.members(request.user, job_id)
    return BatchOut(recipe=recipe, pictures=[MemberOut.model_validate(asdict(member)) for member in members])


@router.get("/{job_id}/pictures", response=BatchOut)
def pictures(request: HttpRequest, job_id: UUID) -> BatchOut:
    """The pictures of a batch, with what became of each."""
    return _batch_out(request, job_id)


@router.post("/{job_id}/pictures/{position}/call-off", response=BatchOut)
def call_off_picture(request: HttpRequest, job_id: UUID, position: int) -> BatchOut:
    """Leave one picture of a batch out that has no result yet."""
    batches.call_off(request.user, job_id, position)
    return _batch_out(request, job_id)


@router.post("/{job_id}/pictures/{position}/retry", response=BatchOut)
def retry_picture(request: HttpRequest, job_id: UUID, position: int) -> BatchOut:
    """Try one picture of a batch again; one that has ended goes on with it."""
    batches.once_more(request.user, job_id, position)
    return _batch_out(request, job_id)


@router.delete("/{job_id}", response={204: None})
def clear(request: HttpRequest, job_id: UUID) -> Status[None]:
    """Forget a job that has ended."""
    jobs.clear(request.user, job_id)
    return Status(204, None)


@router.get("/{job_id}/zip", openapi_extra=of_media("application/zip"))
def zipped(request: HttpRequest, job_id: UUID) -> FileResponse:
    """What a batch has made: pictures, palettes and a table of figures."""
    return FileResponse(batches.zipped(request.user, job_id), as_attachment=True, filename="Huvren batch.zip")
