"""Jobs: long work that an artist watches, calls off, or has done again.

A job's row says what is wanted and how it stands. The queue (procrastinate, on the same PostgreSQL) only carries its id
to a worker process. A worker reports after each step and learns there whether it was called off. What a job makes is
stored in one transaction with its end, and only by the worker that took it up last: one that was killed leaves nothing,
and one that was thought dead and wakes up again cannot store a second result.
"""

import contextlib
import tempfile
import threading
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from typing import IO, Any, Generic, TypeAlias, TypeVar
from uuid import UUID, uuid4

from django.db import connection, transaction
from django.db.models import BigIntegerField, Count, F, Func, Sum
from django.utils import timezone
from procrastinate.contrib.django import app
from pydantic import BaseModel

from huvren.core.errors import BadInput, Cancelled, HuvrenError
from huvren.core.registry import Registry
from huvren.core.versions import BadDocument, Kind
from huvren.studio import bounds
from huvren.studio.access import User, find, key_of, visible
from huvren.studio.errors import FULL_DISK, is_database_away, is_disk_full
from huvren.studio.models import Job, JobFile, JobState
from huvren.studio.services.load import quotas
from huvren.studio.services.load.gate import GATE
from huvren.studio.services.load.quotas import OPEN

JOB_PIXELS = 4_000_000
"""Pictures of more pixels than this are reduced as a job: it takes longer than an artist likes to stare at."""
MOST_ATTEMPTS = 2
STOPPED_TWICE = (
    "The work was broken off twice, perhaps for want of memory. Nothing was changed; try again, or take a smaller picture."
)
TAKEN_UP_AGAIN = "beginning again: whoever was at it ended"
MOST_LISTED = 50


STOPPING = threading.Event()
"""Set when this worker process is told to end."""


class Stopped(Cancelled):
    """The worker ends; the job is for another."""


@dataclass(frozen=True)
class Turn:
    """One worker's turn at a job."""

    job: Job

    def watch(self, step: str, share: float) -> None:
        """Report a step. Raises `Cancelled` where the job was called off, or is another worker's by now, and `Stopped`."""
        if STOPPING.is_set():
            raise Stopped("The worker ends.")
        mine = Job.objects.filter(pk=self.job.pk, state=JobState.WORKING, attempts=self.job.attempts)
        if not mine.update(step=step[:500], share=min(max(share, 0.0), 1.0), changed=timezone.now()):
            raise Cancelled("The work was called off.")

    def hold(self) -> None:
        """Keep the job this worker's until the transaction ends. Raises `Cancelled` where it is not."""
        held = Job.objects.select_for_update().filter(pk=self.job.pk, state=JobState.WORKING, attempts=self.job.attempts)
        if not held:
            raise Cancelled("The work was called off.")

    def finish(self, result: "Result") -> None:
        """Mark the job done, inside the transaction that stores what it made. Raises `TypeError` for another kind's result."""
        if not isinstance(result, KINDS[self.job.kind].result):
            raise TypeError(f"A job of the kind {self.job.kind} does not give a {type(result).__name__}.")
        self.hold()
        ended = {"state": JobState.DONE, "share": 1.0, "step": result.sentence(), "changed": timezone.now()}
        Job.objects.filter(pk=self.job.pk).update(**ended, **result.columns())


Request = TypeVar("Request", bound=BaseModel)


def let_go_of_file(job: UUID) -> None:
    """The file that was sent for a job goes, and counts no longer; within the transaction that ends the job."""
    pieces = JobFile.objects.filter(job=job)
    gone = pieces.aggregate(gone=Sum(Func(F("data"), function="octet_length", output_field=BigIntegerField())))["gone"]
    if gone:
        pieces.delete()
        Job.objects.filter(pk=job).update(bytes=F("bytes") - gone)


def count_more(job: UUID, more: int) -> None:
    """A job keeps so many bytes more; within the transaction that stores them."""
    Job.objects.filter(pk=job).update(bytes=F("bytes") + more)


def _none(request: Any) -> int:
    del request
    return 0


def _the_same(request: Any, job: Job) -> Any:
    del job
    return request


@dataclass(frozen=True)
class PaletteMade:
    """A job's result: a palette that it made or changed."""

    palette: UUID

    def sentence(self) -> str:
        return ""

    def columns(self) -> dict[str, Any]:
        return {"palette_id": self.palette}


@dataclass(frozen=True)
class FilesMade:
    """A job's result: files, and how many could not be made; each is a `JobResult` row."""

    made: int
    problems: int = 0
    off: int = 0
    """How many were called off."""

    def sentence(self) -> str:
        """What became of the batch."""
        parts = [f"{self.made} reduced", f"{self.problems} could not be" if self.problems else ""]
        return ", ".join(filter(None, [*parts, f"{self.off} called off" if self.off else ""]))

    def columns(self) -> dict[str, Any]:
        return {}


