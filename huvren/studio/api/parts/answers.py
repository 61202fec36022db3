"""Answers that several routers give: a palette, or the job that will change it."""

from uuid import UUID

from django.http import HttpResponse
from pydantic import Field

from huvren.core.bounded import Bounded
from huvren.studio.api.jobs import job_out
from huvren.studio.api.parts.palette_out import palette_out
from huvren.studio.models import Job
from huvren.studio.services.shelf import palettes


class Change(Bounded):
    base: int = Field(description="number of the revision the client saw")
    once: UUID | None = Field(
        default=None,
        description="an id that the client makes for this wish alone; sent again, as its answer was lost, it is not done again",
    )


def answer(state: palettes.State, status: int = 200) -> HttpResponse:
    """A palette as JSON; written here at once, as checking our own answer again would double the time of an edit."""
    return HttpResponse(palette_out(state).model_dump_json(), content_type="application/json", status=status)


def answer_or_job(outcome: palettes.State | Job, status: int = 200) -> HttpResponse:
    """A palette, or 202 with the job that will change it."""
    if isinstance(outcome, Job):
        return HttpResponse(job_out(outcome).model_dump_json(), content_type="application/json", status=202)
    return answer(outcome, status)