@dataclass(frozen=True)
class ShelfFilled:
    """A job's result: palettes and pictures that came onto the shelf, and how many were there already."""

    palettes: int
    pictures: int
    known: int

    def sentence(self) -> str:
        """What became of it."""
        counts = ((self.palettes, "palette"), (self.pictures, "picture"))
        said = " and ".join(f"{count} {noun}{'' if count == 1 else 's'}" for count, noun in counts)
        return f"{said} brought in" + (f", {self.known} were here already" if self.known else "")

    def columns(self) -> dict[str, Any]:
        return {}


Result: TypeAlias = "PaletteMade | FilesMade | ShelfFilled"


@dataclass(frozen=True)
class JobKind(Generic[Request]):
    """A kind of long work.

    document : how its request is stored; result : what it gives; work : does it; again : the request when it is retried
    pictures : how many results it will have, where those are counted
    """

    id: str
    document: Kind[Request]
    result: type[PaletteMade] | type[FilesMade] | type[ShelfFilled]
    work: Callable[[Turn, Request], None]
    pictures: Callable[[Request], int] = _none
    can_again: bool = True
    """Whether it can be done again once it has failed or was called off: not where it worked on a file that is gone then."""
    again: Callable[[Request, Job], Request] = _the_same

    def request_of(self, job: Job) -> Request:
        """What a job was asked for. Raises `BadDocument` where that cannot be understood any more."""
        return self.document.understand(job.request).value

    def written(self, request: Request) -> dict[str, Any]:
        return self.document.stamped(request.model_dump(mode="json"))


KINDS: Registry[JobKind[Any]] = Registry("kind of job")
"""Registered where the work is defined."""


def _defer(job: Job) -> None:
    # Named rather than imported: the task imports this module.
    app.configure_task("work_on", queue="jobs").defer(job=str(job.pk))


def begun_by(user: User, once: UUID) -> Job | None:
    """The job that a wish has begun already, whatever has become of it."""
    return visible(user, Job).filter(pk=once).first()


@transaction.atomic
def start(
    user: User, kind: JobKind[Request], label: str, request: Request, palette: UUID | None = None, once: UUID | None = None
) -> Job:
    """Ask for a job; a worker takes it up as soon as one is free. once : the id of the wish for it, which becomes the job's."""
    quotas.hold(user)
    if once is not None and Job.objects.filter(pk=once).exists():
        begun = begun_by(user, once)
        if begun is None:
            raise BadInput("This wish has an id that is another's. Make a new one for each.")
        return begun
    most = bounds.QUOTA.jobs
    if visible(user, Job).filter(state__in=OPEN).count() >= most:
        raise BadInput(f"{most} jobs are waiting already. Let some end, or cancel them.")
    job = Job.objects.create(
        id=once or uuid4(), owner_id=key_of(user), kind=kind.id, label=label[:500], request=kind.written(request), palette_id=palette
    )
    _defer(job)
    return job


@transaction.atomic
def cancel(user: User, job_id: UUID) -> Job:
    """Call a job off. One that has ended stays as it is."""
    job = find(user, Job, job_id, "change", lock=True)
    if job.state in OPEN:
        made = job.results.filter(problem="").count()
        job.state = JobState.CANCELLED
        job.step = f"Called off; {made} of {wanted_of(job)} are finished and kept." if made else "Called off; nothing was changed."
        job.save(update_fields=["state", "step", "changed"])
        let_go_of_file(job.pk)
    return job


def go_on(job: Job) -> None:
    """Let a job whose row is held be worked on once more, where it has ended."""
    if job.state in OPEN:
        return
    job.state, job.step, job.attempts = JobState.WAITING, "", 0
    job.save(update_fields=["state", "step", "attempts", "changed"])
    _defer(job)


@transaction.atomic
def retry(user: User, job_id: UUID) -> Job:
    """Do a failed or cancelled job again, on the palette as it is now; what a batch has made already is kept."""
    job = find(user, Job, job_id, "change", lock=True)
    if job.state not in (JobState.FAILED, JobState.CANCELLED):
        raise BadInput("Only work that failed or was called off can be done again.")
    kind = KINDS[job.kind]
    if not kind.can_again:
        raise BadInput("The file that was sent for this is not kept any more. Send it once more.")
    job.request = kind.written(kind.again(kind.request_of(job), job))
    job.state, job.step, job.share, job.attempts = JobState.WAITING, "", 0.0, 0
    job.save(update_fields=["request", "state", "step", "share", "attempts", "changed"])
    _defer(job)
    return job


@transaction.atomic
def clear(user: User, job_id: UUID) -> None:
    """Forget a job that has ended, with the files of a batch."""
    job = find(user, Job, job_id, "change", lock=True)
    if job.state in OPEN:
        raise BadInput("This is still being worked on. Cancel it first.")
    job.delete()


def _take_up(job_id: UUID) -> Turn | None:
    with transaction.atomic():
        job = Job.objects.select_for_update().select_related("owner").filter(pk=job_id, state__in=OPEN).first()
        if job is None:
            return None
        if job.attempts >= MOST_ATTEMPTS:
            job.state, job.step = JobState.FAILED, STOPPED_TWICE
            job.save(update_fields=["state", "step", "changed"])
            let_go_of_file(job.pk)
            return None
        step = TAKEN_UP_AGAIN if job.attempts else "beginning"
        job.state, job.attempts, job.step, job.share = JobState.WORKING, job.attempts + 1, step, 0.0
        job.save(update_fields=["state", "attempts", "step", "share", "changed"])
        return Turn(job)


def work(job_id: UUID) -> None:
    """Do one job to its end, as a worker does. What goes wrong is said in the job's row."""
    turn = _take_up(job_id)
    if turn is None:
        return
    try:
        kind = KINDS[turn.job.kind]
        with GATE.patiently():
            kind.work(turn, kind.request_of(turn.job))
    except Stopped:
        _give_back(turn)
    except Cancelled:
        return
    except HuvrenError as error:
        _fail(turn, f"{error}{_finished(turn)}")
    except Exception as error:
        if is_database_away(error):
            # Nothing can be said of it now. It stays open, and is put into the queue again.
            raise
        if is_disk_full(error):
            _fail(turn, f"{FULL_DISK}{_finished(turn)}")
        else:
            kept = _finished(turn) or " Nothing was changed."
            _fail(turn, f"Something went wrong that nobody thought of.{kept} The server's log says more.")
        raise


NOT_QUEUED = """
SELECT j.id FROM studio_job j WHERE j.state IN ('waiting', 'working') AND j.changed < now() - interval '20 seconds' AND NOT EXISTS (
  SELECT 1 FROM procrastinate_jobs q WHERE q.task_name = 'work_on' AND q.status IN ('todo', 'doing') AND q.args->>'job' = j.id::text)
"""


def queue_what_is_not() -> None:
    """Whatever is open and yet not in the queue, as after a database that went away in the middle, is put there again."""
    with connection.cursor() as cursor:
        cursor.execute(NOT_QUEUED)
        rows = cursor.fetchall()
    for (pk,) in rows:
        app.configure_task("work_on", queue="jobs").defer(job=str(pk))


def _finished(turn: Turn) -> str:
    """What a batch that breaks off has finished, in a sentence; empty where that is nothing."""
    made = turn.job.results.filter(problem="").count()
    return f" {made} of {wanted_of(turn.job)} are finished and kept." if made else ""


@transaction.atomic
def _give_back(turn: Turn) -> None:
    """Let another worker begin the job anew; this turn does not count."""
    mine = Job.objects.filter(pk=turn.job.pk, state=JobState.WORKING, attempts=turn.job.attempts)
    if mine.update(state=JobState.WAITING, attempts=turn.job.attempts - 1, step="", share=0.0, changed=timezone.now()):
        _defer(turn.job)


@transaction.atomic
def _fail(turn: Turn, message: str) -> None:
    mine = Job.objects.filter(pk=turn.job.pk, state=JobState.WORKING, attempts=turn.job.attempts)
    if mine.update(state=JobState.FAILED, step=message[:500], changed=timezone.now()):
        let_go_of_file(turn.job.pk)


@contextlib.contextmanager
def file_of(job: Job) -> Iterator[IO[bytes]]:
    """The file that was sent for a job to work on."""
    with tempfile.TemporaryFile() as file:
        for piece in JobFile.objects.filter(job=job).iterator(chunk_size=1):
            file.write(piece.data)
        file.seek(0)
        yield file


def can_again(job: Job) -> bool:
    """Whether an artist may have it done again."""
    kind = KINDS.get(job.kind)
    return job.state in (JobState.FAILED, JobState.CANCELLED) and kind is not None and kind.can_again


def wanted_of(job: Job) -> int:
    """How many pictures a batch was asked for; 0 for other jobs and for one that is not understood any more."""
    kind = KINDS.get(job.kind)
    try:
        return 0 if kind is None else kind.pictures(kind.request_of(job))
    except BadDocument:
        return 0


def listed(user: User) -> Sequence[Job]:
    """The artist's newest jobs, newest first, with how many results a batch has as `made`."""
    return list(visible(user, Job).annotate(made=Count("results")).order_by("-created")[:MOST_LISTED])
